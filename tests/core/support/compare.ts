import type { Attribute, Character, Influences, Mesh } from '@/core/character/model';

/**
 * Where two characters differ in anything that a file carries: attributes bitwise, polygons up to turning,
 * weights joint by joint.
 */
export function structuralDifferences(a: Character, b: Character): string[] {
  const out: string[] = [];
  const same = (what: string, x: unknown, y: unknown) => {
    if (JSON.stringify(x) !== JSON.stringify(y))
      out.push(`${what}: ${JSON.stringify(x)?.slice(0, 120)} ≠ ${JSON.stringify(y)?.slice(0, 120)}`);
  };
  const array = (what: string, x: ArrayLike<number>, y: ArrayLike<number>) => {
    if (x.length !== y.length) {
      out.push(`${what}: ${x.length} numbers ≠ ${y.length}`);
      return;
    }
    for (let i = 0; i < x.length; i++)
      if (!Object.is(x[i], y[i]) && !(x[i] === 0 && y[i] === 0)) {
        out.push(`${what}[${i}]: ${x[i]} ≠ ${y[i]}`);
        return;
      }
  };
  const attributes = (
    what: string,
    x: Readonly<Record<string, Attribute>>,
    y: Readonly<Record<string, Attribute>>,
  ) => {
    same(`${what} names`, Object.keys(x).sort(), Object.keys(y).sort());
    for (const key of Object.keys(x)) {
      if (!y[key]) continue;
      same(
        `${what} ${key}`,
        [x[key].size, x[key].normalized, x[key].data.constructor.name],
        [y[key].size, y[key].normalized, y[key].data.constructor.name],
      );
      array(`${what} ${key}`, x[key].data, y[key].data);
    }
  };
  same('nodes', a.nodes, b.nodes);
  same(
    'carried',
    {
      ...a.carried,
      images: a.carried.images.map((image) => image.json),
      asset: { ...a.carried.asset, generator: '' },
    },
    {
      ...b.carried,
      images: b.carried.images.map((image) => image.json),
      asset: { ...b.carried.asset, generator: '' },
    },
  );
  a.carried.images.forEach((im, i) =>
    array(`picture ${i}`, im.bytes ?? [], b.carried.images[i]?.bytes ?? []),
  );
  same(
    'counts',
    [a.meshes.length, a.skins.length, a.clips.length],
    [b.meshes.length, b.skins.length, b.clips.length],
  );
  a.meshes.forEach((mesh, i) => {
    const otherMesh = b.meshes[i];
    if (!otherMesh) return;
    same(
      `mesh ${i}`,
      [mesh.name, mesh.vertexCount, mesh.pieces, mesh.extras, mesh.extensions, mesh.morphWeights],
      [
        otherMesh.name,
        otherMesh.vertexCount,
        otherMesh.pieces,
        otherMesh.extras,
        otherMesh.extensions,
        otherMesh.morphWeights,
      ],
    );
    attributes(`mesh ${i}`, mesh.attributes, otherMesh.attributes);
    mesh.morphs.forEach((morph, k) =>
      attributes(`mesh ${i} morph ${k}`, morph.attributes, otherMesh.morphs[k]?.attributes ?? {}),
    );
    same(`mesh ${i} polygons`, polygons(mesh), polygons(otherMesh));
    if (mesh.influences && otherMesh.influences)
      array(`mesh ${i} weights`, rows(mesh.influences), rows(otherMesh.influences));
    else same(`mesh ${i} bound`, !!mesh.influences, !!otherMesh.influences);
  });
  a.skins.forEach((skin, i) => {
    same(
      `skin ${i}`,
      [skin.name, skin.joints, skin.skeleton],
      [b.skins[i]?.name, b.skins[i]?.joints, b.skins[i]?.skeleton],
    );
    array(`skin ${i} inverse binds`, skin.inverseBinds, b.skins[i]?.inverseBinds ?? []);
  });
  a.clips.forEach((clip, i) =>
    clip.channels.forEach((ch, k) => {
      const other = b.clips[i]?.channels[k];
      same(
        `clip ${i} channel ${k}`,
        [clip.name, ch.node, ch.path, ch.interpolation],
        [b.clips[i]?.name, other?.node, other?.path, other?.interpolation],
      );
      array(`clip ${i} channel ${k} times`, ch.times, other?.times ?? []);
      array(`clip ${i} channel ${k} values`, ch.values, other?.values ?? []);
    }),
  );
  return out;
}

/** Every polygon turned to start at its smallest corner, sorted. */
function polygons(mesh: Mesh): string {
  const out: string[] = [];
  for (let polygon = 0; polygon + 1 < mesh.polygonOffsets.length; polygon++) {
    const row = Array.from(
      mesh.corners.subarray(mesh.polygonOffsets[polygon], mesh.polygonOffsets[polygon + 1]),
    );
    const at = row.indexOf(Math.min(...row));
    out.push([...row.slice(at), ...row.slice(0, at)].join(' '));
  }
  return out.sort().join('|');
}

/** Weights as vertex, joint, weight, sorted by joint within each vertex. */
function rows(influences: Influences): number[] {
  const out: number[] = [];
  for (let vertex = 0; vertex + 1 < influences.offsets.length; vertex++) {
    const row = [];
    for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++)
      row.push([influences.joint[k], influences.weight[k]]);
    row.sort((x, y) => x[0] - y[0]);
    for (const [j, w] of row) out.push(vertex, j, w);
  }
  return out;
}

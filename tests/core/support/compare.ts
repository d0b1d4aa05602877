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
    for (const k of Object.keys(x)) {
      if (!y[k]) continue;
      same(
        `${what} ${k}`,
        [x[k].size, x[k].normalized, x[k].data.constructor.name],
        [y[k].size, y[k].normalized, y[k].data.constructor.name],
      );
      array(`${what} ${k}`, x[k].data, y[k].data);
    }
  };
  same('nodes', a.nodes, b.nodes);
  same(
    'carried',
    {
      ...a.carried,
      images: a.carried.images.map((i) => i.json),
      asset: { ...a.carried.asset, generator: '' },
    },
    {
      ...b.carried,
      images: b.carried.images.map((i) => i.json),
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
  a.meshes.forEach((m, i) => {
    const n = b.meshes[i];
    if (!n) return;
    same(
      `mesh ${i}`,
      [m.name, m.vertexCount, m.pieces, m.extras, m.extensions, m.morphWeights],
      [n.name, n.vertexCount, n.pieces, n.extras, n.extensions, n.morphWeights],
    );
    attributes(`mesh ${i}`, m.attributes, n.attributes);
    m.morphs.forEach((t, k) =>
      attributes(`mesh ${i} morph ${k}`, t.attributes, n.morphs[k]?.attributes ?? {}),
    );
    same(`mesh ${i} polygons`, polygons(m), polygons(n));
    if (m.influences && n.influences) array(`mesh ${i} weights`, rows(m.influences), rows(n.influences));
    else same(`mesh ${i} bound`, !!m.influences, !!n.influences);
  });
  a.skins.forEach((s, i) => {
    same(
      `skin ${i}`,
      [s.name, s.joints, s.skeleton],
      [b.skins[i]?.name, b.skins[i]?.joints, b.skins[i]?.skeleton],
    );
    array(`skin ${i} inverse binds`, s.inverseBinds, b.skins[i]?.inverseBinds ?? []);
  });
  a.clips.forEach((c, i) =>
    c.channels.forEach((ch, k) => {
      const other = b.clips[i]?.channels[k];
      same(
        `clip ${i} channel ${k}`,
        [c.name, ch.node, ch.path, ch.interpolation],
        [b.clips[i]?.name, other?.node, other?.path, other?.interpolation],
      );
      array(`clip ${i} channel ${k} times`, ch.times, other?.times ?? []);
      array(`clip ${i} channel ${k} values`, ch.values, other?.values ?? []);
    }),
  );
  return out;
}

/** Every polygon turned to start at its smallest corner, sorted. */
function polygons(m: Mesh): string {
  const out: string[] = [];
  for (let p = 0; p + 1 < m.polygonOffsets.length; p++) {
    const row = Array.from(m.corners.subarray(m.polygonOffsets[p], m.polygonOffsets[p + 1]));
    const at = row.indexOf(Math.min(...row));
    out.push([...row.slice(at), ...row.slice(0, at)].join(' '));
  }
  return out.sort().join('|');
}

/** Weights as vertex, joint, weight, sorted by joint within each vertex. */
function rows(f: Influences): number[] {
  const out: number[] = [];
  for (let v = 0; v + 1 < f.offsets.length; v++) {
    const row = [];
    for (let k = f.offsets[v]; k < f.offsets[v + 1]; k++) row.push([f.joint[k], f.weight[k]]);
    row.sort((x, y) => x[0] - y[0]);
    for (const [j, w] of row) out.push(v, j, w);
  }
  return out;
}

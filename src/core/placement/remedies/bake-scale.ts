import { number, object } from 'yup';
import { type Remedy, RemedyError } from '../../audit/types';
import { ancestorsOf, restWorld } from '../../character/hierarchy';
import { type Attribute, type Channel, type Character, type Mesh, type SceneNode, replaced } from '../../character/model';
import { compose, decompose, determinant3, inverseOr, invertAffine, times } from '../../geometry/matrix';

/**
 * Puts the scale of one node, and of all that hangs below it, into the points: nodes end at scale 1, everything stays where
 * it is. Below an even scale the deformation in every pose stays the same; below an uneven one it is the same at rest.
 * Normals go with the inverse transpose, a mirror turns the faces back outside, inverse binds and clip translations follow.
 */
export const bakeScale: Remedy<{ node: number }> = {
  id: 'bake-scale', room: 'placement', title: 'Bake the scale into the points',
  does: 'The node and all below it read 1; points, normals, inverse binds and clips take the scale, so that nothing moves.',
  params: object({ node: number().integer().min(0).required() }),
  preview(character, params) {
    const after = bakeScale.apply(character, params, undefined as never);
    const text = (c: Character) => decompose(localOf(c.nodes[params.node])).scale.map((x) => Number(x.toPrecision(4))).join(' × ');
    const scaled = (c: Character) => c.nodes.filter((n) => decompose(localOf(n)).scale.some((s) => Math.abs(s - 1) > 1e-4)).length;
    return [
      { label: 'Scale of the node', before: text(character), after: text(after), unit: '×' },
      { label: 'Nodes with a scale', before: scaled(character), after: scaled(after), unit: 'nodes' },
      { label: 'Meshes whose points change', before: '—', after: after.meshes.filter((m, i) => m !== character.meshes[i]).length, unit: 'meshes' },
    ];
  },
  apply(character, { node: top }) {
    const { nodes } = character;
    if (!nodes[top]) throw new RemedyError(`There is no node ${top} to bake; run the audit again.`);
    const world = restWorld(nodes);
    const above = nodes[top].parent >= 0 ? inverseOr(world, nodes[top].parent * 16) : null;
    const inside = nodes.map((_, i) => i === top || ancestorsOf(nodes, i).includes(top));
    // Everything is seen from the space above the baked node: old is the matrix there, rigid what is left of it, bake = rigid⁻¹ · old.
    const old: Float64Array[] = [], rigid: Float64Array[] = [], bake: Float64Array[] = [];
    nodes.forEach((_, i) => {
      if (!inside[i]) return;
      const w = world.subarray(i * 16, i * 16 + 16);
      old[i] = above ? times(above, w) : Float64Array.from(w);
      if (Math.abs(determinant3(old[i])) < 1e-12) throw new RemedyError(`“${nodes[i].name}” is scaled to nothing; a scale of 0 cannot be baked. Delete the node or give it a size.`);
      const parts = decompose(old[i]);
      rigid[i] = new Float64Array(16);
      compose(rigid[i], 0, parts.translation, parts.rotation, [1, 1, 1]);
      bake[i] = times(inverseOr(rigid[i]), old[i]);
    });

    const changedNodes = new Map<number, SceneNode>();
    nodes.forEach((n, i) => {
      if (!inside[i]) return;
      const local = i === top ? rigid[i] : times(inverseOr(rigid[n.parent]), rigid[i]);
      const { translation, rotation } = decompose(local);
      const { matrix: _matrix, ...rest } = n;
      changedNodes.set(i, { ...rest, translation, rotation, scale: [1, 1, 1] });
    });

    const meshes = [...character.meshes];
    const bakedAs = new Map<string, number>();
    nodes.forEach((n, i) => {
      const bound = n.skin >= 0 && character.meshes[n.mesh]?.influences;
      if (!inside[i] || n.mesh < 0 || bound) return;
      if (isIdentity(bake[i])) return;
      const users = nodes.filter((m) => m.mesh === n.mesh).length;
      const key = `${n.mesh}:${Array.from(bake[i], (x) => x.toFixed(9)).join()}`;
      let at = bakedAs.get(key);
      if (at === undefined) {
        const baked = bakeMesh(character.meshes[n.mesh], bake[i]);
        at = users === 1 ? n.mesh : meshes.push(baked) - 1;
        meshes[at] = baked;
        bakedAs.set(key, at);
      }
      changedNodes.set(i, { ...(changedNodes.get(i) as SceneNode), mesh: at });
    });

    const skins = character.skins.map((s) => {
      if (!s.joints.some((j) => inside[j] && !isIdentity(bake[j]))) return s;
      const inverseBinds = Float64Array.from(s.inverseBinds);
      s.joints.forEach((j, k) => { if (inside[j]) inverseBinds.set(times(bake[j], s.inverseBinds, 0, k * 16), k * 16); });
      return { ...s, inverseBinds };
    });
    const clips = character.clips.map((clip) => {
      if (!clip.channels.some((ch) => inside[ch.node])) return clip;
      return { ...clip, channels: clip.channels.map((ch) => (inside[ch.node] ? bakeChannel(ch, nodes[ch.node], ch.node === top ? null : bake[nodes[ch.node].parent]) : ch)) };
    });
    return { ...character, nodes: replaced(nodes, changedNodes), meshes, skins, clips };
  },
};

function localOf(n: SceneNode): Float64Array {
  if (n.matrix) return Float64Array.from(n.matrix);
  const out = new Float64Array(16);
  compose(out, 0, n.translation, n.rotation, n.scale);
  return out;
}

const isIdentity = (m: Float64Array) => m.every((x, i) => Math.abs(x - (i % 5 === 0 ? 1 : 0)) < 1e-9);

/** Points by the matrix, normals by its inverse transpose, tangents by its linear part; a mirror reverses every polygon. */
function bakeMesh(mesh: Mesh, m: Float64Array): Mesh {
  const inverse = invertAffine(m) ?? m;
  const mirror = determinant3(m) < 0;
  const point = (a: Attribute, w: number): Attribute => mapped(a, (x, y, z) => [m[0] * x + m[4] * y + m[8] * z + w * m[12], m[1] * x + m[5] * y + m[9] * z + w * m[13], m[2] * x + m[6] * y + m[10] * z + w * m[14]]);
  const normal = (a: Attribute): Attribute => mapped(a, (x, y, z) => unit(inverse[0] * x + inverse[1] * y + inverse[2] * z, inverse[4] * x + inverse[5] * y + inverse[6] * z, inverse[8] * x + inverse[9] * y + inverse[10] * z));
  const tangent = (a: Attribute): Attribute => mapped(a, (x, y, z) => unit(m[0] * x + m[4] * y + m[8] * z, m[1] * x + m[5] * y + m[9] * z, m[2] * x + m[6] * y + m[10] * z), mirror);
  const by = (name: string, a: Attribute, w: number) => (name === 'POSITION' ? point(a, w) : name === 'NORMAL' && w === 1 ? normal(a) : name === 'NORMAL' ? point(a, 0) : name === 'TANGENT' ? tangent(a) : a);
  const attributes = Object.fromEntries(Object.entries(mesh.attributes).map(([k, a]) => [k, by(k, a, 1)]));
  const morphs = mesh.morphs.map((t) => ({ attributes: Object.fromEntries(Object.entries(t.attributes).map(([k, a]) => [k, by(k, a, 0)])) }));
  let corners = mesh.corners;
  if (mirror) {
    corners = corners.slice();
    for (let p = 0; p + 1 < mesh.polygonOffsets.length; p++) corners.subarray(mesh.polygonOffsets[p] + 1, mesh.polygonOffsets[p + 1]).reverse();
  }
  return { ...mesh, attributes, morphs, corners };
}

function unit(x: number, y: number, z: number): [number, number, number] {
  const l = Math.hypot(x, y, z) || 1;
  return [x / l, y / l, z / l];
}

function mapped(a: Attribute, f: (x: number, y: number, z: number) => [number, number, number], flipW = false): Attribute {
  const scale = a.data instanceof Float32Array ? 1 : a.data instanceof Int8Array ? 127 : a.data instanceof Int16Array ? 32767 : 1;
  const data = a.data.slice();
  for (let i = 0; i + 2 < data.length; i += a.size) {
    const r = f(data[i] / scale, data[i + 1] / scale, data[i + 2] / scale);
    for (let k = 0; k < 3; k++) data[i + k] = scale === 1 ? r[k] : Math.round(r[k] * scale);
    if (flipW && a.size === 4) data[i + 3] = -data[i + 3];
  }
  return { ...a, data };
}

/** Clip values in the space of a parent whose scale is gone: translations take it, scales are measured from the rest. */
function bakeChannel(ch: Channel, n: SceneNode, parentBake: Float64Array | null): Channel {
  if (ch.path === 'scale') {
    const rest = decompose(localOf(n)).scale;
    return { ...ch, values: ch.values.map((x, i) => x / (rest[i % 3] || 1)) };
  }
  if (ch.path !== 'translation' || !parentBake) return ch;
  const values = ch.values.slice();
  for (let i = 0; i + 2 < values.length; i += 3) {
    const [x, y, z] = [ch.values[i], ch.values[i + 1], ch.values[i + 2]];
    for (let r = 0; r < 3; r++) values[i + r] = parentBake[r] * x + parentBake[4 + r] * y + parentBake[8 + r] * z;
  }
  return { ...ch, values };
}

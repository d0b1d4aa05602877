import { object } from 'yup';
import { refTo } from '../../../contracts/params';
import { type Aspect } from '../../../contracts/aspect';
import { RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { branchOf, localOf, restWorld } from '../../../character/hierarchy';
import { type Channel, type Character, type SceneNode, replaceAt } from '../../../character/model';
import { compose, decompose, determinant3, inverseOr, times } from '../../../geometry/matrix';
import { bakedMesh, isIdentity } from '../baked';
import { bindsOf, withPointsThrough } from '../bind';

/**
 * Puts the scale of one node, and of all that hangs below it, into the points: nodes end at scale 1,
 * everything stays where it is. Below an even scale the deformation in every pose stays the same; below an
 * uneven one it is the same at rest. Normals go with the inverse transpose, a mirror turns the faces back
 * outside, inverse binds and clips follow; where all joints of a skin then carry the same scale in their
 * binds, that too goes into the points.
 */
export const bakeScale = defineRemedy({
  id: 'bake-scale',
  room: 'placement',
  title: 'Bake the scale into the points',
  does: 'The node and all below it read 1; points, normals, inverse binds and clips take the scale, so that nothing moves.',
  params: object({ node: refTo('node', 'Node') }),
  rows(character, { node }) {
    const scales = character.nodes.map((n) => decompose(localOf(n)).scale);
    return [
      { label: 'Scale of the node', value: scaleText(scales[node] ?? []), unit: '×' },
      {
        label: 'Nodes with a scale',
        value: scales.filter((s) => s.some((x) => Math.abs(x - 1) > 1e-4)).length,
        unit: 'nodes',
      },
    ];
  },
  apply: (character, { node }) => bakeNodeScale(character, node),
  promises: (character, { node }) =>
    promise(BAKED_ASPECTS, { holds: hasEvenScales(character, node) ? 'in every pose' : 'at rest' }),
});

/** What baking a scale changes; a mesh that several nodes show becomes one of its own for this one. */
export const BAKED_ASPECTS: readonly Aspect[] = [
  'places',
  'points',
  'shading',
  'polygons',
  'morphs',
  'binds',
  'clips',
  'shows',
];

const scaleText = (scale: readonly number[]) => scale.map((x) => Number(x.toPrecision(4))).join(' × ');

/** True where no node from `top` down has an uneven scale or shear. */
function hasEvenScales(character: Character, top: number): boolean {
  const inside = branchOf(character.nodes, [top]);
  return character.nodes.every((n, i) => {
    if (!inside[i]) return true;
    const { scale, shear } = decompose(localOf(n));
    const sizes = scale.map(Math.abs);
    return shear < 1e-6 && Math.max(...sizes) - Math.min(...sizes) < 1e-6 * Math.max(...sizes);
  });
}

/** The work of {@link bakeScale}, for remedies that bake along with something else. Throws RemedyError. */
export function bakeNodeScale(character: Character, top: number): Character {
  const { nodes } = character;
  if (!nodes[top]) throw new RemedyError(`There is no node ${top} to bake; run the audit again.`);
  const world = restWorld(nodes);
  const above = nodes[top].parent >= 0 ? inverseOr(world, nodes[top].parent * 16) : null;
  const inside = branchOf(nodes, [top]);
  // Everything is seen from the space above the baked node: old is the matrix there, rigid what is left of
  // it, bake = rigid⁻¹ · old.
  const old: Float64Array[] = [];
  const rigid: Float64Array[] = [];
  const bake: Float64Array[] = [];
  nodes.forEach((_, i) => {
    if (!inside[i]) return;
    const w = world.subarray(i * 16, i * 16 + 16);
    old[i] = above ? times(above, w) : Float64Array.from(w);
    if (Math.abs(determinant3(old[i])) < 1e-12)
      throw new RemedyError(
        `“${nodes[i].name}” is scaled to nothing; a scale of 0 cannot be baked. Delete the node or give it a size.`,
      );
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
      const baked = bakedMesh(character.meshes[n.mesh], bake[i]);
      at = users === 1 ? n.mesh : meshes.push(baked) - 1;
      meshes[at] = baked;
      bakedAs.set(key, at);
    }
    changedNodes.set(i, { ...(changedNodes.get(i) as SceneNode), mesh: at });
  });

  const skins = character.skins.map((s) => {
    if (!s.joints.some((j) => inside[j] && !isIdentity(bake[j]))) return s;
    const inverseBinds = Float64Array.from(s.inverseBinds);
    s.joints.forEach((j, k) => {
      if (inside[j]) inverseBinds.set(times(bake[j], s.inverseBinds, 0, k * 16), k * 16);
    });
    return { ...s, inverseBinds };
  });
  const clips = character.clips.map((clip) => {
    if (!clip.channels.some((ch) => inside[ch.node])) return clip;
    return {
      ...clip,
      channels: clip.channels.map((ch) =>
        inside[ch.node]
          ? bakeChannel(ch, nodes[ch.node], ch.node === top ? null : bake[nodes[ch.node].parent])
          : ch,
      ),
    };
  });
  const baked: Character = { ...character, nodes: replaceAt(nodes, changedNodes), meshes, skins, clips };
  return skins.reduce((c, s, i) => (s === character.skins[i] ? c : settleScale(c, i)), baked);
}

/** A skin whose joints all agree on one scale of the whole mesh: the points take it. */
function settleScale(character: Character, skin: number): Character {
  const { common, joints } = bindsOf(character)[skin];
  if (
    isIdentity(common, 1e-7) ||
    joints.some((j) => j.apart > 1e-4) ||
    Math.abs(determinant3(common)) < 1e-12
  )
    return character;
  return withPointsThrough(character, skin, common);
}

/**
 * Clip values in the space of a parent whose scale is gone: translations take it, scales are measured from
 * the rest.
 */
function bakeChannel(ch: Channel, n: SceneNode, parentBake: Float64Array | null): Channel {
  if (ch.path === 'scale') {
    const rest = decompose(localOf(n)).scale;
    return { ...ch, values: ch.values.map((x, i) => x / (rest[i % 3] || 1)) };
  }
  if (!parentBake) return ch;
  if (ch.path === 'rotation') {
    if (determinant3(parentBake) > 0) return ch;
    // Below a mirror across x a turn goes the other way about y and z.
    return { ...ch, values: ch.values.map((x, i) => (i % 4 === 1 || i % 4 === 2 ? -x : x)) };
  }
  if (ch.path !== 'translation') return ch;
  const values = ch.values.slice();
  for (let i = 0; i + 2 < values.length; i += 3) {
    const [x, y, z] = [ch.values[i], ch.values[i + 1], ch.values[i + 2]];
    for (let r = 0; r < 3; r++)
      values[i + r] = parentBake[r] * x + parentBake[4 + r] * y + parentBake[8 + r] * z;
  }
  return { ...ch, values };
}

/** The scale of nodes put into the points of what hangs below them. */
import { compose, decompose, determinant3, inverseOr, times } from '../geometry/matrix';
import { bakedMesh, isIdentity } from './baked';
import { bindsOf, withPointsThrough } from './bind';
import { branchOf, localOf, restWorld } from './hierarchy';
import { type Channel, type Character, type SceneNode, replaceAt } from './model';

/** True where no node from `top` down has an uneven scale or shear. */
export function hasEvenScales(character: Character, top: number): boolean {
  const inside = branchOf(character.nodes, [top]);
  return character.nodes.every((node, i) => {
    if (!inside[i]) return true;
    const { scale, shear } = decompose(localOf(node));
    const sizes = scale.map(Math.abs);
    return shear < 1e-6 && Math.max(...sizes) - Math.min(...sizes) < 1e-6 * Math.max(...sizes);
  });
}

/** A scale that cannot be put into points; the message says which and what to do. */
export class ScaleError extends Error {}

/**
 * Puts the scale of one node, and of all that hangs below it, into the points: nodes end at scale 1, everything stays
 * where it is. Throws {@link ScaleError}.
 */
export function bakeNodeScale(character: Character, top: number): Character {
  const { nodes } = character;
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
      throw new ScaleError(
        `“${nodes[i].name}” is scaled to nothing; a scale of 0 cannot be baked. Delete the node or give it a size.`,
      );
    const parts = decompose(old[i]);
    rigid[i] = new Float64Array(16);
    compose(rigid[i], 0, parts.translation, parts.rotation, [1, 1, 1]);
    bake[i] = times(inverseOr(rigid[i]), old[i]);
  });

  const changedNodes = new Map<number, SceneNode>();
  nodes.forEach((node, i) => {
    if (!inside[i]) return;
    const local = i === top ? rigid[i] : times(inverseOr(rigid[node.parent]), rigid[i]);
    const { translation, rotation } = decompose(local);
    const { matrix: _matrix, ...rest } = node;
    changedNodes.set(i, { ...rest, translation, rotation, scale: [1, 1, 1] });
  });

  const meshes = [...character.meshes];
  const bakedAs = new Map<string, number>();
  nodes.forEach((node, i) => {
    const bound = node.skin >= 0 && character.meshes[node.mesh]?.influences;
    if (!inside[i] || node.mesh < 0 || bound) return;
    if (isIdentity(bake[i])) return;
    const users = nodes.filter((user) => user.mesh === node.mesh).length;
    const key = `${node.mesh}:${Array.from(bake[i], (x) => x.toFixed(9)).join()}`;
    let at = bakedAs.get(key);
    if (at === undefined) {
      const baked = bakedMesh(character.meshes[node.mesh], bake[i]);
      at = users === 1 ? node.mesh : meshes.push(baked) - 1;
      meshes[at] = baked;
      bakedAs.set(key, at);
    }
    changedNodes.set(i, { ...(changedNodes.get(i) as SceneNode), mesh: at });
  });

  const skins = character.skins.map((skin) => {
    if (!skin.joints.some((j) => inside[j] && !isIdentity(bake[j]))) return skin;
    const inverseBinds = Float64Array.from(skin.inverseBinds);
    skin.joints.forEach((j, k) => {
      if (inside[j]) inverseBinds.set(times(bake[j], skin.inverseBinds, 0, k * 16), k * 16);
    });
    return { ...skin, inverseBinds };
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
  return skins.reduce(
    (settled, skin, i) => (skin === character.skins[i] ? settled : settleScale(settled, i)),
    baked,
  );
}

/** A skin whose joints all agree on one scale of the whole mesh: the points take it. */
function settleScale(character: Character, skin: number): Character {
  const { common, joints } = bindsOf(character)[skin];
  if (
    isIdentity(common, 1e-7) ||
    joints.some((joint) => joint.apart > 1e-4) ||
    Math.abs(determinant3(common)) < 1e-12
  )
    return character;
  return withPointsThrough(character, skin, common);
}

/**
 * Clip values in the space of a parent whose scale is gone: translations take it, scales are measured from
 * the rest.
 */
function bakeChannel(ch: Channel, node: SceneNode, parentBake: Float64Array | null): Channel {
  if (ch.path === 'scale') {
    const rest = decompose(localOf(node)).scale;
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
    for (let row = 0; row < 3; row++)
      values[i + row] = parentBake[row] * x + parentBake[4 + row] * y + parentBake[8 + row] * z;
  }
  return { ...ch, values };
}

/** Scales nearer to one than this are one. */
const ONE = 1e-6;

/**
 * A character whose trees of bones are without scale: what stood scaled by its ancestors keeps its size by its points.
 * The same character where nothing is scaled; a tree with an uneven scale, which no bake keeps in every pose, stays.
 */
export function withoutBoneScales(character: Character): Character {
  const { nodes } = character;
  const tops = nodes.flatMap((node, i) => (node.parent < 0 ? [i] : []));
  return tops.reduce((character, top) => {
    const inside = branchOf(character.nodes, [top]);
    const hasBones = character.nodes.some((node, i) => inside[i] && node.kind === 'bone');
    const isScaled = character.nodes.some(
      (node, i) => inside[i] && decompose(localOf(node)).scale.some((x) => Math.abs(x - 1) > ONE),
    );
    return hasBones && isScaled && hasEvenScales(character, top) ? bakeNodeScale(character, top) : character;
  }, character);
}

import { decompose, inverseOr, quatConjugate, quatMultiply, quatRotate, times } from '../geometry/matrix';
import { restWorld } from './hierarchy';
import { type Channel, type Character, type SceneNode, replaceAt } from './model';

/** The node's local transform replaced by the given matrix; kept as a matrix only where it is sheared. */
export function withLocal(node: SceneNode, local: Float64Array): SceneNode {
  const parts = decompose(local);
  const { matrix: _matrix, ...rest } = node;
  if (parts.shear > 1e-7)
    return {
      ...rest,
      translation: [0, 0, 0],
      rotation: [0, 0, 0, 1],
      scale: [1, 1, 1],
      matrix: Array.from(local),
    };
  const scale = parts.scale.map((factor) => (Math.abs(factor - 1) < 1e-9 ? 1 : factor));
  return { ...rest, translation: parts.translation, rotation: parts.rotation, scale };
}

/** The node's local transform that keeps it at its world place under another parent (−1 for none). */
export function hungUnder(character: Character, node: number, parent: number): SceneNode {
  const world = restWorld(character.nodes);
  const own = world.slice(node * 16, node * 16 + 16);
  const local = parent < 0 ? own : times(inverseOr(world, parent * 16), own);
  return { ...withLocal(character.nodes[node], local), parent };
}

/** The character with a node under another parent (−1 for none), where it stands; clips keep what they do relative to rest. */
export function rehung(character: Character, node: number, parent: number): Character {
  const before = character.nodes[node];
  const after = hungUnder(character, node, parent);
  const clips = character.clips.map((clip) =>
    clip.channels.some((ch) => ch.node === node)
      ? {
          ...clip,
          channels: clip.channels.map((ch) => (ch.node === node ? rebasedChannel(ch, before, after) : ch)),
        }
      : clip,
  );
  return { ...character, nodes: replaceAt(character.nodes, new Map([[node, after]])), clips };
}

/**
 * A clip channel of a node whose local matrices L all become M·L.
 * @param through M: a turn, an even scale and a move, column-major
 */
export function channelThrough(ch: Channel, through: Float64Array): Channel {
  if (ch.path === 'weights') return ch;
  const { rotation, scale } = decompose(through);
  const size = ch.path === 'rotation' ? 4 : 3;
  const values = new Float32Array(ch.values.length);
  for (let k = 0; k * size < values.length; k++) {
    const value = Array.from(ch.values.subarray(k * size, k * size + size));
    const isTangent = ch.interpolation === 'CUBICSPLINE' && k % 3 !== 1;
    const shift = (axis: number) => (isTangent ? 0 : through[12 + axis]);
    if (ch.path === 'rotation') values.set(quatMultiply(rotation, value), k * size);
    else if (ch.path === 'scale')
      values.set(
        value.map((factor) => factor * scale[0]),
        k * size,
      );
    else
      values.set(
        quatRotate(rotation, value).map((x, axis) => x * scale[0] + shift(axis)),
        k * size,
      );
  }
  return { ...ch, values };
}

/**
 * A clip channel carried over from one rest transform of its node to another: what it does relative to rest
 * stays the same.
 */
export function rebasedChannel(ch: Channel, before: SceneNode, after: SceneNode): Channel {
  if (ch.path !== 'rotation' && ch.path !== 'translation') return ch;
  const turn = quatMultiply(after.rotation, quatConjugate(before.rotation));
  const size = ch.path === 'rotation' ? 4 : 3;
  const values = new Float32Array(ch.values.length);
  const cubic = ch.interpolation === 'CUBICSPLINE';
  for (let k = 0; k < ch.values.length / size; k++) {
    const value = Array.from(ch.values.subarray(k * size, k * size + size));
    const tangent = cubic && k % 3 !== 1;
    if (size === 4) values.set(quatMultiply(turn, value), k * 4);
    else if (tangent) values.set(quatRotate(turn, value), k * 3);
    else
      values.set(
        quatRotate(
          turn,
          value.map((x, i) => x - before.translation[i]),
        ).map((x, i) => x + after.translation[i]),
        k * 3,
      );
  }
  return { ...ch, values };
}

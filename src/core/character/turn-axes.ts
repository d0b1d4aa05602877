/** Other local axes for bones, with everything that they move moving as it did. */
import { type Quat, quatConjugate, quatMultiply, quatRotate, times, composeMatrix } from '../geometry/matrix';
import { localOf } from './hierarchy';
import { type Channel, type Character, type SceneNode } from './model';
import { withLocal } from './rehang';

/** Scales this far from even cannot be turned, as a share. */
const EVEN = 1e-5;

/** Why the axes of some nodes cannot be turned, as a sentence; null where they can. */
export function whyNotTurned(character: Character, nodes: Iterable<number>): string | null {
  for (const i of nodes) {
    const node = character.nodes[i];
    if (node.matrix || isUneven(node.scale) || scalesUnevenly(character, i))
      return `“${node.name}” is scaled by different amounts along its axes, which cannot be turned; bake its scale first.`;
    // What it shows itself has its axes, and would turn with them.
    if ((node.mesh >= 0 && node.skin < 0) || node.camera !== undefined)
      return `“${node.name}” is a bone that shows something itself, which would turn with its axes; hang that on it as a node of its own first.`;
    const [extension] = Object.keys(node.extensions ?? {});
    if (extension)
      return `“${node.name}” carries the extension “${extension}”, which may speak of its axes; take that off first.`;
  }
  return null;
}

const scalesUnevenly = ({ clips }: Character, i: number): boolean =>
  clips.some(({ channels }) =>
    channels.some(({ node, path, values }) => {
      if (path !== 'scale' || node !== i) return false;
      for (let k = 0; k + 2 < values.length; k += 3) if (isUneven(values.subarray(k, k + 3))) return true;
      return false;
    }),
  );

const isUneven = ([x, y, z]: ArrayLike<number> & Iterable<number>): boolean =>
  Math.max(x, y, z) - Math.min(x, y, z) > EVEN * Math.max(Math.abs(x), Math.abs(y), Math.abs(z));

const TURNED = [0, 0, 0];
const WHOLE = [1, 1, 1];

/**
 * The character with the axes of some bones turned in place. What hangs on them keeps its place, binds are made anew, and
 * clips are rewritten: in every pose every bone carries what it carried to where it carried it, to float precision.
 * @param turns for each node the turn about its own axes, a unit quaternion (x, y, z, w): its new axes are the old ones
 * turned by it. None of them may have a reason by {@link whyNotTurned}.
 */
export function withTurnedAxes(character: Character, turns: ReadonlyMap<number, Quat>): Character {
  const own = (i: number) => turns.get(i);
  const above = (i: number) => {
    const turn = turns.get(character.nodes[i].parent);
    return turn && quatConjugate(turn);
  };
  const turned = (i: number) => own(i) !== undefined || above(i) !== undefined;
  const nodes = character.nodes.map((node, i) => (turned(i) ? turnedNode(node, above(i), own(i)) : node));
  const skins = character.skins.map((skin) => {
    if (!skin.joints.some((joint) => turns.has(joint))) return skin;
    const inverseBinds = Float64Array.from(skin.inverseBinds);
    skin.joints.forEach((joint, k) => {
      const turn = turns.get(joint);
      if (turn)
        inverseBinds.set(
          times(composeMatrix(TURNED, quatConjugate(turn), WHOLE), skin.inverseBinds, 0, k * 16),
          k * 16,
        );
    });
    return { ...skin, inverseBinds };
  });
  const clips = character.clips.map((clip) => {
    if (!clip.channels.some(({ node }) => turned(node))) return clip;
    return {
      ...clip,
      channels: clip.channels.map((channel) =>
        turned(channel.node) ? turnedChannel(channel, above(channel.node), own(channel.node)) : channel,
      ),
    };
  });
  return { ...character, nodes, skins, clips };
}

function turnedNode(node: SceneNode, above: Quat | undefined, own: Quat | undefined): SceneNode {
  if (node.matrix) {
    const before = above ? times(composeMatrix(TURNED, above, WHOLE), localOf(node)) : localOf(node);
    return withLocal(node, own ? times(before, composeMatrix(TURNED, own, WHOLE)) : before);
  }
  return {
    ...node,
    translation: above ? quatRotate(above, node.translation) : node.translation,
    rotation: turnedRotation(node.rotation, above, own),
  };
}

/** A turn between the axes of what it hangs on and its own, once either have been turned. Linear in it: tangents too. */
function turnedRotation(rotation: ArrayLike<number>, above: Quat | undefined, own: Quat | undefined): Quat {
  let out: Quat = [rotation[0], rotation[1], rotation[2], rotation[3]];
  if (above) out = quatMultiply(above, out);
  return own ? quatMultiply(out, own) : out;
}

function turnedChannel(channel: Channel, above: Quat | undefined, own: Quat | undefined): Channel {
  const { path, values } = channel;
  if (path !== 'rotation' && (path !== 'translation' || !above)) return channel;
  const size = path === 'rotation' ? 4 : 3;
  const out = new Float32Array(values.length);
  for (let k = 0; k + size <= values.length; k += size) {
    const value = values.subarray(k, k + size);
    out.set(
      path === 'rotation' ? turnedRotation(value, above, own) : quatRotate(above as Quat, Array.from(value)),
      k,
    );
  }
  return { ...channel, values: out };
}

/** One skeleton hung on another: brought to its size and place by joints that are to meet, and how far it follows then. */
import {
  type Quat,
  type Vec3,
  decompose,
  distance,
  inverseOr,
  quatBetween,
  quatRotate,
  scalesEvenly,
  subtract,
  times,
} from '../geometry/matrix';
import { bakeNodeScale } from './bake-scale';
import { branchOf, restPlace, restWorld } from './hierarchy';
import { type Character, replaceAt } from './model';
import { channelThrough, withLocal } from './rehang';
import { withRoots } from './remove';
import { type Similarity, STILL, similarityMatrix } from './similarity';

/** A branch that cannot be hung there; the message says why and what to do. */
export class GraftError extends Error {}

/** A joint of what is hung on, and the one that it is to stand on. */
export interface Meeting {
  readonly joint: number;
  readonly onto: number;
}

/**
 * The similarity that brings joints to where they are to stand: one moves, two turn (the shortest way) and scale as well.
 * Throws {@link GraftError} where the two joints, or the two places, lie in one point.
 */
export function similarityOf(character: Character, meetings: readonly Meeting[]): Similarity {
  const at = (node: number) => restPlace(character.nodes, node);
  const [first, second] = meetings;
  if (!first) return STILL;
  const [from, to] = [at(first.joint), at(first.onto)];
  if (!second) return { ...STILL, translation: subtract(to, from) };
  const [far, farTo] = [at(second.joint), at(second.onto)];
  const [before, after] = [distance(from, far), distance(to, farTo)];
  if (before < 1e-9 || after < 1e-9)
    throw new GraftError(
      'The two joints lie in one point, and tell no size; choose two that lie apart, on both skeletons.',
    );
  const scale = after / before;
  const rotation = quatBetween(subtract(far, from), subtract(farTo, to)) as Quat;
  const turned = quatRotate(rotation, from);
  const translation = [0, 1, 2].map((axis) => to[axis] - scale * turned[axis]);
  return { scale, rotation, translation: translation as unknown as Vec3 };
}

const isStill = ({ scale, rotation, translation }: Similarity) =>
  Math.abs(scale - 1) < 1e-12 && Math.abs(rotation[3]) > 1 - 1e-15 && translation.every((x) => x === 0);

/**
 * The character with a branch hung under another bone, after a similarity of the world that moves the branch alone with
 * all that it shows. Its clips do relative to it what they did; its scale goes into the points, and no bone keeps any.
 * Throws {@link GraftError}, and ScaleError where a scale cannot go into points.
 */
export function grafted(character: Character, top: number, under: number, by: Similarity): Character {
  const { nodes } = character;
  const inside = branchOf(nodes, [top]);
  if (inside[under])
    throw new GraftError(
      `“${nodes[top].name}” cannot hang under “${nodes[under].name}”, which hangs below it; choose a bone outside of its branch.`,
    );
  if (!isStill(by)) refuseTorn(character, inside);
  const world = restWorld(nodes);
  const moved = times(similarityMatrix(by), world, 0, top * 16);
  const local = times(inverseOr(world, under * 16), moved);
  const before = nodes[top].parent;
  const above = before < 0 ? similarityMatrix(by) : times(similarityMatrix(by), world, 0, before * 16);
  const through = times(inverseOr(world, under * 16), above);
  if (!scalesEvenly(through))
    throw new GraftError(
      `“${nodes[under].name}” or what “${nodes[top].name}” hangs under is scaled by different amounts along its axes; bake its scale first.`,
    );
  const clips = character.clips.map((clip) =>
    clip.channels.some(({ node }) => node === top)
      ? {
          ...clip,
          channels: clip.channels.map((channel) =>
            channel.node === top ? channelThrough(channel, through) : channel,
          ),
        }
      : clip,
  );
  const hung = { ...withLocal(nodes[top], local), parent: under };
  const out = withRoots({ ...character, nodes: replaceAt(nodes, new Map([[top, hung]])), clips });
  return Math.abs(decompose(through).scale[0] - 1) > 1e-9 ? bakeNodeScale(out, top) : out;
}

/** A mesh bound inside and outside of what moves would be torn. */
function refuseTorn({ nodes, skins }: Character, inside: readonly boolean[]): void {
  for (const { name, skin } of nodes) {
    const joints = skin < 0 ? [] : skins[skin].joints;
    if (joints.some((joint) => inside[joint]) && joints.some((joint) => !inside[joint]))
      throw new GraftError(
        `“${name}” is bound to bones inside and outside of the branch, and would be torn; hang the branch where it stands, without joints that meet.`,
      );
  }
}

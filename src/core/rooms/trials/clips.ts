/**
 * What checks and remedies of clips share: how a clip is named and shown, sizes in the world, what of a shift is
 * travel.
 */
import { restWorld } from '../../character/hierarchy';
import { characterHeight } from '../../character/measure';
import type { Character, Clip } from '../../character/model';
import type { FindingPose, Subject } from '../../contracts/finding';
import { RemedyError } from '../../contracts/remedy';
import { decompose, inverseOr } from '../../geometry/matrix';
import type { WithoutTravel } from '../../motion/clips/loop-gap';
import { carriedNode, carriersOf, overGround } from '../../motion/clips/travel';

/** The upright of every character, world space. */
export const UPRIGHT = [0, 1, 0] as const;

/** A clip as the subject of a finding. */
export const theClip = ({ clips }: Character, index: number): Subject => ({
  kind: 'clip',
  index,
  name: clips[index].name || `clip ${index}`,
});

/** A moment of a clip as a pose that a finding stands in. */
export const momentOf = (character: Character, clip: number, seconds: number): FindingPose => ({
  turns: [],
  moment: { clip, seconds },
  words: `“${theClip(character, clip).name}” at ${seconds.toFixed(2)} s`,
});

/** A clip of a character by its place. Throws RemedyError where it is not there. */
export function clipOf({ clips }: Character, index: number): Clip {
  const clip = clips[index];
  if (!clip) throw new RemedyError('The clip is not there any more; run the audit again.');
  return clip;
}

/** The character with one clip changed. */
export const withClip = (character: Character, index: number, clip: Clip): Character => ({
  ...character,
  clips: character.clips.map((other, i) => (i === index ? clip : other)),
});

/**
 * By node: what one unit of its translation is at rest, as a share of the figure's height; files may be in any unit.
 */
export function shareOfHeightOf(character: Character): (node: number) => number {
  const { nodes } = character;
  const world = restWorld(nodes);
  const height = characterHeight(character);
  return (node) => {
    const parent = nodes[node].parent;
    if (parent < 0) return 1 / height;
    const { scale } = decompose(world, parent * 16);
    return Math.cbrt(Math.abs(scale[0] * scale[1] * scale[2])) / height;
  };
}

/** What of the shifts of a clip carries the figure over the ground, which a clip that goes round need not take back. */
export function travelOfClip(character: Character, clip: Clip): WithoutTravel {
  const carried = carriedNode(character, clip);
  const carriers = new Set(carried < 0 ? [] : carriersOf(character, clip, carried));
  const world = restWorld(character.nodes);
  return (node, from, to) => {
    if (!carriers.has(node)) return [...to];
    const ground = overGround(from, to, uprightIn(world, character.nodes[node].parent));
    return to.map((number, i) => number - ground[i]);
  };
}

/** The upright as a unit vector in the frame of a node; −1: the world's. */
function uprightIn(world: Float64Array, parent: number): readonly number[] {
  if (parent < 0) return UPRIGHT;
  const inverse = inverseOr(world, parent * 16);
  const [x, y, z] = UPRIGHT;
  const up = [0, 1, 2].map((row) => inverse[row] * x + inverse[4 + row] * y + inverse[8 + row] * z);
  const length = Math.hypot(...up) || 1;
  return up.map((number) => number / length);
}

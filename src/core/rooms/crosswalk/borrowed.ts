/** Motion of one character that another is moved by, to be looked at, and so that weights are solved over it as well. */
import { counterparts } from '../../anatomy/crosswalk';
import { skeletonOf } from '../../anatomy/skeleton';
import { suggest } from '../../anatomy/suggest';
import type { Character } from '../../character/model';
import { clipSeconds, clipWorld, transferPose } from '../../motion/pose';

/** Fewer pairs than this say nothing: anything has a root. */
const FEWEST = 3;

/** The clips of one character on another, whose bones turn as their counterparts do. */
export class BorrowedMotion {
  private readonly sourceNodeOf: Int32Array;
  /** Whether more of the two skeletons was found to be alike than that each has a root. */
  readonly isAlike: boolean;

  constructor(
    readonly from: Character,
    private readonly onto: Character,
  ) {
    const [theirs, mine] = [skeletonOf(from), skeletonOf(onto)];
    const found = counterparts(mine, suggest(theirs, mine));
    const pairs = found.filter((source) => source >= 0).length;
    this.isAlike = pairs > 0 && pairs >= Math.min(FEWEST, theirs.bones.length, mine.bones.length);
    this.sourceNodeOf = new Int32Array(onto.nodes.length).fill(-1);
    found.forEach((bone, index) => {
      if (bone >= 0) this.sourceNodeOf[mine.bones[index].node] = theirs.bones[bone].node;
    });
  }

  /** The node of the other that one of the moved stands for; −1 for none. */
  counterpartOf(node: number): number {
    return this.sourceNodeOf[node];
  }

  /** World matrices (16 per node) of the one that is moved, at a moment of a clip of the other, seconds. */
  worldAt(clip: number, seconds: number): Float64Array {
    const moment = clipWorld(this.from, this.from.clips[clip], seconds);
    return transferPose(this.from, moment, this.onto, this.sourceNodeOf);
  }
}

/** How many moments are taken, spread over all clips by their length. */
const MOMENTS = 24;

/**
 * Moments of a character's clips on another character, as world matrices of that one (16 per node): its bones turn as
 * their counterparts do. None where there are no clips, or where nothing of the two skeletons was found to be alike.
 */
export function borrowedWorlds(from: Character, onto: Character): Float64Array[] {
  const lengths = from.clips.map((clip) => clipSeconds(clip));
  const all = lengths.reduce((sum, seconds) => sum + seconds, 0);
  if (!(all > 0)) return [];
  const motion = new BorrowedMotion(from, onto);
  if (!motion.isAlike) return [];
  return lengths.flatMap((seconds, clip) => {
    if (!(seconds > 0)) return [];
    const count = Math.max(1, Math.round((MOMENTS * seconds) / all));
    return Array.from({ length: count }, (_, k) => motion.worldAt(clip, (seconds * (k + 0.5)) / count));
  });
}

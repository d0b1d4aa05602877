/** Motion of one character that another is moved by, so that weights are solved over it as well. */
import { counterparts } from '../../anatomy/crosswalk';
import { skeletonOf } from '../../anatomy/skeleton';
import { suggest } from '../../anatomy/suggest';
import type { Character } from '../../character/model';
import { clipSeconds, clipWorld, transferPose } from '../../motion/pose';

/** How many moments are taken, spread over all clips by their length. */
const MOMENTS = 24;

/**
 * Moments of a character's clips on another character, as world matrices of that one (16 per node): its bones turn as
 * their counterparts do. None where there are no clips, or where nothing of the two skeletons was found to be alike.
 */
export function borrowedWorlds(from: Character, onto: Character): Float64Array[] {
  const clips = from.clips.filter((clip) => clipSeconds(clip) > 0);
  const [theirs, mine] = [skeletonOf(from), skeletonOf(onto)];
  const found = counterparts(mine, suggest(theirs, mine));
  if (clips.length === 0 || found.every((source) => source < 0)) return [];
  const sourceNodeOf = new Int32Array(onto.nodes.length).fill(-1);
  found.forEach((bone, index) => {
    if (bone >= 0) sourceNodeOf[mine.bones[index].node] = theirs.bones[bone].node;
  });
  const all = clips.reduce((sum, clip) => sum + clipSeconds(clip), 0);
  return clips.flatMap((clip) => {
    const seconds = clipSeconds(clip);
    const count = Math.max(1, Math.round((MOMENTS * seconds) / all));
    return Array.from({ length: count }, (_, k) =>
      transferPose(from, clipWorld(from, clip, (seconds * (k + 0.5)) / count), onto, sourceNodeOf),
    );
  });
}

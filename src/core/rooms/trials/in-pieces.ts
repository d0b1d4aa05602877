/** The same trials joint by joint with pauses, for a thread that must hear when it is told to stop. */
import type { Character } from '../../character/model';
import type { TrialLimits } from '../../contracts/trials';
import { keepTrials } from './findings';
import { isLookedAtForClashes, triedMotions } from './motions';
import { type JointTrial, bendsFlesh, trialOf } from './sweep';
import { clashOf } from './through';

/** So long one piece of work takes at least, milliseconds. */
const PIECE = 60;

/** Who is told how far it is, and says when to stop. */
export interface Listener {
  /** 0 … 1 */
  told(share: number): void;
  isStopped(): boolean;
}

/** Makes all trials of a character ready, so that whatever asks for them has them at once. False where it was stopped. */
export async function tryInPieces(
  character: Character,
  limits: TrialLimits,
  { told, isStopped }: Listener,
): Promise<boolean> {
  const tried = triedMotions(character, limits);
  const motions = tried.filter((motion) => bendsFlesh(character, motion));
  const looked = tried.filter(isLookedAtForClashes);
  const all = motions.length + looked.length;
  const trials: JointTrial[] = [];
  let since = performance.now();
  const pause = async (done: number): Promise<boolean> => {
    if (performance.now() - since < PIECE) return true;
    told(done / all);
    await new Promise((resolve) => setTimeout(resolve, 0));
    since = performance.now();
    return !isStopped();
  };
  for (const motion of motions) {
    trials.push(trialOf(character, motion));
    if (!(await pause(trials.length))) return false;
  }
  keepTrials(tried, trials);
  for (const [i, motion] of looked.entries()) {
    clashOf(character, motion, motion.degrees);
    if (!(await pause(motions.length + i))) return false;
  }
  return true;
}

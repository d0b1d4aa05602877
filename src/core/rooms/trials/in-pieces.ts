/** The same trials joint by joint with pauses, for a thread that must hear when it is told to stop. */
import type { Character } from '../../character/model';
import { jointMotionsOf } from '../../anatomy/joint-motions';
import type { TrialLimits } from '../../contracts/trials';
import { STEPS, keepTrials } from './findings';
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
  const settings = { steps: STEPS, reach: limits.reach };
  const motions = jointMotionsOf(character).filter((motion) => bendsFlesh(character, motion));
  const inLife = jointMotionsOf(character).filter((motion) => motion.isInLife);
  const all = motions.length + inLife.length;
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
    trials.push(trialOf(character, motion, settings));
    if (!(await pause(trials.length))) return false;
  }
  keepTrials(character, limits.reach, trials);
  for (const [i, motion] of inLife.entries()) {
    clashOf(character, motion, motion.from + (motion.degrees - motion.from) * limits.reach);
    if (!(await pause(motions.length + i))) return false;
  }
  return true;
}

/** Both figures in one pose of the proof. */
import { Asking } from '../../state/asking';
import { posing } from '../../state/pointer';
import { desk, setDesk } from '../../state/store';
import { messageOf } from '../../kit/api';
import { deskWorker } from '../../state/worker';
import { rest, tryOnSoon, useWalk } from './walk';

const set = useWalk.setState;
const get = useWalk.getState;

const asking = new Asking();

/** Puts both figures into a pose of the proof; into the same again, or −1: back to rest. */
export async function showPose(index: number): Promise<void> {
  const isCurrent = asking.begin();
  const { trial } = get();
  const { figure } = desk();
  if (index < 0 || index === get().pose || !trial || !figure) {
    rest();
    return;
  }
  try {
    const poses = await deskWorker().trialPose(index);
    if (!isCurrent() || get().trial !== trial || desk().figure !== figure) return;
    if (!poses) {
      // The worker is another than the one that tried it on.
      tryOnSoon();
      return;
    }
    posing.set({ figure, pose: poses.before });
    set({ pose: index, targetPose: poses.after });
  } catch (error) {
    if (isCurrent()) setDesk({ error: messageOf(error) });
  }
}

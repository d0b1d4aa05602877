/** Both figures in one pose: one of the proof, a moment of a clip, or a bone turned by hand. */
import { messageOf } from '../../kit/api';
import { LatestRequest } from '../../state/latest-request';
import { posing } from '../../state/pointer';
import { desk, setDesk } from '../../state/store';
import type { BothPosed, HandTurn } from '../../worker/moving';
import { solver } from './solver';
import { rest, tryOnSoon, useCrosswalkSession } from './session';

const set = useCrosswalkSession.setState;
const get = useCrosswalkSession.getState;

const asking = new LatestRequest();

/** Puts both figures into a pose of the proof; into the same again, or −1: back to rest. */
export async function showPose(index: number): Promise<void> {
  if (index < 0 || index === get().pose) backToRest();
  else await show(() => solver().trialPose(index), index);
}

/** Puts both figures into a moment of a clip. */
export const showClip = (clip: number, seconds: number): Promise<void> =>
  show(() => solver().trialClip(clip, seconds));

/** Turns a bone of either figure, and the other figure along with it. */
export const showTurn = (turn: HandTurn): Promise<void> => show(() => solver().trialTurn(turn));

/** Both figures stand as they do at rest; what was on its way to them is dropped. */
export function backToRest(): void {
  asking.drop();
  rest();
}

async function show(ask: () => Promise<BothPosed | null>, pose = -1): Promise<void> {
  const isCurrent = asking.begin();
  const { trial } = get();
  const { figure } = desk();
  if (!trial || !figure) return;
  try {
    const both = await ask();
    if (!isCurrent() || get().trial !== trial || desk().figure !== figure) return;
    if (!both) {
      // The worker is another than the one that tried it on.
      tryOnSoon();
      return;
    }
    posing.set({ figure, pose: both.before });
    set({ pose, both, place: null });
  } catch (error) {
    if (isCurrent()) setDesk({ error: messageOf(error) });
  }
}

import { type Key, plainKey } from '../../parts/room';
import { acceptPicked, setTwinsAlike, takeOther, toggleLocks } from './changes';
import { choosePair } from './choice';
import { doubtOf } from '@/core/rooms/crosswalk/doubts';
import { desk } from '../../state/store';
import { useCrosswalkSession } from './session';

const letter = (key: string, does: string, run: () => void): Key => ({
  keys: key.toUpperCase(),
  does,
  run,
  match: plainKey(key),
});

/** Chooses the next pair that wants a look, in the order of the limbs. */
function chooseNextDoubt(): void {
  const { crosswalk, shown, limbs, chosen } = useCrosswalkSession.getState();
  if (!crosswalk) return;
  const allowed = desk().brief.proofTolerance;
  const order = limbs.flatMap((limb) => limb.bones);
  const at = order.indexOf(chosen);
  const round = [...order.slice(at + 1), ...order.slice(0, at + 1)];
  const next = round.find((b) => doubtOf(crosswalk[b], shown[b] ?? null, allowed));
  if (next !== undefined) choosePair(next);
}

/** The shortcuts of the room. */
export const KEYS: readonly Key[] = [
  letter('w', 'next pair that wants a look', chooseNextDoubt),
  letter('f', 'the chosen pairs are fine as they are', acceptPicked),
  letter('h', 'the other reading of the chosen pair', takeOther),
  letter('r', 'set the other side alike', setTwinsAlike),
  letter('x', 'lock the chosen pairs, or let go of them', toggleLocks),
  {
    keys: 'Shift ↑ ↓',
    does: 'choose several pairs, when the table has the focus',
    run: () => {},
    match: () => false,
  },
];

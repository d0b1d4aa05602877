/** Trials: what happens to the figure when it moves. */
import { fliesOffCheck, overstretchedCheck, turnedOverCheck, volumeLostCheck } from './checks/at-joints';
import { doesNotFollowCheck } from './checks/does-not-follow';
import { goesThroughCheck } from './checks/goes-through';
import { notTriedCheck } from './checks/not-tried';
import { rigidBendsCheck } from './checks/rigid-bends';

/** The checks of this room, in the order in which they are asked. */
export const checks = [
  notTriedCheck,
  doesNotFollowCheck,
  fliesOffCheck,
  volumeLostCheck,
  overstretchedCheck,
  turnedOverCheck,
  rigidBendsCheck,
  goesThroughCheck,
] as const;

/** The remedies of this room. */
export const remedies = [] as const;

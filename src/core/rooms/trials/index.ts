/** Trials: what happens to the figure when it moves. */
import { fliesOffCheck, overstretchedCheck, turnedOverCheck, volumeLostCheck } from './checks/at-joints';
import { doesNotFollowCheck } from './checks/does-not-follow';
import { goesThroughCheck } from './checks/goes-through';
import { clipFramesCheck } from './checks/clip-frames';
import { clipJumpsCheck } from './checks/clip-jumps';
import { clipLoopsCheck } from './checks/clip-loops';
import { clipScaleCheck } from './checks/clip-scale';
import { clipTravelCheck } from './checks/clip-travel';
import { idleTracksCheck } from './checks/idle-tracks';
import { bendsWorseCheck } from './checks/bends-worse';
import { notTriedCheck } from './checks/not-tried';
import { rigidBendsCheck } from './checks/rigid-bends';
import { twistUnevenCheck } from './checks/twist-uneven';
import { bridgeJumpsRemedy } from './remedies/bridge-jumps';
import { closeLoopRemedy } from './remedies/close-loop';
import { dropIdleTracks } from './remedies/drop-idle-tracks';
import { dropScaleTracks } from './remedies/drop-scale-tracks';
import { keepInPlace } from './remedies/keep-in-place';
import { putOnFrames } from './remedies/put-on-frames';

/** The checks of this room, in the order in which they are asked. */
export const checks = [
  notTriedCheck,
  doesNotFollowCheck,
  fliesOffCheck,
  volumeLostCheck,
  overstretchedCheck,
  turnedOverCheck,
  twistUnevenCheck,
  rigidBendsCheck,
  goesThroughCheck,
  bendsWorseCheck,
  clipJumpsCheck,
  clipLoopsCheck,
  clipTravelCheck,
  clipScaleCheck,
  clipFramesCheck,
  idleTracksCheck,
] as const;

/** The remedies of this room. */
export const remedies = [
  bridgeJumpsRemedy,
  closeLoopRemedy,
  keepInPlace,
  dropScaleTracks,
  putOnFrames,
  dropIdleTracks,
] as const;

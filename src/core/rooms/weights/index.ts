/** Weights: which bones carry which points, and by how much. */
import { doubledBonesCheck } from './checks/doubled-bones';
import { dustCheck } from './checks/dust';
import { idleBonesCheck } from './checks/idle-bones';
import { influenceLimitCheck } from './checks/influence-limit';
import { jointRingsCheck } from './checks/joint-rings';
import { noWeightCheck } from './checks/no-weight';
import { notBoundCheck } from './checks/not-bound';
import { rigidPartsCheck } from './checks/rigid-parts';
import { acrossSidesCheck, farWeightCheck, oddPointsCheck } from './checks/strays';
import { tornSeamsCheck } from './checks/torn-seams';
import { unevenSidesCheck } from './checks/uneven-sides';
import { weightOnEndsCheck } from './checks/weight-on-ends';
import { weightSumCheck } from './checks/weight-sum';
import { averageWeights } from './remedies/average-weights';
import { bind } from './remedies/bind';
import { brushWeights } from './remedies/brush-weights';
import { closeSeams } from './remedies/close-seams';
import { copyWeights } from './remedies/copy-weights';
import { editWeights } from './remedies/edit-weights';
import { fadeWeight } from './remedies/fade-weight';
import { fillWeights } from './remedies/fill-weights';
import { giveToParent } from './remedies/give-to-parent';
import { joinEntries } from './remedies/join-entries';
import { limitInfluencesRemedy } from './remedies/limit-influences';
import { makeRigid } from './remedies/make-rigid';
import { mirrorWeights } from './remedies/mirror-weights';
import { setBand } from './remedies/set-band';
import { smoothWeights } from './remedies/smooth-weights';
import { splitBetween } from './remedies/split-between';
import { takeBoneOut } from './remedies/take-bone-out';

/** The checks of this room, in the order in which they are asked. */
export const checks = [
  notBoundCheck,
  influenceLimitCheck,
  weightSumCheck,
  noWeightCheck,
  tornSeamsCheck,
  rigidPartsCheck,
  doubledBonesCheck,
  weightOnEndsCheck,
  acrossSidesCheck,
  farWeightCheck,
  oddPointsCheck,
  jointRingsCheck,
  unevenSidesCheck,
  dustCheck,
  idleBonesCheck,
] as const;

/** The remedies of this room. */
export const remedies = [
  limitInfluencesRemedy,
  fillWeights,
  giveToParent,
  closeSeams,
  joinEntries,
  brushWeights,
  editWeights,
  takeBoneOut,
  splitBetween,
  averageWeights,
  fadeWeight,
  smoothWeights,
  mirrorWeights,
  setBand,
  makeRigid,
  bind,
  copyWeights,
] as const;

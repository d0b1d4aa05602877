/** Weights: which bones carry which points, and by how much. */
import { idleBonesCheck } from './checks/idle-bones';
import { influenceLimitCheck } from './checks/influence-limit';
import { noWeightCheck } from './checks/no-weight';
import { notBoundCheck } from './checks/not-bound';
import { tornSeamsCheck } from './checks/torn-seams';
import { weightOnEndsCheck } from './checks/weight-on-ends';
import { weightSumCheck } from './checks/weight-sum';
import { closeSeams } from './remedies/close-seams';
import { fillWeights } from './remedies/fill-weights';
import { giveToParent } from './remedies/give-to-parent';
import { brushWeights } from './remedies/brush-weights';
import { limitInfluencesRemedy } from './remedies/limit-influences';

/** The checks of this room, in the order in which they are asked. */
export const checks = [
  notBoundCheck,
  influenceLimitCheck,
  weightSumCheck,
  noWeightCheck,
  tornSeamsCheck,
  weightOnEndsCheck,
  idleBonesCheck,
] as const;

/** The remedies of this room. */
export const remedies = [limitInfluencesRemedy, fillWeights, giveToParent, closeSeams, brushWeights] as const;

/** Skeleton: tree, names and number of the bones. */
import { moveJoint } from './remedies/move-joint';
import { bendDirectionCheck } from './checks/bend-direction';
import { boneAxesCheck } from './checks/bone-axes';
import { betweenBonesCheck } from './checks/between-bones';
import { boneBudgetCheck } from './checks/bone-budget';
import { boneDepthCheck } from './checks/bone-depth';
import { boneNamesCheck } from './checks/bone-names';
import { chainEndsCheck } from './checks/chain-ends';
import { expectedBonesCheck } from './checks/expected-bones';
import { jointAtLoopsCheck } from './checks/joint-at-loops';
import { jointInLimbCheck } from './checks/joint-in-limb';
import { fleshBeyondCheck } from './checks/flesh-beyond';
import { mirroredPairsCheck } from './checks/mirrored-pairs';
import { noSkeletonCheck } from './checks/no-skeleton';
import { oneRootCheck } from './checks/one-root';
import { parentsCheck } from './checks/parents';
import { sidesCheck } from './checks/sides';
import { stackedBonesCheck } from './checks/stacked-bones';
import { turnOrderCheck } from './checks/turn-order';
import { addBone } from './remedies/add-bone';
import { addEnds } from './remedies/add-ends';
import { addExpected } from './remedies/add-expected';
import { addHelper } from './remedies/add-helper';
import { addRoot } from './remedies/add-root';
import { alignAxes } from './remedies/align-axes';
import { extendNames } from './remedies/extend-names';
import { foldBones } from './remedies/fold-bones';
import { foldToBudget } from './remedies/fold-to-budget';
import { followConvention } from './remedies/follow-convention';
import { matchTwins } from './remedies/match-twins';
import { mirrorBranch } from './remedies/mirror-branch';
import { namesByRole } from './remedies/names-by-role';
import { numberChains } from './remedies/number-chains';
import { replaceInNames } from './remedies/replace-in-names';
import { shortenNames } from './remedies/shorten-names';
import { swapSides } from './remedies/swap-sides';
import { turnAxes } from './remedies/turn-axes';
import { zeroRotations } from './remedies/zero-rotations';
import { boneKind } from './remedies/bone-kind';
import { centreJoints } from './remedies/centre-joints';
import { changeSet } from './remedies/change-set';
import { graft } from './remedies/graft';
import { joinRoots } from './remedies/join-roots';
import { lengthenLimb } from './remedies/lengthen-limb';
import { turnLimb } from './remedies/turn-limb';
import { turnOrder } from './remedies/turn-order';
import { keepSet } from './remedies/keep-set';
import { reHang } from './remedies/re-hang';
import { putSkeleton } from './remedies/put-skeleton';
import { setMembers } from './remedies/set-members';
import { removeSet } from './remedies/remove-set';
import { rename } from './remedies/rename';
import { rootToOrigin } from './remedies/root-to-origin';

/** The checks of this room, in the order in which they are asked. */
export const checks = [
  noSkeletonCheck,
  oneRootCheck,
  parentsCheck,
  expectedBonesCheck,
  sidesCheck,
  mirroredPairsCheck,
  boneAxesCheck,
  bendDirectionCheck,
  jointInLimbCheck,
  jointAtLoopsCheck,
  turnOrderCheck,
  stackedBonesCheck,
  chainEndsCheck,
  fleshBeyondCheck,
  boneNamesCheck,
  boneBudgetCheck,
  boneDepthCheck,
  betweenBonesCheck,
] as const;

/** The remedies of this room. */
export const remedies = [
  rename,
  followConvention,
  namesByRole,
  extendNames,
  shortenNames,
  replaceInNames,
  numberChains,
  swapSides,
  reHang,
  graft,
  foldBones,
  foldToBudget,
  joinRoots,
  putSkeleton,
  addRoot,
  addBone,
  addEnds,
  addExpected,
  addHelper,
  rootToOrigin,
  moveJoint,
  centreJoints,
  turnLimb,
  turnOrder,
  lengthenLimb,
  matchTwins,
  mirrorBranch,
  turnAxes,
  alignAxes,
  zeroRotations,
  boneKind,
  keepSet,
  changeSet,
  setMembers,
  removeSet,
] as const;

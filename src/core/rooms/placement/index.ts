/** Placement: is it the right size, in its place, at rest, clean. */
import { placePart } from './remedies/place-part';
import { apartCheck } from './checks/apart';
import { inverseBindsCheck, notAtRestCheck } from './checks/at-rest';
import { drivenTwiceCheck } from './checks/driven-twice';
import { facingCheck } from './checks/facing';
import { groundCheck } from './checks/ground';
import { heightCheck } from './checks/height';
import { meshRotationCheck } from './checks/mesh-rotation';
import { middleCheck, pivotCheck } from './checks/middle';
import { morphsOnCheck } from './checks/morphs-on';
import { nothingThereCheck } from './checks/nothing-there';
import { inheritedScaleCheck, nodeScaleCheck } from './checks/node-scale';
import { propHeightCheck } from './checks/prop-height';
import { skeletonHeightCheck } from './checks/skeleton-height';
import { stanceCheck } from './checks/stance';
import { straysCheck } from './checks/strays';
import { unitsCheck } from './checks/units';
import { bakeScale } from './remedies/bake-scale';
import { bakeTransform } from './remedies/bake-transform';
import { centre } from './remedies/centre';
import { changeUnit } from './remedies/change-unit';
import { chooseDriver } from './remedies/choose-driver';
import { detachKeepSize, detachOwnSize } from './remedies/detach';
import { fitSkeleton } from './remedies/fit-skeleton';
import { morphsOff } from './remedies/morphs-off';
import { recomputeBinds } from './remedies/recompute-binds';
import { removeStrays } from './remedies/remove-strays';
import { rescale } from './remedies/rescale';
import { rescaleProp } from './remedies/rescale-prop';
import { returnToRest } from './remedies/return-to-rest';
import { sayKind } from './remedies/say-kind';
import { setOnGround } from './remedies/set-on-ground';
import { setStance } from './remedies/set-stance';
import { turnToAxes } from './remedies/turn-to-axes';

/**
 * In the order in which one asks: what the file is made in, which way it stands, what is hidden in it, then
 * its sizes and its place.
 */
export const checks = [
  nothingThereCheck,
  unitsCheck,
  facingCheck,
  inheritedScaleCheck,
  nodeScaleCheck,
  meshRotationCheck,
  drivenTwiceCheck,
  notAtRestCheck,
  inverseBindsCheck,
  heightCheck,
  skeletonHeightCheck,
  groundCheck,
  middleCheck,
  pivotCheck,
  propHeightCheck,
  apartCheck,
  stanceCheck,
  morphsOnCheck,
  straysCheck,
] as const;

/** The remedies of this room. */
export const remedies = [
  changeUnit,
  turnToAxes,
  rescale,
  rescaleProp,
  fitSkeleton,
  setOnGround,
  centre,
  bakeScale,
  bakeTransform,
  detachKeepSize,
  detachOwnSize,
  chooseDriver,
  returnToRest,
  recomputeBinds,
  setStance,
  morphsOff,
  removeStrays,
  placePart,
  sayKind,
] as const;

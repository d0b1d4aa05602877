/** Placement: is it the right size, on the ground, clean. */
import type { Check, Remedy } from '../audit/types';
import { groundCheck } from './checks/ground';
import { heightCheck } from './checks/height';
import { nodeScaleCheck } from './checks/node-scale';
import { skeletonHeightCheck } from './checks/skeleton-height';
import { bakeScale } from './remedies/bake-scale';
import { setOnGround } from './remedies/set-on-ground';

export const checks: readonly Check[] = [heightCheck, skeletonHeightCheck, nodeScaleCheck, groundCheck];
export const remedies: readonly Remedy[] = [bakeScale, setOnGround];

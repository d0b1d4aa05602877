/** Skeleton: tree, names and number of the bones. */
import { moveJoint } from './remedies/move-joint';
import { boneBudgetCheck } from './checks/bone-budget';
import { boneNamesCheck } from './checks/bone-names';
import { oneRootCheck } from './checks/one-root';
import { parentsCheck } from './checks/parents';
import { reHang } from './remedies/re-hang';
import { rename } from './remedies/rename';
import { rootToOrigin } from './remedies/root-to-origin';

export const checks = [oneRootCheck, parentsCheck, boneNamesCheck, boneBudgetCheck] as const;
export const remedies = [rename, reHang, rootToOrigin, moveJoint] as const;

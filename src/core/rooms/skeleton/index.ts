/** Skeleton: tree, names and number of the bones. */
import type { Check, Remedy } from '../../contracts/types';
import { boneBudgetCheck } from './checks/bone-budget';
import { boneNamesCheck } from './checks/bone-names';
import { oneRootCheck } from './checks/one-root';
import { parentsCheck } from './checks/parents';
import { reHang } from './remedies/re-hang';
import { rename } from './remedies/rename';
import { rootToOrigin } from './remedies/root-to-origin';

export const checks: readonly Check[] = [oneRootCheck, parentsCheck, boneNamesCheck, boneBudgetCheck];
export const remedies: readonly Remedy[] = [rename, reHang, rootToOrigin];

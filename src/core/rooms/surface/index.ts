/** Surface: polygons and points. */
import type { Check, Remedy } from '../../contracts/types';
import { coincidentCheck } from './checks/coincident';
import { quadsCheck } from './checks/quads';
import { mergePoints } from './remedies/merge-points';

export const checks: readonly Check[] = [coincidentCheck, quadsCheck];
export const remedies: readonly Remedy[] = [mergePoints];

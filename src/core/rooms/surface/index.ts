/** Surface: polygons and points. */
import { coincidentCheck } from './checks/coincident';
import { quadsCheck } from './checks/quads';
import { mergePoints } from './remedies/merge-points';

export const checks = [coincidentCheck, quadsCheck] as const;
export const remedies = [mergePoints] as const;

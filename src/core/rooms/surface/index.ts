/** Surface: polygons and points. */
import { coincidentCheck } from './checks/coincident';
import { noMeshCheck } from './checks/no-mesh';
import { quadsCheck } from './checks/quads';
import { mergePoints } from './remedies/merge-points';

/** The checks of this room, in the order in which they are asked. */
export const checks = [noMeshCheck, coincidentCheck, quadsCheck] as const;

/** The remedies of this room. */
export const remedies = [mergePoints] as const;

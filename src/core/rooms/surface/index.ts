/** Surface: polygons and points. */
import { coincidentCheck } from './checks/coincident';
import { noMeshCheck } from './checks/no-mesh';
import { quadsCheck } from './checks/quads';
import { windingCheck } from './checks/winding';
import { mergePoints } from './remedies/merge-points';
import { turnFaces } from './remedies/turn-faces';

/** The checks of this room, in the order in which they are asked. */
export const checks = [noMeshCheck, windingCheck, coincidentCheck, quadsCheck] as const;

/** The remedies of this room. */
export const remedies = [mergePoints, turnFaces] as const;

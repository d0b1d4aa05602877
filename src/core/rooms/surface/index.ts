/** Surface: polygons and points. */
import { coincidentCheck } from './checks/coincident';
import { emptyFacesCheck } from './checks/empty-faces';
import { holesCheck } from './checks/holes';
import { joinedWronglyCheck } from './checks/joined-wrongly';
import { loosePointsCheck } from './checks/loose-points';
import { noMeshCheck } from './checks/no-mesh';
import { quadsCheck } from './checks/quads';
import { windingCheck } from './checks/winding';
import { fillHoles } from './remedies/fill-holes';
import { mergePoints } from './remedies/merge-points';
import { removeEmptyFaces } from './remedies/remove-empty-faces';
import { removeLoosePoints } from './remedies/remove-loose-points';
import { splitJoins } from './remedies/split-joins';
import { turnFaces } from './remedies/turn-faces';

/** The checks of this room, in the order in which they are asked. */
export const checks = [
  noMeshCheck,
  windingCheck,
  emptyFacesCheck,
  loosePointsCheck,
  joinedWronglyCheck,
  holesCheck,
  coincidentCheck,
  quadsCheck,
] as const;

/** The remedies of this room. */
export const remedies = [
  mergePoints,
  turnFaces,
  removeEmptyFaces,
  removeLoosePoints,
  splitJoins,
  fillHoles,
] as const;

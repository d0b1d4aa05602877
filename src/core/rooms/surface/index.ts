/** Surface: polygons and points. */
import { asymmetryCheck } from './checks/asymmetry';
import { coincidentCheck } from './checks/coincident';
import { emptyFacesCheck } from './checks/empty-faces';
import { forgottenPartsCheck } from './checks/forgotten-parts';
import { holesCheck } from './checks/holes';
import { joinedWronglyCheck } from './checks/joined-wrongly';
import { loopsAtJointsCheck } from './checks/loops-at-joints';
import { loosePointsCheck } from './checks/loose-points';
import { noMeshCheck } from './checks/no-mesh';
import { quadsCheck } from './checks/quads';
import { windingCheck } from './checks/winding';
import { fillHoles } from './remedies/fill-holes';
import { joinMeshes } from './remedies/join-meshes';
import { keepQuads } from './remedies/keep-quads';
import { markParts } from './remedies/mark-parts';
import { matchSides } from './remedies/match-sides';
import { mergePoints } from './remedies/merge-points';
import { removeEmptyFaces } from './remedies/remove-empty-faces';
import { removeLoosePoints } from './remedies/remove-loose-points';
import { removeParts } from './remedies/remove-parts';
import { separateParts } from './remedies/separate-parts';
import { splitByMaterial } from './remedies/split-by-material';
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
  forgottenPartsCheck,
  coincidentCheck,
  quadsCheck,
  loopsAtJointsCheck,
  asymmetryCheck,
] as const;

/** The remedies of this room. */
export const remedies = [
  mergePoints,
  turnFaces,
  removeEmptyFaces,
  removeLoosePoints,
  splitJoins,
  fillHoles,
  keepQuads,
  removeParts,
  separateParts,
  joinMeshes,
  splitByMaterial,
  markParts,
  matchSides,
] as const;

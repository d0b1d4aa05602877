/** Surface: polygons and points. */
import { asymmetryCheck } from './checks/asymmetry';
import { coincidentCheck } from './checks/coincident';
import { crossedFacesCheck } from './checks/crossed-faces';
import { emptyFacesCheck } from './checks/empty-faces';
import { forgottenPartsCheck } from './checks/forgotten-parts';
import { holesCheck } from './checks/holes';
import { joinedWronglyCheck } from './checks/joined-wrongly';
import { loopsAtJointsCheck } from './checks/loops-at-joints';
import { loosePointsCheck } from './checks/loose-points';
import { noMeshCheck } from './checks/no-mesh';
import { quadsCheck } from './checks/quads';
import { sliversCheck } from './checks/slivers';
import { windingCheck } from './checks/winding';
import { collapseSlivers } from './remedies/collapse-slivers';
import { fillHoles } from './remedies/fill-holes';
import { joinMeshes } from './remedies/join-meshes';
import { keepQuads } from './remedies/keep-quads';
import { markParts } from './remedies/mark-parts';
import { matchSides } from './remedies/match-sides';
import { mendCrossedFaces } from './remedies/mend-crossed-faces';
import { mergePoints } from './remedies/merge-points';
import { recomputeNormals } from './remedies/recompute-normals';
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
  crossedFacesCheck,
  loosePointsCheck,
  joinedWronglyCheck,
  holesCheck,
  forgottenPartsCheck,
  coincidentCheck,
  sliversCheck,
  quadsCheck,
  loopsAtJointsCheck,
  asymmetryCheck,
] as const;

/** The remedies of this room. */
export const remedies = [
  mergePoints,
  turnFaces,
  removeEmptyFaces,
  mendCrossedFaces,
  collapseSlivers,
  recomputeNormals,
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

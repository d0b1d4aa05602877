/** Left and right of a mesh's weights. */
import { meshSidesOf } from '../../anatomy/mesh-sides';
import { skeletonOf } from '../../anatomy/skeleton';
import { twinsOf } from '../../anatomy/twins';
import { restPlace } from '../../character/hierarchy';
import { characterHeight } from '../../character/measure';
import type { Character } from '../../character/model';
import { dot } from '../../geometry/matrix';
import type { MirrorPlane } from '../../geometry/mirror';
import { boundMesh } from './edits';
import { type PointShares, sharesOfMesh } from './steps';

/** Rows of twins that differ by less are alike. */
export const ALIKE = 0.05;

export interface OddTwins {
  /** Of every point its twin, −1 for none; empty where the figure has no sides. */
  readonly twins: Int32Array;
  /** Points whose weights are not the mirror image of their twins', and by how much the worst differs. */
  readonly differing: readonly number[];
  readonly most: number;
  /** How many points are left out since bones pull them whose twins are not known. */
  readonly unknown: number;
}

/**
 * The points of a mesh whose weights differ from their twins'. Those that bones pull of which it is not known which is whose twin
 * are left out: they stand off the middle, and have none.
 * @param within how near a point lies to its twin's mirror image where faces are followed from, metres
 * @param isByPlace only points that lie so near are twins
 */
export function oddTwins(character: Character, node: number, within?: number, isByPlace = false): OddTwins {
  const { mesh, skin } = boundMesh(character, node);
  const sides = meshSidesOf(character, node, within, isByPlace);
  if (!sides) return { twins: new Int32Array(0), differing: [], most: 0, unknown: 0 };
  const twinNode = twinNodesOf(character);
  const shares = sharesOfMesh(mesh) as PointShares;
  const joint = new Map(skin.joints.map((bone, i) => [bone, i]));
  // A twin that the skin does not list stands apart, so that the two differ.
  const twinJoint = Int32Array.from(skin.joints, (bone, i) => joint.get(twinNode(bone)) ?? -1 - i);
  const isAlone = jointsOfUnknownTwins(character, skin.joints, sides.plane);
  const isUnknown = (point: number) => {
    for (let k = shares.offsets[point]; k < shares.offsets[point + 1]; k++)
      if (isAlone[shares.joint[k]]) return true;
    return false;
  };
  const differing: number[] = [];
  let most = 0;
  let unknown = 0;
  sides.twins.forEach((twin, point) => {
    if (twin < 0 || shares.countAt(point) === 0 || shares.countAt(twin) === 0) return;
    if (isUnknown(point) || isUnknown(twin)) {
      unknown++;
      return;
    }
    const step = shares.step(point, twin, twinJoint);
    if (step <= ALIKE) return;
    differing.push(point);
    most = Math.max(most, step);
  });
  return { twins: sides.twins, differing, most, unknown };
}

/** Of joints whether they stand on a side, and it is not known which is their twin: left and right cannot be exchanged there. */
export function jointsOfUnknownTwins(
  character: Character,
  joints: readonly number[],
  plane: MirrorPlane,
): boolean[] {
  const twinNode = twinNodesOf(character);
  return joints.map((bone) => twinNode(bone) === bone && isOffMiddle(character, bone, plane));
}

/** A bone so far off the middle, as a share of the height, is one of a side. */
const OFF_MIDDLE = 0.015;

const isOffMiddle = (character: Character, bone: number, { normal, offset }: MirrorPlane): boolean =>
  Math.abs(dot(normal, restPlace(character.nodes, bone)) - offset) > OFF_MIDDLE * characterHeight(character);

/** The bone on the other side of every bone, as nodes; itself where it has none. */
export function twinNodesOf(character: Character): (node: number) => number {
  const skeleton = skeletonOf(character);
  const twins = twinsOf(skeleton);
  const at = new Map(skeleton.bones.map(({ node }, i) => [node, i]));
  return (node) => {
    const twin = twins[at.get(node) ?? -1] ?? -1;
    return twin < 0 ? node : skeleton.bones[twin].node;
  };
}

/** The axes along which a joint is moved: the world's, its own at rest, or those of the chain that bends about it. */
import { childrenOf, parentBone, restPlace, restWorld } from '../../character/hierarchy';
import type { Character } from '../../character/model';
import {
  type Vec3,
  cross,
  decompose,
  distance,
  dot,
  length,
  normalise,
  quatRotate,
  subtract,
} from '../../geometry/matrix';

export const JOINT_AXES = ['world', 'own', 'chain'] as const;

export type JointAxes = (typeof JOINT_AXES)[number];

/** Where a joint stands that may have been moved since: world space, metres. */
export type PlaceOfJoint = (bone: number) => Vec3;

const UNITS: readonly Vec3[] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];

/** A chain that is bent by less than this sine has no plane of its own. */
const STRAIGHT = 0.01;

/**
 * Three unit directions in world space, each square to the others. Of a chain: x is the axis about which it bends, y runs
 * along it from the joint above to the one below, z lies in the plane of the bend. Where a chain is straight its x is the own
 * axis that lies most across it; a joint with neither above nor below has its own axes.
 */
export function jointAxes(
  character: Character,
  bone: number,
  axes: JointAxes,
  placeOf: PlaceOfJoint = (node) => restPlace(character.nodes, node) as Vec3,
): readonly [Vec3, Vec3, Vec3] {
  if (axes === 'world') return [UNITS[0], UNITS[1], UNITS[2]];
  const { rotation } = decompose(restWorld(character.nodes), bone * 16);
  const own = UNITS.map((unit) => quatRotate(rotation, unit)) as unknown as [Vec3, Vec3, Vec3];
  return axes === 'own' ? own : (chainAxes(character, bone, placeOf, own) ?? own);
}

function chainAxes(
  { nodes }: Character,
  bone: number,
  placeOf: PlaceOfJoint,
  own: readonly Vec3[],
): readonly [Vec3, Vec3, Vec3] | null {
  const here = placeOf(bone);
  const above = parentBone(nodes, bone);
  const from = above < 0 ? here : placeOf(above);
  const below = childrenOf(nodes)
    [bone].filter((child) => nodes[child].kind === 'bone')
    .map(placeOf);
  // Twist bones hang half way down the limb: the chain goes on where it goes farthest.
  const to = below.reduce((far, place) => (distance(place, here) > distance(far, here) ? place : far), here);
  const way = subtract(to, from);
  if (length(way) < 1e-9) return null;
  const along = normalise(way);
  const bend = cross(subtract(here, from), subtract(to, here));
  const isBent = length(bend) > STRAIGHT * length(subtract(here, from)) * length(subtract(to, here));
  const across = isBent ? normalise(bend) : mostAcross(along, own);
  return [across, along, cross(across, along)];
}

/** Of some directions the one that lies most across another, made square to it. */
function mostAcross(along: Vec3, ways: readonly Vec3[]): Vec3 {
  const [way] = [...ways].sort((one, other) => Math.abs(dot(one, along)) - Math.abs(dot(other, along)));
  const share = dot(way, along);
  return normalise(way.map((x, k) => x - share * along[k]));
}

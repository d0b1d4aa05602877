/**
 * How the two sides of a skeleton stand to each other: the plane between them, which rule their axes follow, and how far
 * each pair is from it.
 */
import {
  type Quat,
  type Vec3,
  distance,
  dot,
  length,
  normalise,
  quatConjugate,
  quatMultiply,
  quatRotate,
  subtract,
} from '../geometry/matrix';
import { type MirrorPlane, mirroredPlace } from '../geometry/mirror';
import type { Skeleton } from './skeleton';

/**
 * How the axes of a right bone follow from those of its twin.
 * - `same-turn`: the same turn about the same own axis moves both as mirror images.
 * - `reflected-x`, `-y`, `-z`: the other two axes are the mirror images; this one points the other way round, as the third
 *   of three axes must.
 * - `equal`: both sides have the same axes.
 */
export const MIRROR_RULES = ['same-turn', 'reflected-x', 'reflected-y', 'reflected-z', 'equal'] as const;

export type MirrorRule = (typeof MIRROR_RULES)[number];

/** Half turns about own axes: what lies between the rules that reflect and the one by which turns are the same. */
const HALF_TURNS: Readonly<Record<MirrorRule, Quat | null>> = {
  'same-turn': [0, 0, 0, 1],
  'reflected-x': [1, 0, 0, 0],
  'reflected-y': [0, 1, 0, 0],
  'reflected-z': [0, 0, 1, 0],
  equal: null,
};

/**
 * The rotation that a bone must have for its twin to follow the rule. With the reflection M, the mirror image of a turn
 * about w is one about −M w, so that `same-turn` wants −M R, which is a half turn about the normal: (n, 0) R.
 */
export function mirroredRotation({ normal }: MirrorPlane, rule: MirrorRule, rotation: Quat): Quat {
  const half = HALF_TURNS[rule];
  if (!half) return rotation;
  // As −M is the half turn about the normal, M R diag(±1) is that of the half turns about own axes.
  return quatMultiply(quatMultiply([normal[0], normal[1], normal[2], 0], rotation), half);
}

/** A bone of the left and its twin, by index. */
export type TwinPair = readonly [left: number, right: number];

/** Rounds in which pairs that are far off count for less and less. */
const ROUNDS = 20;

/**
 * The plane in the middle of most pairs, whatever some of them do; null where there are none, or they lie on each other. Its
 * normal is the direction that the ways between twins have most in common, each weighted by how near its pair is to the
 * plane of the round before (iteratively reweighted least squares with Cauchy's weights). It points to the first of most
 * pairs.
 * @param middle bones that have no side, by index: most of them stand on it
 */
export function mirrorPlaneOf(
  { bones }: Skeleton,
  twins: readonly TwinPair[],
  middle: readonly number[] = [],
): MirrorPlane | null {
  if (twins.length === 0) return null;
  // A bone of the middle is its own mirror image: it tells where the plane is, and not how it lies.
  const pairs = [...twins, ...middle.map((bone): TwinPair => [bone, bone])];
  const ways = pairs.map(([one, other]) => subtract(bones[one].place, bones[other].place));
  let weights = new Float64Array(pairs.length).fill(1);
  let plane: MirrorPlane | null = null;
  for (let round = 0; round < ROUNDS; round++) {
    const normal = commonDirection(ways, weights, plane?.normal);
    if (!normal) return plane;
    const sums = pairs.map(([one, other]) => dot(normal, bones[one].place) + dot(normal, bones[other].place));
    const next: MirrorPlane = { normal, offset: weightedMedian(sums, weights) / 2 };
    const apart = Float64Array.from(pairs, ([one, other]) =>
      distance(mirroredPlace(next, bones[one].place), bones[other].place),
    );
    plane = next;
    const scale = apart.toSorted()[Math.floor(apart.length / 2)] + 1e-12;
    weights = apart.map((off) => 1 / (1 + (off / scale) ** 2));
  }
  if (!plane) return null;
  const { normal, offset } = plane;
  const isTurned = ways.filter((way) => dot(way, normal) < 0).length > twins.length / 2;
  return isTurned ? { normal: [-normal[0], -normal[1], -normal[2]], offset: -offset } : plane;
}

/** The direction along which ways lie most, either way round: the first eigenvector of their outer products. */
function commonDirection(
  ways: readonly Vec3[],
  weights: Float64Array,
  before: Vec3 | undefined,
): Vec3 | null {
  const longest = ways.reduce<Vec3>((a, b) => (length(b) > length(a) ? b : a), [0, 0, 0]);
  if (length(longest) < 1e-9) return null;
  let direction = before ?? normalise(longest);
  for (let step = 0; step < ROUNDS; step++) {
    const next = [0, 0, 0];
    ways.forEach((way, i) => {
      const along = weights[i] * dot(way, direction);
      for (let k = 0; k < 3; k++) next[k] += along * way[k];
    });
    if (length(next) < 1e-18) return direction;
    direction = normalise(next);
  }
  return direction;
}

function weightedMedian(values: readonly number[], weights: Float64Array): number {
  const order = values.map((_, i) => i).sort((i, j) => values[i] - values[j]);
  const half = weights.reduce((sum, weight) => sum + weight, 0) / 2;
  let sum = 0;
  return values[order.find((i) => (sum += weights[i]) >= half) ?? order[0]];
}

/** A bone of each side, with the rule that their limb follows; null for none. */
export interface RuledPair {
  readonly pair: TwinPair;
  readonly rule: MirrorRule | null;
}

/** How far a pair is from being mirror images. */
export interface PairDeviation {
  /**
   * Metres between the right joint and where the left one’s mirror image is, in the world or as seen from the bones that
   * the two hang on, whichever is nearer: of an arm that is held otherwise the shoulder is told, and not the hand.
   */
  readonly apart: number;
  /** Degrees that the right bone is turned away from what the rule wants, about each of its own axes. */
  readonly turned: Vec3;
  /** The same in all, degrees. */
  readonly angle: number;
}

/** How far a pair is from a rule; `above`: the pair that it hangs on, null where it hangs on the middle. */
export function pairDeviation(
  skeleton: Skeleton,
  plane: MirrorPlane,
  rule: MirrorRule,
  pair: TwinPair,
  above: RuledPair | null = null,
): PairDeviation {
  const { bones } = skeleton;
  const [left, right] = pair;
  const wanted = mirroredRotation(plane, rule, bones[left].rotation);
  const inWorld = turnBetween(wanted, bones[right].rotation);
  const inPlace = distance(mirroredPlace(plane, bones[left].place), bones[right].place);
  const apart = Math.min(inPlace, apartFromMiddle(skeleton, plane, pair));
  if (!above) return { apart, turned: inWorld, angle: length(inWorld) };
  // What the bone above is off by may go on to what hangs on it, and is then none of its own.
  const carried = above.rule ? turnOf(skeleton, plane, above.rule, above.pair) : null;
  const fromAbove = carried ? turnBetween(quatMultiply(carried, wanted), bones[right].rotation) : inWorld;
  const turned = length(fromAbove) < length(inWorld) ? fromAbove : inWorld;
  return {
    apart: Math.min(apart, apartFromAbove(skeleton, plane, pair, above.pair, carried)),
    turned,
    angle: length(turned),
  };
}

/** A bone of the middle so far off the plane is turned to a side with all that it carries, metres. */
const OFF = 0.005;

/**
 * What can be said of a pair on a head that is turned, which carries both its ears to one side: how much farther from it
 * one stands than the other. Infinite where what the pair hangs on stands in the middle, and the plane says more.
 */
function apartFromMiddle({ bones }: Skeleton, plane: MirrorPlane, [left, right]: TwinPair): number {
  const { parent } = bones[left];
  if (parent < 0 || parent !== bones[right].parent) return Infinity;
  const { place, rotation } = bones[parent];
  const isTurned = MIRROR_RULES.every(
    (rule) => length(turnBetween(mirroredRotation(plane, rule, rotation), rotation)) > NEAR,
  );
  if (!isTurned && Math.abs(dot(plane.normal, place) - plane.offset) < OFF) return Infinity;
  return Math.abs(distance(bones[left].place, place) - distance(bones[right].place, place));
}

/** The turn in the world that takes the mirror image of a left bone to the right one. */
function turnOf({ bones }: Skeleton, plane: MirrorPlane, rule: MirrorRule, [left, right]: TwinPair): Quat {
  const wanted = mirroredRotation(plane, rule, bones[left].rotation);
  return quatMultiply(bones[right].rotation, quatConjugate(wanted));
}

function apartFromAbove(
  { bones }: Skeleton,
  plane: MirrorPlane,
  [left, right]: TwinPair,
  [leftAbove, rightAbove]: TwinPair,
  carried: Quat | null,
): number {
  const way = subtract(mirroredPlace(plane, bones[left].place), mirroredPlace(plane, bones[leftAbove].place));
  const wanted = carried ? quatRotate(carried, way) : way;
  return distance(wanted, subtract(bones[right].place, bones[rightAbove].place));
}

/** The turn from one rotation to another about the first one’s own axes, degrees: axis times angle. */
export function turnBetween(from: Quat, to: Quat): Vec3 {
  const [x, y, z, w] = quatMultiply(quatConjugate(from), to);
  const sine = Math.hypot(x, y, z);
  if (sine < 1e-12) return [0, 0, 0];
  const angle = (2 * Math.atan2(sine, Math.abs(w)) * 180) / Math.PI;
  const factor = ((w < 0 ? -1 : 1) * angle) / sine;
  return [x * factor, y * factor, z * factor];
}

/** Pairs this near a rule follow it, degrees. */
const NEAR = 3;

/** So large a share of all pairs must follow one rule for it to be the skeleton’s. */
const MOST = 0.6;

/** The rule that most pairs of a skeleton follow; null where no rule is followed by most. */
export function mirrorRuleOf(
  skeleton: Skeleton,
  plane: MirrorPlane,
  pairs: readonly TwinPair[],
): MirrorRule | null {
  let best: MirrorRule | null = null;
  let most = MOST * pairs.length;
  for (const rule of MIRROR_RULES) {
    const count = pairs.filter((pair) => pairDeviation(skeleton, plane, rule, pair).angle < NEAR).length;
    if (count > most) [best, most] = [rule, count];
  }
  return best;
}

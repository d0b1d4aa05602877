/** Which side of a figure is which, told from what lies ahead on it. */
import { cross, dot, length, normalise, subtract, type Vec3 } from '../geometry/matrix';
import type { SkeletonReading } from './looks';
import type { SkeletonShape } from './shape';
import { fleshAt } from './skeleton';

/**
 * Whether the sides of two skeletons, as their shapes number them, lie alike (above 0) or exchanged (below 0).
 * Seen along the trunk and across it, what is ahead is ahead on both: feet and thumbs point there, knees lie there
 * and elbows do not, in every stance. Every joint votes with how clear it is on both. Where none does, both are
 * taken to look the same way.
 */
export function handedness(
  sourceSide: SkeletonReading,
  targetSide: SkeletonReading,
  pairs: Int32Array,
): number {
  const top = topOfTrunk(sourceSide, targetSide, pairs);
  const mine = aheadOf(sourceSide, top);
  const theirs = aheadOf(targetSide, top < 0 ? -1 : pairs[top]);
  if (!mine || !theirs) return 0;
  let sum = 1e-3 * dot(mine.across, theirs.across);
  for (let i = 0; i < sourceSide.shape.count; i++) {
    if (pairs[i] < 0) continue;
    const pair = pairedAbove(sourceSide.shape, pairs, i);
    if (pair < 0) continue;
    const below = pairedBelow(sourceSide.shape, pairs, i);
    const [own, j, lower] = [pairs[pair], pairs[i], below < 0 ? -1 : pairs[below]];
    const weight = sourceSide.shape.fan[i] >= 0 ? 0.15 : 1;
    if (below < 0) {
      sum += weight * pointing(sourceSide, pair, i, mine.ahead) * pointing(targetSide, own, j, theirs.ahead);
      if (sourceSide.shape.fan[i] < 0 && (hasFlesh(sourceSide, i) || hasFlesh(targetSide, j)))
        sum += beyond(sourceSide, i, mine.ahead) * beyond(targetSide, j, theirs.ahead);
    } else {
      sum +=
        weight *
        bulging(sourceSide, pair, i, below, mine.ahead) *
        clear(bulging(targetSide, own, j, lower, theirs.ahead));
    }
    if (sourceSide.shape.fan[i] >= 0 && sourceSide.shape.fan[pair] !== sourceSide.shape.fan[i])
      sum +=
        besideOthers(sourceSide, pairs, pair, i, mine.ahead, (x) => x) *
        besideOthers(sourceSide, pairs, pair, i, theirs.ahead, (x) => pairs[x], targetSide);
  }
  return sum;
}

/** The paired bone in the middle that stands farthest on from the core on both; −1 for none. */
function topOfTrunk(sourceSide: SkeletonReading, targetSide: SkeletonReading, pairs: Int32Array): number {
  let top = -1;
  let most = 0;
  pairs.forEach((j, i) => {
    if (j < 0 || sourceSide.side[i] !== 0 || targetSide.side[j] !== 0) return;
    const far = Math.min(
      sourceSide.shape.way[i] / sourceSide.shape.reach,
      targetSide.shape.way[j] / targetSide.shape.reach,
    );
    if (far > most) [top, most] = [i, far];
  });
  return top;
}

/** The nearest paired bone above; −1 for none. */
export function pairedAbove({ parents }: SkeletonShape, pairs: Int32Array, i: number): number {
  let parent = parents[i];
  while (parent >= 0 && pairs[parent] < 0) parent = parents[parent];
  return parent;
}

/** The paired bone below on the longest way on; −1 for none. */
function pairedBelow({ children, below, span }: SkeletonShape, pairs: Int32Array, i: number): number {
  const sorted = [...children[i]].sort((a, b) => below[b] + span[b] - below[a] - span[a]);
  for (const bone of sorted) {
    if (pairs[bone] >= 0) return bone;
    const found = pairedBelow({ children, below, span } as SkeletonShape, pairs, bone);
    if (found >= 0) return found;
  }
  return -1;
}

const unit = (vector: Vec3): Vec3 => (length(vector) > 1e-12 ? normalise(vector) : [0, 0, 0]);

/** How far a bone points along a direction, −1 … 1. */
function pointing({ shape: { places } }: SkeletonReading, from: number, to: number, ahead: Vec3): number {
  return dot(unit(subtract(places[to], places[from])), ahead);
}

/**
 * How far what ends at a bone reaches along a direction, −1 … 1: its flesh from its joint, as a foot reaches ahead of the
 * ankle whether it has toes or not; where nothing is bound, the bones that hang there, or itself from the one above.
 */
function beyond(
  { shape: { children, parents, places }, skeleton }: SkeletonReading,
  bone: number,
  ahead: Vec3,
): number {
  const along = (from: Vec3, to: Vec3) => dot(unit(subtract(to, from)), ahead);
  const flesh = fleshAt(skeleton, bone);
  if (flesh) return along(places[bone], flesh);
  const ends = children[bone].map((child) => along(places[bone], places[child]));
  if (ends.length > 0) return ends.reduce((sum, x) => sum + x, 0) / ends.length;
  return parents[bone] < 0 ? 0 : along(places[parents[bone]], places[bone]);
}

const hasFlesh = ({ skeleton }: SkeletonReading, bone: number) => fleshAt(skeleton, bone) !== undefined;

/** A bend in a template says which way a joint turns, however slight it is. */
const clear = (x: number): number => x / (Math.abs(x) + 0.03);

/** How far a joint stands off the line between its neighbours along a direction, as a share of that line. */
function bulging(
  { shape: { places } }: SkeletonReading,
  a: number,
  b: number,
  bone: number,
  ahead: Vec3,
): number {
  const line = subtract(places[bone], places[a]);
  const off = subtract(places[b], places[a]);
  const square = dot(line, line);
  if (square < 1e-18) return 0;
  const share = dot(off, line) / square;
  const rest: Vec3 = [off[0] - share * line[0], off[1] - share * line[1], off[2] - share * line[2]];
  return Math.max(-1, Math.min(1, (4 * dot(rest, ahead)) / Math.sqrt(square)));
}

/** How far the beginning of a chain in a fan lies from the others along a direction, as a share of its way there. */
function besideOthers(
  otherSide: SkeletonReading,
  pairs: Int32Array,
  otherBone: number,
  i: number,
  ahead: Vec3,
  of: (bone: number) => number,
  side: SkeletonReading = otherSide,
): number {
  const others = otherSide.shape.children[otherBone].filter((child) => child !== i && pairs[child] >= 0);
  if (others.length < 2) return 0;
  const { places } = side.shape;
  const from = places[of(otherBone)];
  const middle =
    others.reduce((sum, other) => sum + dot(subtract(places[of(other)], from), ahead), 0) / others.length;
  const way = Math.max(1e-9, ...others.map((other) => length(subtract(places[of(other)], from))));
  return (dot(subtract(places[of(i)], from), ahead) - middle) / way;
}

/**
 * Across the body, from side −1 to side 1, and square to it and to the trunk: ahead. Null where sides are not
 * known.
 */
function aheadOf({ shape, side }: SkeletonReading, top: number): { across: Vec3; ahead: Vec3 } | null {
  const sum: [number, number, number] = [0, 0, 0];
  for (let i = 0; i < shape.count; i++) {
    const other = shape.twin[i];
    if (other < 0 || shape.limb[i] !== i || side[i] <= 0) continue;
    const vector = subtract(shape.places[i], shape.places[other]);
    for (let k = 0; k < 3; k++) sum[k] += vector[k];
  }
  if (length(sum) < 1e-9 || top < 0) return null;
  const across = normalise(sum);
  const up = subtract(shape.places[top], shape.places[shape.core]);
  const ahead = cross(across, up);
  return length(ahead) < 1e-9 ? null : { across, ahead: normalise(ahead) };
}

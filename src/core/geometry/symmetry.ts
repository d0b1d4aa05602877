/** The plane that a body is the same on both sides of: along x by a quick look, or any by fitting it to pairs of twins. */
import { type Vec3, cross, dot, normalise } from './matrix';
import { type MirrorPlane, mirroredPlace } from './mirror';
import { PointTree } from './point-tree';

/** The plane that a figure is the same on both sides of. */
export interface Symmetry {
  /** The plane is x = offset, metres. */
  readonly offset: number;
  /** Share of the points that have a twin within the tolerance, 0 … 1. */
  readonly share: number;
}

const MOST_ASKED = 4_000;

/** Of a dense body so many points are looked at, or this share where that is more: thinner slices would part twins. */
const ENOUGH_FINDABLE = 40_000;
const LEAST_FINDABLE = 0.1;

const findable = (total: number) => Math.max(ENOUGH_FINDABLE, LEAST_FINDABLE * total);

/**
 * Finds the plane x = c about which points mirror best. A first c comes from bars of points at one height and
 * depth (half the sum of their ends, the median of all); it is then refined by pairing every asked point with
 * its nearest mirrored one.
 * @param sets Float32Arrays, 3 per point, one space
 * @param tolerance metres within which two points are twins
 */
export function symmetryOf(sets: readonly Float32Array[], tolerance: number): Symmetry | null {
  const total = sets.reduce((sum, cloud) => sum + cloud.length / 3, 0);
  if (total < 8 || !(tolerance > 0)) return null;
  // Of a dense mesh the points of a few thin slices serve: a slice holds twins whole, a random sample would
  // part them.
  const points = total > findable(total) ? slices(sets, total) : joinSets(sets, total);
  const count = points.length / 3;
  if (count < 8) return null;
  const offset = middleOfBars(points, tolerance * 4);
  const tree = new PointTree(points);
  const step = Math.max(1, Math.floor(count / MOST_ASKED));
  let at = offset;
  let share = 0;
  for (let round = 0; round < 3; round++) {
    let sum = 0;
    let hits = 0;
    let asked = 0;
    for (let point = 0; point < count; point += step) {
      asked++;
      const twin = tree.nearest(
        2 * at - points[point * 3],
        points[point * 3 + 1],
        points[point * 3 + 2],
        tolerance,
      );
      if (twin < 0) continue;
      hits++;
      sum += (points[twin * 3] + points[point * 3]) / 2;
    }
    share = hits / asked;
    if (hits === 0) break;
    at = sum / hits;
  }
  return { offset: at, share };
}

function joinSets(sets: readonly Float32Array[], total: number): Float32Array {
  const out = new Float32Array(total * 3);
  let o = 0;
  for (const cloud of sets) {
    out.set(cloud, o);
    o += cloud.length;
  }
  return out;
}

/** The points of sixteen horizontal slices, together as many as may be asked for. */
function slices(sets: readonly Float32Array[], total: number): Float32Array {
  let low = Infinity;
  let high = -Infinity;
  for (const cloud of sets)
    for (let i = 1; i < cloud.length; i += 3) {
      if (cloud[i] < low) low = cloud[i];
      if (cloud[i] > high) high = cloud[i];
    }
  const period = (high - low) / 16 || 1;
  const thick = period * (findable(total) / total);
  const out: number[] = [];
  for (const cloud of sets)
    for (let i = 0; i < cloud.length; i += 3)
      if ((cloud[i + 1] - low) % period < thick) out.push(cloud[i], cloud[i + 1], cloud[i + 2]);
  return Float32Array.from(out);
}

function middleOfBars(points: Float32Array, size: number): number {
  const bars = new Map<number, number>();
  const least: number[] = [];
  const most: number[] = [];
  for (let i = 0; i < points.length; i += 3) {
    const key = Math.floor(points[i + 1] / size) * 1_000_003 + Math.floor(points[i + 2] / size);
    const b = bars.get(key);
    if (b === undefined) {
      bars.set(key, least.push(points[i]) - 1);
      most.push(points[i]);
    } else {
      if (points[i] < least[b]) least[b] = points[i];
      if (points[i] > most[b]) most[b] = points[i];
    }
  }
  const middles = least.map((x, index) => (x + most[index]) / 2).sort((a, b) => a - b);
  return middles[Math.floor(middles.length / 2)];
}

/** A plane with the share of points that have a twin across it, 0 … 1. */
export interface PlaneOfSymmetry extends MirrorPlane {
  readonly share: number;
}

/** Twins are looked for within these shares of the size at first, ever nearer, down to the tolerance. */
const FROM_AFAR = [0.06, 0.03, 0.015, 0.008, 0.004, 0.002, 0.001, 0];

/** How often a plane is fitted within each of them. */
const ROUNDS = 3;

/** Shells of a dense body that are looked at. */
const SHELLS = 16;

/** A plane across which so many points have twins is the one. */
const BEYOND_DOUBT = 0.8;

/** Points that a plane is fitted to. */
const MOST_FITTED = 1_200;

/** Pairs nearer to each other than this share of the size say nothing of which way the plane faces. */
const FAR_ENOUGH = 0.02;

/**
 * The plane about which points mirror best, whichever way it faces: from planes across the axes and the main directions, each is
 * fitted to the pairs that it makes (its normal along their differences, its place through their middles) within ever smaller
 * distances, so that what is there on one side only falls out. Null of fewer than 8 points.
 * @param points Float32Array, 3 per point, metres
 * @param tolerance metres within which two points are twins
 */
export function planeOfSymmetry(points: Float32Array, tolerance: number): PlaneOfSymmetry | null {
  const count = points.length / 3;
  if (count < 8 || !(tolerance > 0)) return null;
  if (count > findable(count)) {
    const plane = bestPlane(shells(points), tolerance);
    if (plane && plane.share >= BEYOND_DOUBT) return plane;
  }
  return bestPlane(points, tolerance);
}

/**
 * The points of thin shells about their middle, together as many as may be asked for: a plane of symmetry goes through the middle,
 * or nearly, so that a shell holds twins whole whichever way the plane faces.
 */
function shells(points: Float32Array): Float32Array {
  const [mx, my, mz] = middleOf(points);
  const period = sizeOf(points) / SHELLS || 1;
  const count = points.length / 3;
  const thick = period * (findable(count) / count);
  const out: number[] = [];
  for (let i = 0; i < points.length; i += 3) {
    const [x, y, z] = [points[i], points[i + 1], points[i + 2]];
    if (Math.sqrt((x - mx) ** 2 + (y - my) ** 2 + (z - mz) ** 2) % period < thick) out.push(x, y, z);
  }
  return Float32Array.from(out);
}

function bestPlane(points: Float32Array, tolerance: number): PlaneOfSymmetry | null {
  const count = points.length / 3;
  if (count < 8) return null;
  const tree = new PointTree(points);
  const asked = askedPoints(count, MOST_ASKED);
  const fittedTo = askedPoints(count, MOST_FITTED);
  const size = sizeOf(points);
  const middle = middleOf(points);
  let best: PlaneOfSymmetry | null = null;
  const starts = function* () {
    yield* startNormals(points, middle);
    yield* likelyNormals(points, tree, size);
  };
  for (const normal of starts()) {
    let plane: MirrorPlane = { normal, offset: middleAcross(points, normal, size) };
    // Where the first look is right already only the last rounds are needed.
    const isThere = twinShare(points, tree, fittedTo, plane, tolerance) >= BEYOND_DOUBT;
    for (const share of isThere ? FROM_AFAR.slice(-2) : FROM_AFAR)
      for (let round = 0; round < (isThere ? 1 : ROUNDS); round++)
        plane = fitted(points, tree, fittedTo, plane, Math.max(tolerance, share * size), FAR_ENOUGH * size);
    const found = { ...plane, share: twinShare(points, tree, asked, plane, tolerance) };
    if (!best || found.share > best.share + 1e-9) best = found;
    if (best.share >= BEYOND_DOUBT) break;
  }
  return best;
}

function askedPoints(count: number, most: number): Uint32Array {
  const step = Math.max(1, Math.floor(count / most));
  return Uint32Array.from({ length: Math.ceil(count / step) }, (_, i) => i * step);
}

const placeOf = (points: Float32Array, point: number): Vec3 => [
  points[point * 3],
  points[point * 3 + 1],
  points[point * 3 + 2],
];

function middleOf(points: Float32Array): Vec3 {
  let [x, y, z] = [0, 0, 0];
  for (let i = 0; i < points.length; i += 3) {
    x += points[i];
    y += points[i + 1];
    z += points[i + 2];
  }
  const count = points.length / 3;
  return [x / count, y / count, z / count];
}

/** The diagonal of their box. */
function sizeOf(points: Float32Array): number {
  const sides = [0, 1, 2].map((k) => {
    let low = Infinity;
    let high = -Infinity;
    for (let i = k; i < points.length; i += 3) {
      if (points[i] < low) low = points[i];
      if (points[i] > high) high = points[i];
    }
    return high - low;
  });
  return Math.hypot(...sides);
}

/** Across the axes, and across the main directions of the points. The axes come first: of two as good they are meant. */
function* startNormals(points: Float32Array, middle: Vec3): Generator<Vec3> {
  yield* [
    [1, 0, 0],
    [0, 0, 1],
    [0, 1, 0],
  ] as const;
  const spread = new Float64Array(9);
  for (let i = 0; i < points.length; i += 3)
    for (let row = 0; row < 3; row++)
      for (let column = 0; column < 3; column++)
        spread[row * 3 + column] += (points[i + row] - middle[row]) * (points[i + column] - middle[column]);
  const first = mainDirection(spread, [1, 0.3, 0.2]);
  const length = (v: Vec3) => dot(v, times(spread, v));
  const along = length(first);
  const rest = spread.map((x, k) => x - along * first[Math.floor(k / 3)] * first[k % 3]);
  const second = mainDirection(rest, [0.2, 1, 0.3]);
  const third = normalise(cross(first, second));
  yield* [first, second, third];
}

/** Side of a bar, as a share of the size. */
const BAR = 0.012;

/**
 * Where the middle of a body lies along a direction: the median of the middles of bars along it, so that an arm that is there on one
 * side only shifts nothing.
 */
function middleAcross(points: Float32Array, normal: Vec3, size: number): number {
  const aside: Vec3 = Math.abs(normal[0]) < 0.7 ? [1, 0, 0] : [0, 1, 0];
  const first = normalise(cross(normal, aside));
  const second = cross(normal, first);
  const bars = new Map<number, [number, number]>();
  const cell = BAR * size;
  for (let i = 0; i < points.length; i += 3) {
    const place: Vec3 = [points[i], points[i + 1], points[i + 2]];
    const key = Math.floor(dot(first, place) / cell) * 1_000_003 + Math.floor(dot(second, place) / cell);
    const along = dot(normal, place);
    const bar = bars.get(key);
    if (!bar) bars.set(key, [along, along]);
    else if (along < bar[0]) bar[0] = along;
    else if (along > bar[1]) bar[1] = along;
  }
  const middles = Float64Array.from(bars.values(), ([low, high]) => (low + high) / 2).sort();
  return middles[middles.length >> 1];
}

/** Directions that are tried from afar, points that each is tried on, and how many of the best are followed. */
const DIRECTIONS = 96;
const TRIED = 256;
const FOLLOWED = 6;

/** Of directions evenly over a half ball those across which most points have something near: for bodies that lost a part of one side. */
function likelyNormals(points: Float32Array, tree: PointTree, size: number): Vec3[] {
  const asked = askedPoints(points.length / 3, TRIED);
  const golden = Math.PI * (3 - Math.sqrt(5));
  const scored = Array.from({ length: DIRECTIONS }, (_, i) => {
    const z = (i + 0.5) / DIRECTIONS;
    const out = Math.sqrt(1 - z * z);
    const normal: Vec3 = [out * Math.cos(golden * i), out * Math.sin(golden * i), z];
    const plane = { normal, offset: middleAcross(points, normal, size) };
    return { normal, share: twinShare(points, tree, asked, plane, FROM_AFAR[0] * size) };
  });
  scored.sort((a, b) => b.share - a.share);
  return scored.slice(0, FOLLOWED).map(({ normal }) => normal);
}

const times = (m: ArrayLike<number>, v: Vec3): Vec3 => [
  m[0] * v[0] + m[1] * v[1] + m[2] * v[2],
  m[3] * v[0] + m[4] * v[1] + m[5] * v[2],
  m[6] * v[0] + m[7] * v[1] + m[8] * v[2],
];

/** The direction of the largest spread, by power iteration from a first guess. `m`: 9 numbers, symmetric. */
function mainDirection(m: ArrayLike<number>, guess: Vec3): Vec3 {
  let direction = normalise(guess);
  for (let round = 0; round < 64; round++) {
    const next = times(m, direction);
    if (Math.hypot(...next) < 1e-30) return direction;
    direction = normalise(next);
  }
  return direction;
}

/** The plane that fits the pairs best that another one makes. */
function fitted(
  points: Float32Array,
  tree: PointTree,
  asked: Uint32Array,
  plane: MirrorPlane,
  within: number,
  farEnough: number,
): MirrorPlane {
  const spread = new Float64Array(9);
  const middles: Vec3[] = [];
  for (const point of asked) {
    const place = placeOf(points, point);
    const twin = tree.nearest(...mirroredPlace(plane, place), within);
    if (twin < 0) continue;
    const other = placeOf(points, twin);
    middles.push([(place[0] + other[0]) / 2, (place[1] + other[1]) / 2, (place[2] + other[2]) / 2]);
    const off: Vec3 = [place[0] - other[0], place[1] - other[1], place[2] - other[2]];
    if (Math.hypot(...off) < farEnough) continue;
    for (let k = 0; k < 9; k++) spread[k] += off[Math.floor(k / 3)] * off[k % 3];
  }
  if (middles.length === 0) return plane;
  const found = mainDirection(spread, plane.normal);
  const normal: Vec3 = dot(found, plane.normal) < 0 ? [-found[0], -found[1], -found[2]] : found;
  const offsets = Float64Array.from(middles, (middle) => dot(normal, middle)).sort();
  return { normal, offset: offsets[offsets.length >> 1] };
}

function twinShare(
  points: Float32Array,
  tree: PointTree,
  asked: Uint32Array,
  plane: MirrorPlane,
  tolerance: number,
): number {
  let hits = 0;
  for (const point of asked)
    if (tree.nearest(...mirroredPlace(plane, placeOf(points, point)), tolerance) >= 0) hits++;
  return hits / asked.length;
}

/** Where the plane of symmetry of a body lies. */
import { PointTree } from '../../geometry/point-tree';

/** The plane that a figure is the same on both sides of. */
export interface Symmetry {
  /** The plane is x = offset, metres. */
  readonly offset: number;
  /** Share of the points that have a twin within the tolerance, 0 … 1. */
  readonly share: number;
}

const MOST_ASKED = 4_000;
const MOST_FINDABLE = 100_000;

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
  const points = total > MOST_FINDABLE ? slices(sets, total) : joinSets(sets, total);
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
  const thick = period * (MOST_FINDABLE / total);
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

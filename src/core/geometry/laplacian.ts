/**
 * The cotangent Laplacian of a surface (Pinkall & Polthier 1993; Meyer et al. 2003): a sparse symmetric matrix over points whose
 * rows sum to zero, and the area that belongs to every point.
 */

/** A symmetric matrix: row i has the entries offsets[i] … offsets[i + 1] beside its diagonal. */
export interface SparseSymmetric {
  readonly size: number;
  readonly offsets: Uint32Array;
  readonly columns: Uint32Array;
  readonly values: Float64Array;
  readonly diagonal: Float64Array;
}

export interface SurfaceLaplacian {
  /** Positive semidefinite: minus the Laplace operator times the areas. No unit. */
  readonly stiffness: SparseSymmetric;
  /** A third of every triangle at each of its corners, square metres or whatever the points are in. */
  readonly areas: Float64Array;
}

/** A cotangent is not larger than this: needles would outweigh all else. */
const STEEPEST = 20;

/**
 * @param offsets, corners polygons over vertices; quads are cut along both diagonals, each counting half
 * @param pointOfVertex the point of every vertex
 * @param places 3 per point
 */
export function surfaceLaplacian(
  offsets: Uint32Array,
  corners: Uint32Array,
  pointOfVertex: Uint32Array,
  places: ArrayLike<number>,
): SurfaceLaplacian {
  const size = places.length / 3;
  const areas = new Float64Array(size);
  const edges = new EdgeSums(size);
  const add = (one: number, second: number, third: number, share: number) => {
    const ring = [pointOfVertex[one], pointOfVertex[second], pointOfVertex[third]];
    if (ring[0] === ring[1] || ring[1] === ring[2] || ring[2] === ring[0]) return;
    const double = crossLength(places, ring[0], ring[1], ring[2]);
    for (const point of ring) areas[point] += (share * double) / 6;
    if (!(double > 0)) return;
    for (let k = 0; k < 3; k++) {
      const [from, to, across] = [ring[k], ring[(k + 1) % 3], ring[(k + 2) % 3]];
      const cotangent = dotBetween(places, across, from, to) / double;
      edges.add(from, to, (share * Math.min(STEEPEST, Math.max(-STEEPEST, cotangent))) / 2);
    }
  };
  for (let polygon = 0; polygon + 1 < offsets.length; polygon++) {
    const [from, to] = [offsets[polygon], offsets[polygon + 1]];
    const isQuad = to - from === 4;
    for (let k = from + 1; k + 1 < to; k++) add(corners[from], corners[k], corners[k + 1], isQuad ? 0.5 : 1);
    if (!isQuad) continue;
    add(corners[from + 1], corners[from + 2], corners[from + 3], 0.5);
    add(corners[from + 1], corners[from + 3], corners[from], 0.5);
  }
  return { stiffness: edges.matrix(), areas };
}

/** What edges add up to, as a matrix. */
class EdgeSums {
  private readonly firsts: number[] = [];
  private readonly seconds: number[] = [];
  private readonly sums: number[] = [];

  constructor(private readonly size: number) {}

  add(one: number, other: number, value: number): void {
    this.firsts.push(one);
    this.seconds.push(other);
    this.sums.push(value);
  }

  /** The matrix with −value beside the diagonal and the sums on it. */
  matrix(): SparseSymmetric {
    const { firsts, seconds, sums, size } = this;
    const starts = new Uint32Array(size + 1);
    for (const point of firsts) starts[point + 1]++;
    for (const point of seconds) starts[point + 1]++;
    for (let i = 0; i < size; i++) starts[i + 1] += starts[i];
    const next = starts.slice(0, size);
    const others = new Uint32Array(starts[size]);
    const values = new Float64Array(starts[size]);
    sums.forEach((value, k) => {
      for (const [own, other] of [
        [firsts[k], seconds[k]],
        [seconds[k], firsts[k]],
      ]) {
        others[next[own]] = other;
        values[next[own]++] = value;
      }
    });
    return joinedRows(size, starts, others, values);
  }
}

/** Entries of one place added up, row by row. */
function joinedRows(
  size: number,
  starts: Uint32Array,
  others: Uint32Array,
  values: Float64Array,
): SparseSymmetric {
  const offsets = new Uint32Array(size + 1);
  const columns = new Uint32Array(others.length);
  const joined = new Float64Array(others.length);
  const diagonal = new Float64Array(size);
  const at = new Int32Array(size).fill(-1);
  let end = 0;
  for (let row = 0; row < size; row++) {
    const begin = end;
    for (let k = starts[row]; k < starts[row + 1]; k++) {
      const column = others[k];
      diagonal[row] += values[k];
      if (at[column] < begin) {
        at[column] = end;
        columns[end] = column;
        joined[end++] = 0;
      }
      joined[at[column]] -= values[k];
    }
    offsets[row + 1] = end;
  }
  return { size, offsets, columns: columns.slice(0, end), values: joined.slice(0, end), diagonal };
}

/** Twice the area of a triangle. */
function crossLength(places: ArrayLike<number>, one: number, second: number, third: number): number {
  const x1 = places[second * 3] - places[one * 3];
  const y1 = places[second * 3 + 1] - places[one * 3 + 1];
  const z1 = places[second * 3 + 2] - places[one * 3 + 2];
  const x2 = places[third * 3] - places[one * 3];
  const y2 = places[third * 3 + 1] - places[one * 3 + 1];
  const z2 = places[third * 3 + 2] - places[one * 3 + 2];
  return Math.hypot(y1 * z2 - z1 * y2, z1 * x2 - x1 * z2, x1 * y2 - y1 * x2);
}

/** The product of the ways from one point to two others. */
function dotBetween(places: ArrayLike<number>, from: number, one: number, other: number): number {
  let sum = 0;
  for (let k = 0; k < 3; k++)
    sum += (places[one * 3 + k] - places[from * 3 + k]) * (places[other * 3 + k] - places[from * 3 + k]);
  return sum;
}

/**
 * Sparse systems with a symmetric positive definite matrix, solved exactly: an up-looking Cholesky factor along the elimination tree
 * (Davis, *Direct Methods for Sparse Linear Systems*, ch. 4), the rows ordered by nested dissection of the places that they stand for
 * (George 1973), which keeps the factor of a surface nearly as thin as n·log n.
 */
import type { SparseSymmetric } from './laplacian';

/** So few rows are not parted further. */
const SMALL = 24;

/**
 * An order of rows in which a factor stays thin: halves first, what lies between them last, and so on in each half.
 * @param places 3 per row
 */
export function nestedDissection(
  { size, offsets, columns }: SparseSymmetric,
  places: ArrayLike<number>,
): Uint32Array {
  const out = new Uint32Array(size);
  let end = 0;
  const side = new Int8Array(size);
  const part = (rows: Uint32Array): void => {
    if (rows.length <= SMALL) {
      out.set(rows, end);
      end += rows.length;
      return;
    }
    const axis = widestAxis(rows, places);
    const sorted = rows.slice().sort((a, b) => places[a * 3 + axis] - places[b * 3 + axis] || a - b);
    const half = sorted.length >> 1;
    sorted.forEach((row, i) => {
      side[row] = i < half ? 1 : 2;
    });
    const between: number[] = [];
    const beyond: number[] = [];
    for (let i = half; i < sorted.length; i++) {
      let touches = false;
      for (let k = offsets[sorted[i]]; k < offsets[sorted[i] + 1] && !touches; k++)
        touches = side[columns[k]] === 1;
      (touches ? between : beyond).push(sorted[i]);
    }
    for (const row of sorted) side[row] = 0;
    // Where nearly all lies between there is nothing to be won.
    if (between.length * 2 > sorted.length) {
      out.set(sorted, end);
      end += sorted.length;
      return;
    }
    part(sorted.subarray(0, half));
    part(Uint32Array.from(beyond));
    out.set(between, end);
    end += between.length;
  };
  part(new Uint32Array(size).map((_, row) => row));
  return out;
}

function widestAxis(rows: Uint32Array, places: ArrayLike<number>): number {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (const row of rows)
    for (let k = 0; k < 3; k++) {
      const x = places[row * 3 + k];
      if (x < low[k]) low[k] = x;
      if (x > high[k]) high[k] = x;
    }
  const wide = low.map((least, k) => high[k] - least);
  return wide.indexOf(Math.max(...wide));
}

/** What is added to the diagonal where a matrix is only nearly positive definite, as shares of its mean, one after the other. */
const SHIFTS = [0, 1e-9, 1e-6, 1e-3, 0.1, 10];

/** The factor of a matrix that would be positive definite but for rounding, or for triangles that are hardly any. */
export function factorised(matrix: SparseSymmetric, places: ArrayLike<number>): SparseCholesky {
  const order = nestedDissection(matrix, places);
  const mean =
    matrix.diagonal.reduce((sum, value) => sum + Math.abs(value), 0) / Math.max(1, matrix.size) || 1;
  for (const shift of SHIFTS)
    try {
      const diagonal = matrix.diagonal.map((value) => value + shift * mean);
      return new SparseCholesky({ ...matrix, diagonal }, order);
    } catch (error) {
      if (!(error instanceof RangeError)) throw error;
    }
  throw new RangeError('The surface is too broken for anything to be spread over it.');
}

export class SparseCholesky {
  private readonly starts: Uint32Array;
  private readonly rows: Uint32Array;
  private readonly values: Float64Array;
  private readonly work: Float64Array;

  /**
   * @param order in which the rows are eliminated
   * Throws RangeError where the matrix is not positive definite.
   */
  constructor(
    matrix: SparseSymmetric,
    private readonly order: Uint32Array,
  ) {
    const upper = permutedUpper(matrix, order);
    const tree = eliminationTree(upper);
    const { starts, rows, values } = factorOf(upper, tree);
    this.starts = starts;
    this.rows = rows;
    this.values = values;
    this.work = new Float64Array(matrix.size);
  }

  /** Numbers in the factor. */
  get fill(): number {
    return this.values.length;
  }

  /** Solves for one right side, 1 per row. */
  solve(right: ArrayLike<number>, out: Float64Array = new Float64Array(right.length)): Float64Array {
    const { starts, rows, values, work, order } = this;
    const size = order.length;
    for (let i = 0; i < size; i++) work[i] = right[order[i]];
    for (let column = 0; column < size; column++) {
      if (work[column] === 0) continue;
      const x = work[column] / values[starts[column]];
      // What has died away is nothing: numbers too small to be normal cost a hundred times as much.
      work[column] = x < TINY && x > -TINY ? 0 : x;
      for (let k = starts[column] + 1; k < starts[column + 1]; k++) work[rows[k]] -= values[k] * work[column];
    }
    for (let column = size - 1; column >= 0; column--) {
      let x = work[column];
      for (let k = starts[column] + 1; k < starts[column + 1]; k++) x -= values[k] * work[rows[k]];
      x /= values[starts[column]];
      work[column] = x < TINY && x > -TINY ? 0 : x;
    }
    for (let i = 0; i < size; i++) out[order[i]] = work[i];
    return out;
  }
}

const TINY = 1e-60;

/** The upper triangle of a matrix in another order, by columns, without the diagonal. */
interface Upper {
  readonly size: number;
  readonly starts: Uint32Array;
  readonly rows: Uint32Array;
  readonly values: Float64Array;
  readonly diagonal: Float64Array;
}

function permutedUpper(
  { size, offsets, columns, values, diagonal }: SparseSymmetric,
  order: Uint32Array,
): Upper {
  const place = new Uint32Array(size);
  order.forEach((row, i) => {
    place[row] = i;
  });
  const starts = new Uint32Array(size + 1);
  const rows = new Uint32Array(columns.length);
  const own = new Float64Array(columns.length);
  let end = 0;
  order.forEach((row, i) => {
    for (let k = offsets[row]; k < offsets[row + 1]; k++) {
      if (place[columns[k]] >= i) continue;
      rows[end] = place[columns[k]];
      own[end++] = values[k];
    }
    starts[i + 1] = end;
  });
  return { size, starts, rows, values: own, diagonal: Float64Array.from(order, (row) => diagonal[row]) };
}

/** The parent of every column in the elimination tree, −1 for a root. */
function eliminationTree({ size, starts, rows }: Upper): Int32Array {
  const parent = new Int32Array(size).fill(-1);
  const ancestor = new Int32Array(size).fill(-1);
  for (let column = 0; column < size; column++)
    for (let k = starts[column]; k < starts[column + 1]; k++) {
      let row = rows[k];
      while (row >= 0 && row < column) {
        const next = ancestor[row];
        ancestor[row] = column;
        if (next < 0) parent[row] = column;
        row = next;
      }
    }
  return parent;
}

function factorOf(upper: Upper, tree: Int32Array) {
  const { size, starts, rows, values, diagonal } = upper;
  const marks = new Int32Array(size).fill(-1);
  const pattern = new Uint32Array(size);
  const path = new Uint32Array(size);
  /** The columns that row `row` of the factor has entries in, in the order of the tree; they stand at the end of `pattern`. */
  const reach = (row: number): number => {
    let top = size;
    marks[row] = row;
    for (let k = starts[row]; k < starts[row + 1]; k++) {
      let length = 0;
      for (let column = rows[k]; marks[column] !== row; column = tree[column]) {
        path[length++] = column;
        marks[column] = row;
      }
      while (length > 0) pattern[--top] = path[--length];
    }
    return top;
  };
  const counts = new Uint32Array(size).fill(1);
  for (let row = 0; row < size; row++) for (let k = reach(row); k < size; k++) counts[pattern[k]]++;
  const firsts = new Uint32Array(size + 1);
  for (let column = 0; column < size; column++) firsts[column + 1] = firsts[column] + counts[column];
  const ends = firsts.slice(0, size);
  const factorRows = new Uint32Array(firsts[size]);
  const factor = new Float64Array(firsts[size]);
  const work = new Float64Array(size);
  marks.fill(-1);
  for (let row = 0; row < size; row++) {
    for (let k = starts[row]; k < starts[row + 1]; k++) work[rows[k]] = values[k];
    let pivot = diagonal[row];
    for (let k = reach(row); k < size; k++) {
      const column = pattern[k];
      const share = work[column] / factor[firsts[column]];
      work[column] = 0;
      for (let i = firsts[column] + 1; i < ends[column]; i++) work[factorRows[i]] -= factor[i] * share;
      pivot -= share * share;
      factorRows[ends[column]] = row;
      factor[ends[column]++] = share;
    }
    if (!(pivot > 0)) throw new RangeError('The matrix is not positive definite.');
    factorRows[ends[row]] = row;
    factor[ends[row]++] = Math.sqrt(pivot);
  }
  return { starts: firsts, rows: factorRows, values: factor };
}

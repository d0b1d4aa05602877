/**
 * Values filled in smoothly over a surface from where they are known: the least of Dirichlet and Laplacian energy (Abdrashitov et al.
 * 2023, *Robust Skin Weights Transfer via Weight Inpainting*, § 3.2: Q = L + L·M⁻¹·L), solved exactly.
 */
import type { SparseSymmetric, SurfaceLaplacian } from './laplacian';
import { type SparseCholesky, factorised } from './sparse-cholesky';

/**
 * L + s·L·M⁻¹·L.
 * @param scale square metres, which makes the two alike
 * @param isLeftOut rows that nobody asks for; they stay empty
 */
export function bendingEnergy(
  { stiffness, areas }: SurfaceLaplacian,
  scale: number,
  isLeftOut?: ArrayLike<number>,
): SparseSymmetric {
  const { size, offsets, columns, values, diagonal } = stiffness;
  const at = new Int32Array(size).fill(-1);
  const outOffsets = new Uint32Array(size + 1);
  const outColumns: number[] = [];
  const outValues: number[] = [];
  const outDiagonal = Float64Array.from(diagonal);
  for (let row = 0; row < size; row++) {
    if (isLeftOut?.[row]) {
      outOffsets[row + 1] = outColumns.length;
      continue;
    }
    const begin = outColumns.length;
    const add = (column: number, value: number) => {
      if (column === row) {
        outDiagonal[row] += value;
        return;
      }
      if (at[column] < begin) {
        at[column] = outColumns.length;
        outColumns.push(column);
        outValues.push(0);
      }
      outValues[at[column]] += value;
    };
    const through = (middle: number, share: number) => {
      const weight = (scale * share) / Math.max(areas[middle], 1e-12);
      add(middle, weight * diagonal[middle]);
      for (let k = offsets[middle]; k < offsets[middle + 1]; k++) add(columns[k], weight * values[k]);
    };
    for (let k = offsets[row]; k < offsets[row + 1]; k++) add(columns[k], values[k]);
    through(row, diagonal[row]);
    for (let k = offsets[row]; k < offsets[row + 1]; k++) through(columns[k], values[k]);
    outOffsets[row + 1] = outColumns.length;
  }
  return {
    size,
    offsets: outOffsets,
    columns: Uint32Array.from(outColumns),
    values: Float64Array.from(outValues),
    diagonal: outDiagonal,
  };
}

/** Fills values in at unknown rows of an energy; the known ones hold. */
export class SmoothFill {
  private readonly solver: SparseCholesky | null;
  private readonly right: Float64Array;
  private readonly solved: Float64Array;
  /** Rows in the order of the reduced system. */
  readonly unknown: Uint32Array;

  /**
   * @param isKnown 1 per row
   * @param places 3 per row
   */
  constructor(
    private readonly energy: SparseSymmetric,
    isKnown: ArrayLike<number>,
    places: ArrayLike<number>,
  ) {
    const unknown: number[] = [];
    const placeOf = new Int32Array(energy.size).fill(-1);
    for (let row = 0; row < energy.size; row++) if (!isKnown[row]) placeOf[row] = unknown.push(row) - 1;
    this.unknown = Uint32Array.from(unknown);
    this.right = new Float64Array(unknown.length);
    this.solved = new Float64Array(unknown.length);
    const offsets = new Uint32Array(unknown.length + 1);
    const columns: number[] = [];
    const values: number[] = [];
    unknown.forEach((row, i) => {
      for (let k = energy.offsets[row]; k < energy.offsets[row + 1]; k++) {
        const column = placeOf[energy.columns[k]];
        if (column < 0) continue;
        columns.push(column);
        values.push(energy.values[k]);
      }
      offsets[i + 1] = columns.length;
    });
    const reduced: SparseSymmetric = {
      size: unknown.length,
      offsets,
      columns: Uint32Array.from(columns),
      values: Float64Array.from(values),
      diagonal: Float64Array.from(unknown, (row) => energy.diagonal[row]),
    };
    const own = new Float64Array(unknown.length * 3);
    unknown.forEach((row, i) => {
      for (let k = 0; k < 3; k++) own[i * 3 + k] = places[row * 3 + k];
    });
    this.solver = unknown.length > 0 ? factorised(reduced, own) : null;
  }

  /** Fills a list of values in place: those of known rows are read, those of unknown ones written. */
  fill(list: Float64Array): void {
    const { energy, unknown, right, solved, solver } = this;
    if (!solver) return;
    for (const row of unknown) list[row] = 0;
    unknown.forEach((row, i) => {
      let sum = 0;
      for (let k = energy.offsets[row]; k < energy.offsets[row + 1]; k++)
        sum -= energy.values[k] * list[energy.columns[k]];
      right[i] = sum;
    });
    solver.solve(right, solved);
    unknown.forEach((row, i) => {
      list[row] = solved[i];
    });
  }
}

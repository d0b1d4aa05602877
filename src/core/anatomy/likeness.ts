import type { SkeletonShape } from './shape';

/** exp(−x²) from 0 to 3, where it is as good as nothing, in steps that leave no error above 1e-5. */
const STEPS = 256;
const BELL = Float64Array.from({ length: 3 * STEPS + 2 }, (_, k) => Math.exp(-((k / STEPS) ** 2)));

function bell(x: number): number {
  if (x >= 3) return 0;
  const at = x * STEPS;
  const k = at | 0;
  return BELL[k] + (at - k) * (BELL[k + 1] - BELL[k]);
}

/** What a bone without any below is worth beside one with some. */
const LEAF_BELOW = 0.3;

/**
 * How alike the places of bones of two shapes are: along the way from the core, along the way from the last fork, by
 * what goes on below, and by their place in a fan. Tolerances grow with the way, since builds differ.
 */
export class Likeness {
  private readonly wayTolerance: Float64Array;
  private readonly localTolerance: Float64Array;
  private readonly belowTolerance: Float64Array;
  private readonly leaves: readonly [Float64Array, Float64Array];

  constructor(
    private readonly source: SkeletonShape,
    private readonly target: SkeletonShape,
  ) {
    const reach = target.reach;
    this.wayTolerance = target.way.map((length) => 1 / (0.08 * reach + 0.18 * Math.abs(length)));
    this.localTolerance = target.local.map((length) => 1 / (0.012 * reach + 0.08 * length));
    this.belowTolerance = target.below.map((b) => 1 / (0.06 * reach + 0.3 * b));
    this.leaves = [source, target].map(({ leaves }) => Float64Array.from(leaves, Math.log2)) as never;
  }

  /**
   * Adds to every number above `never` of a row what the shape says of a source bone and each target bone.
   * @param scale of the whole source to the target; `limb` of the limb that the bone belongs to
   */
  addRow(i: number, scale: number, limb: number, row: Float64Array, never: number): void {
    const { source: x, target: y } = this;
    const [mine, theirs] = this.leaves;
    const way = x.way[i] * scale;
    const below = x.below[i] * limb;
    const byLimb = x.local[i] * limb;
    const byWhole = x.local[i] * scale;
    const share = x.share[i];
    for (let j = 0; j < y.count; j++) {
      if (row[j] <= never) continue;
      let local: number;
      if (share > 0 && y.share[j] > 0) local = Math.abs(share - y.share[j]) / (0.1 + 0.13 * y.share[j]);
      else {
        const length = y.local[j];
        const off = Math.abs(byLimb - length);
        const other = Math.abs(byWhole - length);
        local = (other < off ? other : off) * this.localTolerance[j];
      }
      const leaves = Math.abs(mine[i] - theirs[j]);
      row[j] +=
        0.6 * bell(Math.abs(way - y.way[j]) * this.wayTolerance[j]) +
        0.7 * bell(local) +
        this.belowWorth(below, j) -
        0.08 * (leaves > 3 ? 3 : leaves) +
        this.fan(i, j) -
        0.85;
    }
  }

  /** How alike what goes on below is. How far the flesh of a bone without bones below goes on, nobody knows. */
  private belowWorth(below: number, j: number): number {
    const theirs = this.target.below[j];
    const told = 0.5 * bell(Math.abs(below - theirs) * this.belowTolerance[j]);
    return (below === 0) !== (theirs === 0) ? Math.max(told, LEAF_BELOW) : told;
  }

  /** What places in fans, and tips, say for or against a pair. */
  private fan(i: number, j: number): number {
    const { source: x, target: y } = this;
    const tip = x.tip[i] === y.tip[j] ? 0 : -0.7;
    const [a, b] = [x.fan[i], y.fan[j]];
    if (a < 0 && b < 0) return tip;
    if (a < 0 || b < 0) return tip - 0.3;
    if (x.fans[i] === y.fans[j]) return tip + (a === b ? 0.3 : -0.8);
    return tip + ((a === 0) !== (b === 0) ? -0.8 : -0.1 * Math.abs(a - b));
  }
}

/**
 * Weights smoothed over a surface: every point goes towards the mean of its neighbours along the edges, nearer ones counting
 * more (weights by inverse length: Taubin 1995, *A Signal Processing Approach to Fair Surface Design*, § 4). Sums stay one, and no
 * share leaves the bounds of what its neighbours have.
 */
import type { PointNeighbours } from './half-edges';
import { type WeightShares, normalisedShares, towardsShares } from './row-edits';

export interface Smoothing {
  readonly rounds: number;
  /** How much of the way to the mean a round goes, 0 … 1. */
  readonly strength: number;
  readonly locked: ReadonlySet<number>;
  /** Rings over which the smoothing fades in from the rim of the points; 0 for none. */
  readonly softRings: number;
}

/**
 * @param points those that are smoothed; the others stay, and are what the rim goes by
 * @param rowOf the row of any point; need not sum to one
 * @param places 3 per point
 * @returns the new rows of the points, in their order
 */
export function smoothedRows(
  points: readonly number[],
  rowOf: (point: number) => WeightShares,
  { offsets, neighbours }: PointNeighbours,
  places: ArrayLike<number>,
  { rounds, strength, locked, softRings }: Smoothing,
): WeightShares[] {
  const at = new Map(points.map((point, i) => [point, i]));
  let rows = points.map((point) => normalisedShares(rowOf(point)));
  const outside = new Map<number, WeightShares>();
  const depth = ringsFromRim(points, at, { offsets, neighbours }, softRings);
  for (let round = 0; round < rounds; round++) {
    const before = rows;
    rows = points.map((point, i) => {
      const mean: WeightShares = new Map();
      for (let k = offsets[point]; k < offsets[point + 1]; k++) {
        const other = neighbours[k];
        const inside = at.get(other);
        let row = inside === undefined ? outside.get(other) : before[inside];
        if (!row) outside.set(other, (row = normalisedShares(rowOf(other))));
        const near = 1 / Math.max(lengthBetween(places, point, other), 1e-9);
        for (const [joint, share] of row) mean.set(joint, (mean.get(joint) ?? 0) + share * near);
      }
      const aim = normalisedShares(mean);
      if (aim.size === 0) return before[i];
      const way = softRings > 0 ? strength * Math.min(1, (depth[i] + 1) / (softRings + 1)) : strength;
      return towardsShares(before[i], aim, way, locked);
    });
  }
  return rows;
}

const lengthBetween = (places: ArrayLike<number>, one: number, other: number): number =>
  Math.hypot(
    places[one * 3] - places[other * 3],
    places[one * 3 + 1] - places[other * 3 + 1],
    places[one * 3 + 2] - places[other * 3 + 2],
  );

/** How many rings from the rim every point lies, up to a number; where nothing lies outside, as far as can be. */
function ringsFromRim(
  points: readonly number[],
  at: ReadonlyMap<number, number>,
  { offsets, neighbours }: PointNeighbours,
  most: number,
): Uint32Array {
  const depth = new Uint32Array(points.length).fill(most);
  let ring = points.flatMap((point, i) => {
    for (let k = offsets[point]; k < offsets[point + 1]; k++) if (!at.has(neighbours[k])) return [i];
    return [];
  });
  for (let rings = 0; rings < most && ring.length > 0; rings++) {
    for (const i of ring) depth[i] = Math.min(depth[i], rings);
    ring = ring.flatMap((i) => {
      const next: number[] = [];
      for (let k = offsets[points[i]]; k < offsets[points[i] + 1]; k++) {
        const other = at.get(neighbours[k]);
        if (other !== undefined && depth[other] > rings + 1) {
          depth[other] = rings + 1;
          next.push(other);
        }
      }
      return next;
    });
  }
  return depth;
}

/**
 * Connected pieces of a mesh by union of the points that share a polygon, and the volume that each encloses
 * (Σ a·(b×c)/6 over a fan of every polygon): below 0 for a closed piece that is wound inside out. Linear in corners.
 */

import { Groups } from './weld';

/** Islands of a mesh. */
export interface Islands {
  readonly count: number;
  /** By polygon. */
  readonly islandOf: Int32Array;
}

/**
 * The islands of a mesh.
 * @param offsets polygon p has the corners offsets[p] … offsets[p + 1]
 * @param pointOfVertex welds the vertices that seams split
 */
export function islandsOf(
  offsets: Uint32Array,
  corners: Uint32Array,
  pointOfVertex: Uint32Array,
  pointCount: number,
): Islands {
  const groups = new Groups(pointCount);
  for (let p = 0; p + 1 < offsets.length; p++) {
    const first = pointOfVertex[corners[offsets[p]]];
    for (let k = offsets[p] + 1; k < offsets[p + 1]; k++) groups.join(first, pointOfVertex[corners[k]]);
  }
  const label = new Int32Array(pointCount).fill(-1);
  const islandOf = new Int32Array(Math.max(0, offsets.length - 1));
  let count = 0;
  for (let p = 0; p < islandOf.length; p++) {
    if (offsets[p] === offsets[p + 1]) continue;
    const root = groups.find(pointOfVertex[corners[offsets[p]]]);
    if (label[root] < 0) label[root] = count++;
    islandOf[p] = label[root];
  }
  return { count, islandOf };
}

/**
 * The volume that every island encloses, about its own first corner, so that far places lose no digits.
 * @param points 3 per vertex
 * @returns 1 per island, in the cube of the points' unit; below 0 where it is wound inside out
 */
export function volumesOfIslands(
  { count, islandOf }: Islands,
  offsets: Uint32Array,
  corners: Uint32Array,
  points: ArrayLike<number>,
): Float64Array {
  const volume = new Float64Array(count);
  const origin = new Float64Array(count * 3).fill(Number.NaN);
  for (let p = 0; p < islandOf.length; p++) {
    const o = islandOf[p] * 3;
    const a = corners[offsets[p]] * 3;
    if (Number.isNaN(origin[o])) for (let k = 0; k < 3; k++) origin[o + k] = points[a + k];
    const ax = points[a] - origin[o];
    const ay = points[a + 1] - origin[o + 1];
    const az = points[a + 2] - origin[o + 2];
    for (let k = offsets[p] + 1; k + 1 < offsets[p + 1]; k++) {
      const b = corners[k] * 3;
      const c = corners[k + 1] * 3;
      const bx = points[b] - origin[o];
      const by = points[b + 1] - origin[o + 1];
      const bz = points[b + 2] - origin[o + 2];
      const cx = points[c] - origin[o];
      const cy = points[c + 1] - origin[o + 1];
      const cz = points[c + 2] - origin[o + 2];
      volume[islandOf[p]] +=
        (ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)) / 6;
    }
  }
  return volume;
}

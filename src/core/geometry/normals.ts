/**
 * Normals of polygons and points. A polygon's area normal is that of Newell's method (Sutherland, Sproull & Schumacker 1974):
 * at right angles to it, twice its area long, and sound for polygons of any number of corners, flat or not. A point's is
 * the sum of those of the polygons round it, so that it does not follow how they are cut into triangles.
 */

/**
 * The area normal of one polygon into `out`, at `at`.
 * @param points 3 per vertex
 * @param corners vertices; those of the polygon are corners[from] … corners[to − 1]
 */
export function putAreaNormal(
  points: ArrayLike<number>,
  corners: ArrayLike<number>,
  from: number,
  to: number,
  out: { [at: number]: number },
  at = 0,
): void {
  let x = 0;
  let y = 0;
  let z = 0;
  let a = corners[to - 1] * 3;
  for (let k = from; k < to; k++) {
    const b = corners[k] * 3;
    x += (points[a + 1] - points[b + 1]) * (points[a + 2] + points[b + 2]);
    y += (points[a + 2] - points[b + 2]) * (points[a] + points[b]);
    z += (points[a] - points[b]) * (points[a + 1] + points[b + 1]);
    a = b;
  }
  out[at] = x;
  out[at + 1] = y;
  out[at + 2] = z;
}

/**
 * Area normals of all polygons, 3 each.
 * @param points 3 per vertex
 * @param offsets polygon p has the corners offsets[p] … offsets[p + 1]
 */
export function areaNormals(
  points: ArrayLike<number>,
  offsets: ArrayLike<number>,
  corners: ArrayLike<number>,
): Float32Array {
  const out = new Float32Array(Math.max(0, offsets.length - 1) * 3);
  for (let p = 0; p + 1 < offsets.length; p++)
    if (offsets[p + 1] > offsets[p]) putAreaNormal(points, corners, offsets[p], offsets[p + 1], out, p * 3);
  return out;
}

/** Brings every row of three to length one, in place; rows of no length stay zero. */
export function unitRows(rows: Float32Array): Float32Array {
  for (let i = 0; i < rows.length; i += 3) {
    const length = Math.hypot(rows[i], rows[i + 1], rows[i + 2]);
    if (length === 0) continue;
    rows[i] /= length;
    rows[i + 1] /= length;
    rows[i + 2] /= length;
  }
  return rows;
}

/**
 * Unit normals of points, 3 each; zero where those of the polygons round it cancel, or none is.
 * @param points 3 per vertex
 * @param pointOfVertex welds the vertices that seams split
 */
export function normalsOfPoints(
  points: ArrayLike<number>,
  offsets: ArrayLike<number>,
  corners: ArrayLike<number>,
  pointOfVertex: ArrayLike<number>,
  pointCount: number,
): Float32Array {
  const sums = new Float32Array(pointCount * 3);
  const normal = new Float64Array(3);
  for (let p = 0; p + 1 < offsets.length; p++) {
    if (offsets[p + 1] === offsets[p]) continue;
    putAreaNormal(points, corners, offsets[p], offsets[p + 1], normal);
    for (let k = offsets[p]; k < offsets[p + 1]; k++) {
      const i = pointOfVertex[corners[k]] * 3;
      sums[i] += normal[0];
      sums[i + 1] += normal[1];
      sums[i + 2] += normal[2];
    }
  }
  return unitRows(sums);
}

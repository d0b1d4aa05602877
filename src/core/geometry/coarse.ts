/**
 * A coarser mesh over the same vertices, to be drawn while there is no time for all of it: vertices in one cell of a
 * grid become the first of them, triangles that fall together go (vertex clustering, Rossignac & Borrel 1993). Only the
 * triangles are made anew, so that points in a pose, their normals and values are drawn as they stand. O(vertices +
 * triangles).
 */

/** Cells along an axis that a key can tell apart. */
const MOST_CELLS = 1 << 10;

/**
 * @param points 3 per vertex
 * @param triangles 3 vertices a triangle
 * @param cell edge of a cell of the grid, in the unit of the points
 * @returns 3 vertices a triangle, all of them of `points`
 */
export function coarseTriangles(points: Float32Array, triangles: Uint32Array, cell: number): Uint32Array {
  const representative = clusterVertices(points, cell);
  const out = new Uint32Array(triangles.length);
  let count = 0;
  for (let t = 0; t < triangles.length; t += 3) {
    const a = representative[triangles[t]];
    const b = representative[triangles[t + 1]];
    const c = representative[triangles[t + 2]];
    if (a === b || b === c || a === c) continue;
    out[count++] = a;
    out[count++] = b;
    out[count++] = c;
  }
  return out.slice(0, count);
}

/** The first vertex in the cell of every vertex. */
function clusterVertices(points: Float32Array, cell: number): Uint32Array {
  const least = [Infinity, Infinity, Infinity];
  for (let i = 0; i < points.length; i++) if (points[i] < least[i % 3]) least[i % 3] = points[i];
  const out = new Uint32Array(points.length / 3);
  const first = new Map<number, number>();
  for (let v = 0; v < out.length; v++) {
    let key = 0;
    for (let k = 0; k < 3; k++) {
      const at = Math.floor((points[v * 3 + k] - least[k]) / cell);
      key = key * MOST_CELLS + Math.min(MOST_CELLS - 1, Math.max(0, at || 0));
    }
    const known = first.get(key);
    if (known === undefined) first.set(key, v);
    out[v] = known ?? v;
  }
  return out;
}

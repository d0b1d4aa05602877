/**
 * Which faces of a mesh are wound the wrong way round: against the normals that the file has, or, where normals and
 * faces agree, a mesh that encloses less than nothing because all of it is inside out.
 */
import { islandsOfMesh } from '../../character/islands';
import { type Mesh, positionsOf } from '../../character/model';
import { pointsOf } from '../../character/points';
import { volumesOfIslands } from '../../geometry/islands';

/** Faces that are wound wrongly, and by what that was told. */
export interface WrongWinding {
  readonly by: 'normals' | 'volume';
  readonly polygons: Uint32Array;
}

/** Fewer faces than this share of an island may stand against their normals by hand, as on a folded edge. */
const MOST = 0.5;

/** The faces of a mesh that are wound wrongly; null where none is. Whole islands only. */
export function wrongWinding(mesh: Mesh): WrongWinding | null {
  const total = mesh.polygonOffsets.length - 1;
  if (total < 1) return null;
  const against = againstNormals(mesh);
  if (against && against.length > 0) return { by: 'normals', polygons: against };
  const { polygonOffsets: offsets, corners } = mesh;
  const islands = islandsOfMesh(mesh);
  const volumes = volumesOfIslands(islands, offsets, corners, positionsOf(mesh));
  const whole = volumes.reduce((a, b) => a + b, 0);
  const size = volumes.reduce((a, b) => a + Math.abs(b), 0);
  // A lining inside a coat encloses less than nothing by right; a mesh as a whole does not.
  if (whole >= -0.5 * size || size === 0 || !isClosed(mesh)) return null;
  return { by: 'volume', polygons: Uint32Array.from({ length: total }, (_, p) => p) };
}

/** Polygons of islands most of whose faces stand against their normals; null where the mesh has no normals. */
function againstNormals(mesh: Mesh): Uint32Array | null {
  const normals = mesh.attributes.NORMAL?.data;
  if (!normals) return null;
  const { polygonOffsets: offsets, corners } = mesh;
  const points = positionsOf(mesh);
  const { count, islandOf } = islandsOfMesh(mesh);
  const all = new Uint32Array(count);
  const wrong = new Uint32Array(count);
  for (let point = 0; point < islandOf.length; point++) {
    const share = faceAgainst(points, normals, corners, offsets[point], offsets[point + 1]);
    if (share === 0) continue;
    all[islandOf[point]]++;
    if (share < 0) wrong[islandOf[point]]++;
  }
  const out: number[] = [];
  for (let point = 0; point < islandOf.length; point++) {
    const island = islandOf[point];
    if (wrong[island] > MOST * all[island]) out.push(point);
  }
  return Uint32Array.from(out);
}

/** The area vector of a face (Newell) along the sum of its corners' normals: below 0 where they disagree. */
function faceAgainst(
  points: ArrayLike<number>,
  normals: ArrayLike<number>,
  corners: Uint32Array,
  from: number,
  to: number,
): number {
  let [x, y, z, nx, ny, nz] = [0, 0, 0, 0, 0, 0];
  for (let k = from; k < to; k++) {
    const a = corners[k] * 3;
    const b = corners[k + 1 < to ? k + 1 : from] * 3;
    x += (points[a + 1] - points[b + 1]) * (points[a + 2] + points[b + 2]);
    y += (points[a + 2] - points[b + 2]) * (points[a] + points[b]);
    z += (points[a] - points[b]) * (points[a + 1] + points[b + 1]);
    nx += normals[a];
    ny += normals[a + 1];
    nz += normals[a + 2];
  }
  return x * nx + y * ny + z * nz;
}

/** Least share of edges with a face on both sides for a volume to say anything. */
const CLOSED = 0.9;

function isClosed(mesh: Mesh): boolean {
  const { polygonOffsets: offsets, corners } = mesh;
  const { pointOfVertex, pointCount } = pointsOf(mesh);
  const edges = new Map<number, number>();
  for (let point = 0; point + 1 < offsets.length; point++)
    for (let k = offsets[point]; k < offsets[point + 1]; k++) {
      const a = pointOfVertex[corners[k]];
      const b = pointOfVertex[corners[k + 1 < offsets[point + 1] ? k + 1 : offsets[point]]];
      const key = Math.min(a, b) * pointCount + Math.max(a, b);
      edges.set(key, (edges.get(key) ?? 0) + 1);
    }
  let shared = 0;
  for (const edge of edges.values()) if (edge > 1) shared++;
  return shared >= CLOSED * edges.size;
}

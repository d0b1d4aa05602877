/**
 * Which faces of a mesh are wound the wrong way round: whole pieces against the normals that the file has; patches against
 * the faces round them; or, where normals and faces agree, a mesh that encloses less than nothing because all of it is inside
 * out.
 */
import { islandsOfMesh } from '../../character/islands';
import { type Mesh, positionsOf } from '../../character/model';
import { topologyOf } from '../../character/topology';
import { volumesOfIslands } from '../../geometry/islands';
import { putAreaNormal } from '../../geometry/normals';
import { windingCamps } from '../../geometry/soundness';

/** Faces that are wound wrongly, and by what that was told. */
export interface WrongWinding {
  readonly by: 'normals' | 'neighbours' | 'volume';
  readonly polygons: Uint32Array;
}

/** Fewer faces than this share of an island may stand against their normals by hand, as on a folded edge. */
const MOST = 0.5;

/** The faces of a mesh that are wound wrongly; null where none is. */
export function wrongWinding(mesh: Mesh): WrongWinding | null {
  const total = mesh.polygonOffsets.length - 1;
  if (total < 1) return null;
  const against = againstNormals(mesh);
  if (against && against.length > 0) return { by: 'normals', polygons: against };
  const patches = againstNeighbours(mesh);
  if (patches.length > 0) return { by: 'neighbours', polygons: patches };
  if (!isClosed(mesh)) return null;
  const { polygonOffsets: offsets, corners } = mesh;
  const islands = islandsOfMesh(mesh);
  const volumes = volumesOfIslands(islands, offsets, corners, positionsOf(mesh));
  const whole = volumes.reduce((a, b) => a + b, 0);
  const size = volumes.reduce((a, b) => a + Math.abs(b), 0);
  // A lining inside a coat encloses less than nothing by right; a mesh as a whole does not.
  if (whole >= -0.5 * size || size === 0) return null;
  return { by: 'volume', polygons: new Uint32Array(total).map((_, p) => p) };
}

/** Of islands of more faces than this every so many are asked: enough to tell most from few. */
const MANY_FACES = 1 << 16;
const STRIDE = 7;

/** Polygons of islands most of whose faces stand against their normals; null where the mesh has no normals. */
function againstNormals(mesh: Mesh): Uint32Array | null {
  const normals = mesh.attributes.NORMAL?.data;
  if (!normals) return null;
  const { polygonOffsets: offsets, corners } = mesh;
  const points = positionsOf(mesh);
  const { count, islandOf } = islandsOfMesh(mesh);
  const all = new Uint32Array(count);
  const wrong = new Uint32Array(count);
  const normal = new Float64Array(3);
  const sizes = new Uint32Array(count);
  for (const island of islandOf) sizes[island]++;
  for (let face = 0; face < islandOf.length; face++) {
    if (sizes[islandOf[face]] > MANY_FACES && face % STRIDE > 0) continue;
    const [from, to] = [offsets[face], offsets[face + 1]];
    putAreaNormal(points, corners, from, to, normal);
    // Along the sum of its corners' normals: below 0 where they disagree.
    let along = 0;
    for (let k = from; k < to; k++) {
      const i = corners[k] * 3;
      along += normal[0] * normals[i] + normal[1] * normals[i + 1] + normal[2] * normals[i + 2];
    }
    if (along === 0) continue;
    all[islandOf[face]]++;
    if (along < 0) wrong[islandOf[face]]++;
  }
  const out: number[] = [];
  for (let face = 0; face < islandOf.length; face++) {
    const island = islandOf[face];
    if (wrong[island] > MOST * all[island]) out.push(face);
  }
  return Uint32Array.from(out);
}

/**
 * Polygons that run along an edge the same way round as the one on its other side: of the two camps of a piece the smaller,
 * where one is. A piece that cannot agree, as a band with one side, tells nothing.
 */
function againstNeighbours(mesh: Mesh): Uint32Array {
  const { count, islandOf } = islandsOfMesh(mesh);
  const camps = windingCamps(mesh.polygonOffsets, topologyOf(mesh).halfEdges);
  const balance = new Int32Array(count);
  for (let face = 0; face < camps.length; face++) {
    if (camps[face] === 1) balance[islandOf[face]]++;
    else if (camps[face] === 0) balance[islandOf[face]]--;
  }
  const out: number[] = [];
  for (let face = 0; face < camps.length; face++) {
    const more = balance[islandOf[face]];
    if (camps[face] >= 0 && more !== 0 && camps[face] === (more > 0 ? 0 : 1)) out.push(face);
  }
  return Uint32Array.from(out);
}

/** Least share of edges with a face on both sides for a volume to say anything. */
const CLOSED = 0.9;

function isClosed(mesh: Mesh): boolean {
  const { faces } = topologyOf(mesh).halfEdges;
  let shared = 0;
  for (const count of faces) if (count > 1) shared++;
  return shared >= CLOSED * faces.length;
}

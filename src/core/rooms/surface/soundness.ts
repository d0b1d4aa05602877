/** What of a mesh is no sound surface, each kind with the very elements; what is only meant to be seen from both sides is not told. */
import { islandsOfMesh } from '../../character/islands';
import { type Mesh, positionsOf } from '../../character/model';
import { pointsOf } from '../../character/points';
import { looseVertices } from '../../character/remake-mesh';
import { topologyOf } from '../../character/topology';
import { crossedFaces } from '../../geometry/face-shape';
import { putAreaNormal } from '../../geometry/normals';
import { type Vec3, dot, length } from '../../geometry/matrix';
import {
  type DoubledFaces,
  type WeldedPolygons,
  borderLoops,
  crowdedEdges,
  doubledFaces,
  facesWithoutArea,
  pinchedVertices,
} from '../../geometry/soundness';

/** A gap in a surface as missing faces leave it: its border half-edges in order, and their vertices. */
export interface Hole {
  readonly halfEdges: Uint32Array;
  readonly vertices: Uint32Array;
}

/** What is found of one mesh. */
export interface Soundness {
  readonly doubled: DoubledFaces;
  readonly withoutArea: Uint32Array;
  /** Faces whose outline crosses itself. */
  readonly crossed: Uint32Array;
  readonly loose: Uint32Array;
  /** Half-edges edge by edge, those of three or more faces. */
  readonly crowded: readonly (readonly number[])[];
  /** By vertex the corners of its fans but for the largest. */
  readonly pinched: ReadonlyMap<number, readonly (readonly number[])[]>;
  readonly borders: readonly Uint32Array[];
  readonly holes: readonly Hole[];
}

const known = new WeakMap<Uint32Array, { readonly points: object; readonly found: Soundness }>();

/** Computed once for the corners and the points of a mesh. */
export function soundnessOf(mesh: Mesh): Soundness {
  const points = pointsOf(mesh);
  const before = known.get(mesh.corners);
  if (before?.points === points) return before.found;
  const found = examine(mesh);
  known.set(mesh.corners, { points, found });
  return found;
}

/** The polygons of a mesh as the kernels take them. */
export function polygonsOf(mesh: Mesh): WeldedPolygons {
  const { pointOfVertex, pointCount } = pointsOf(mesh);
  return { offsets: mesh.polygonOffsets, corners: mesh.corners, pointOfVertex, pointCount };
}

function examine(mesh: Mesh): Soundness {
  const polygons = polygonsOf(mesh);
  const { halfEdges } = topologyOf(mesh);
  const doubled = doubledFaces(polygons);
  const withoutArea = facesWithoutArea(polygons, positionsOf(mesh));
  // What is told by itself, or meant, makes no edge a crowded one.
  const isLeftOut = new Uint8Array(Math.max(0, mesh.polygonOffsets.length - 1));
  for (const face of [...doubled.backs, ...doubled.same, ...withoutArea]) isLeftOut[face] = 1;
  const borders = borderLoops(halfEdges);
  return {
    doubled,
    withoutArea,
    crossed: crossedFaces(polygons, positionsOf(mesh)),
    loose: numbersSet(looseVertices(mesh)),
    crowded: crowdedEdges(polygons, halfEdges, isLeftOut),
    pinched: pinchedVertices(polygons, halfEdges),
    borders,
    holes: borders.flatMap((loop) => holeOf(mesh, loop)),
  };
}

function numbersSet(flags: Uint8Array): Uint32Array {
  const out: number[] = [];
  for (let i = 0; i < flags.length; i++) if (flags[i]) out.push(i);
  return Uint32Array.from(out);
}

/** A gap of more edges is an opening that somebody modelled: a neck, a cuff, the socket of an eye. */
const MOST_EDGES = 8;

/** The piece round a gap has so many times as many faces as the gap has edges, or the gap is its rim. */
const FACES_ROUND = 6;

/** A gap is no larger than so many of the faces round it together would be. */
const LARGEST = 0.75;

/** The faces round a gap lie in its plane, up to this cosine: those round the end of a tube stand across it. */
const LEVEL = 0.6;

/** The gap that a border goes round; none where it looks like an opening that is meant. */
function holeOf(mesh: Mesh, loop: Uint32Array): Hole[] {
  const { polygonOffsets: offsets, corners } = mesh;
  if (loop.length < 3 || loop.length > MOST_EDGES) return [];
  const { polygon } = topologyOf(mesh).halfEdges;
  const { count, islandOf } = islandsOfMesh(mesh);
  if (facesByIsland(islandOf, count)[islandOf[polygon[loop[0]]]] < FACES_ROUND * loop.length) return [];
  // The other way round than the faces at it, as the face that is missing would be.
  const vertices = Uint32Array.from(loop, (half) => corners[half]).reverse();
  const points = positionsOf(mesh);
  const gap = [0, 0, 0] as unknown as Vec3;
  putAreaNormal(points, vertices, 0, vertices.length, gap as unknown as number[]);
  const normals = [...new Set(Array.from(loop, (half) => polygon[half]))].map((face) => {
    const normal = [0, 0, 0] as unknown as Vec3;
    putAreaNormal(points, corners, offsets[face], offsets[face + 1], normal as unknown as number[]);
    return normal;
  });
  const areas = normals.reduce((sum, normal) => sum + length(normal), 0);
  const level = normals.reduce((sum, normal) => sum + dot(normal, gap), 0);
  const isGap = length(gap) <= LARGEST * areas && level >= LEVEL * areas * length(gap);
  return isGap && length(gap) > 0 ? [{ halfEdges: loop, vertices }] : [];
}

const sizes = new WeakMap<Int32Array, Uint32Array>();

function facesByIsland(islandOf: Int32Array, count: number): Uint32Array {
  let out = sizes.get(islandOf);
  if (!out) {
    out = new Uint32Array(count);
    for (const island of islandOf) out[island]++;
    sizes.set(islandOf, out);
  }
  return out;
}

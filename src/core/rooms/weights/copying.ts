/**
 * Weights copied from one surface to another: from the closest place where it is near enough and faces the same way, and filled in
 * smoothly from there over the rest (Abdrashitov et al. 2023). What was found and what is a guess is told.
 */
import { islandsOfMesh } from '../../character/islands';
import type { Mesh } from '../../character/model';
import { placesOfPoints } from '../../character/point-places';
import { pointsOf } from '../../character/points';
import { closestPlaces } from '../../geometry/closest-places';
import { SmoothFill, bendingEnergy } from '../../geometry/fill-smoothly';
import { surfaceLaplacian } from '../../geometry/laplacian';
import { normalsOfPoints } from '../../geometry/normals';
import { type WeightShares, limitedShares, normalisedShares, sweptShares } from '../../geometry/row-edits';
import { SurfaceRows } from '../../geometry/surface-rows';
import { type PointShares, rowsOfMesh, sharesOfMesh } from './steps';

/** A mesh and where it stands: 3 per vertex, world space, metres. */
export interface PlacedMesh {
  readonly mesh: Mesh;
  readonly points: ArrayLike<number>;
}

export interface CopySettings {
  /** How far a point may be from the surface that it is copied from, metres. */
  readonly distance: number;
  /** How far the two normals may part, degrees. */
  readonly angle: number;
  /** Most bones of a point. */
  readonly limit: number;
}

/** Rows for every point, in the joints of what they were copied from. */
export interface CopiedRows {
  readonly rows: readonly WeightShares[];
  /** By point: 2 found on the surface, 1 filled in from those round it, 0 a guess: nothing of its part was near enough. */
  readonly how: Uint8Array;
}

export const FOUND = 2;
export const FILLED = 1;
export const GUESSED = 0;

/** Less of a bone does nothing that anybody sees, and costs it a place: the step of weights in bytes. */
const DUST = 0.004;

/** Shares below this are none. */
const LEAST = 1e-4;

export function copiedRows(
  from: PlacedMesh,
  to: PlacedMesh,
  { distance, angle, limit }: CopySettings,
): CopiedRows {
  const source = new SurfaceRows(
    from.mesh,
    pointsOf(from.mesh).pointOfVertex,
    placesOfPoints(from.mesh, from.points),
    sharesOfMesh(from.mesh) as PointShares,
  );
  const places = placesOfPoints(to.mesh, to.points);
  const count = places.length / 3;
  const onSource = closestPlaces(source.tree, places);
  const normals = pointNormals(to.mesh, places);
  const sourceNormals = pointNormals(from.mesh, source.places);
  const least = Math.cos((angle * Math.PI) / 180);
  const how = new Uint8Array(count);
  const rows: WeightShares[] = Array.from({ length: count }, (_, point) => {
    const triangle = onSource.triangle[point];
    if (triangle < 0) return new Map();
    const corners = onSource.corners.subarray(point * 3, point * 3 + 3);
    const row = source.rowAt(triangle, corners);
    const isNear = onSource.distance[point] <= distance;
    if (
      isNear &&
      row.size > 0 &&
      facing(sourceNormals, source.triangles, triangle, corners, normals, point) >= least
    )
      how[point] = FOUND;
    return row;
  });
  fillIn(to.mesh, places, rows, how);
  return { rows: rows.map((row) => limitedShares(sweptShares(row, DUST), limit)), how };
}

const pointNormals = (mesh: Mesh, places: ArrayLike<number>): Float32Array => {
  const { pointOfVertex, pointCount } = pointsOf(mesh);
  const corners = mesh.corners.map((vertex) => pointOfVertex[vertex]);
  const same = new Uint32Array(pointCount).map((_, point) => point);
  return normalsOfPoints(places as Float32Array, mesh.polygonOffsets, corners, same, pointCount);
};

/** How nearly a point faces the way of a place on a triangle, or just away from it, as the inside of a cloth does: a cosine, 0 … 1. */
function facing(
  normals: Float32Array,
  triangles: Uint32Array,
  triangle: number,
  corners: ArrayLike<number>,
  own: Float32Array,
  point: number,
): number {
  const normal = [0, 0, 0];
  for (let corner = 0; corner < 3; corner++)
    for (let k = 0; k < 3; k++)
      normal[k] += corners[corner] * normals[triangles[triangle * 3 + corner] * 3 + k];
  const long = Math.hypot(...normal) * Math.hypot(own[point * 3], own[point * 3 + 1], own[point * 3 + 2]);
  if (!(long > 0)) return -1;
  const along = normal[0] * own[point * 3] + normal[1] * own[point * 3 + 1] + normal[2] * own[point * 3 + 2];
  return Math.abs(along) / long;
}

/** Fills the rows in that were not found, island by island; an island of which nothing was found keeps what lies closest. */
function fillIn(mesh: Mesh, places: Float32Array, rows: WeightShares[], how: Uint8Array): void {
  if (how.every((found) => found === FOUND)) return;
  const island = islandOfPoints(mesh);
  const hasFound = new Set<number>();
  how.forEach((found, point) => {
    if (found === FOUND) hasFound.add(island[point]);
  });
  const isKnown = how.map((found, point) => Number(found === FOUND || !hasFound.has(island[point])));
  if (isKnown.every(Boolean)) return;
  const { pointOfVertex } = pointsOf(mesh);
  const laplacian = surfaceLaplacian(mesh.polygonOffsets, mesh.corners, pointOfVertex, places);
  const mean = laplacian.areas.reduce((sum, area) => sum + area, 0) / Math.max(1, laplacian.areas.length);
  const fill = new SmoothFill(bendingEnergy(laplacian, mean, isKnown), isKnown, places);
  const filled = new Map<number, WeightShares>();
  for (const point of fill.unknown) filled.set(point, new Map());
  const values = new Float64Array(rows.length);
  for (const joint of jointsBeside(rows, isKnown)) {
    rows.forEach((row, point) => {
      values[point] = isKnown[point] ? (row.get(joint) ?? 0) : 0;
    });
    fill.fill(values);
    for (const point of fill.unknown) if (values[point] > LEAST) filled.get(point)!.set(joint, values[point]);
  }
  for (const [point, row] of filled) {
    if (row.size === 0) continue;
    rows[point] = normalisedShares(row);
    how[point] = FILLED;
  }
}

/** The joints that known points have. */
function jointsBeside(rows: readonly WeightShares[], isKnown: ArrayLike<number>): number[] {
  const joints = new Set<number>();
  rows.forEach((row, point) => {
    if (isKnown[point]) for (const joint of row.keys()) joints.add(joint);
  });
  return [...joints];
}

/** Which island every point of a mesh is of; −1 for points of no face. */
function islandOfPoints(mesh: Mesh): Int32Array {
  const { pointOfVertex, pointCount } = pointsOf(mesh);
  const { islandOf } = islandsOfMesh(mesh);
  const out = new Int32Array(pointCount).fill(-1);
  for (let polygon = 0; polygon + 1 < mesh.polygonOffsets.length; polygon++)
    for (let k = mesh.polygonOffsets[polygon]; k < mesh.polygonOffsets[polygon + 1]; k++)
      out[pointOfVertex[mesh.corners[k]]] = islandOf[polygon];
  return out;
}

/** By the order of the vertices, of which both have as many. */
export function copiedByOrder(from: Mesh, to: Mesh, limit: number): CopiedRows {
  const rows = rowsOfMesh(from);
  const { pointOfVertex } = pointsOf(from);
  const { pointCount, vertexOfPoint } = pointsOf(to);
  return {
    rows: Array.from({ length: pointCount }, (_, point) =>
      limitedShares(rows[pointOfVertex[vertexOfPoint[point]]], limit),
    ),
    how: new Uint8Array(pointCount).fill(FOUND),
  };
}

/** By where points lie in the first set of texture places; null where one of the two has none. */
export function copiedByTexture(from: Mesh, to: Mesh, limit: number): CopiedRows | null {
  const [places, own] = [from, to].map((mesh) => {
    const texture = mesh.attributes.TEXCOORD_0;
    if (!texture) return null;
    const flat = new Float32Array(mesh.vertexCount * 3);
    const scale = texture.normalized ? 1 / (texture.data instanceof Uint8Array ? 255 : 65535) : 1;
    for (let vertex = 0; vertex < mesh.vertexCount; vertex++)
      for (let k = 0; k < 2; k++) flat[vertex * 3 + k] = texture.data[vertex * 2 + k] * scale;
    return flat;
  });
  if (!places || !own) return null;
  const byPoint = rowsOfMesh(from);
  const { pointOfVertex } = pointsOf(from);
  // Every vertex stands for itself: seams part the texture.
  const itself = new Uint32Array(from.vertexCount).map((_, vertex) => vertex);
  const perVertex = Array.from(pointOfVertex, (point) => byPoint[point]);
  const source = new SurfaceRows(from, itself, places, perVertex);
  const { pointCount, vertexOfPoint } = pointsOf(to);
  return {
    rows: Array.from({ length: pointCount }, (_, point) => {
      const at = vertexOfPoint[point] * 3;
      return limitedShares(source.at(own[at], own[at + 1], 0)?.row ?? new Map(), limit);
    }),
    how: new Uint8Array(pointCount).fill(FOUND),
  };
}

import type { Mesh } from '../../character/model';
import { positionsOf } from '../../character/model';
import { forClosePairs } from '../../geometry/point-grid';
import { Groups } from '../../geometry/weld';
import { pointsOf } from '../../character/points';
import { topologyOf } from '../../character/topology';
import { putAreaNormal } from '../../geometry/normals';

/** Points that lie together. */
export interface Coincidence {
  /** Points that would go if every group became one. */
  readonly points: number;
  /** Points that lie near another: those that would go and those that they would become. */
  readonly together: number;
  /** Largest distance within a pair, metres. */
  readonly farthest: number;
  /** Vertices of all points in groups. */
  readonly vertices: Uint32Array;
  /** For every point, the point it would become. */
  readonly becomes: Uint32Array;
  /** Pairs that were left apart, since they would join separate surfaces, and their vertices. */
  readonly apart: number;
  readonly apartVertices: Uint32Array;
}

/**
 * Groups of different points closer than `distance`. Points that are joined by an edge of a polygon are left
 * alone (a short edge is not a double), and so are pairs that face away from each other: closed lips and
 * eyelids stay two. Points within two surfaces that lie on each other, as a coat on a shirt, stay apart: what was
 * one surface and was never merged meets along borders.
 * @param distance metres, in the mesh's own space
 * @param joins points within surfaces are merged too
 */
export function coincidentGroups(mesh: Mesh, distance: number, joins = false): Coincidence {
  const weld = pointsOf(mesh);
  const pointCount = weld.pointCount;
  const places = placesOfPoints(mesh);
  const { neighbours, offsets } = topologyOf(mesh).neighbours;
  const areJoined = (a: number, b: number) => {
    for (let k = offsets[a]; k < offsets[a + 1]; k++) if (neighbours[k] === b) return true;
    return false;
  };
  const pairs: [number, number][] = [];
  forClosePairs(places, distance, (a, b) => {
    if (!areJoined(a, b)) pairs.push([a, b]);
  });
  const becomes = new Uint32Array(pointCount);
  for (let i = 0; i < pointCount; i++) becomes[i] = i;
  if (pairs.length === 0) return { ...NONE, becomes };
  const wanted = new Set(pairs.flat());
  const isWanted = new Uint8Array(pointCount);
  for (const point of wanted) isWanted[point] = 1;
  const normals = pointNormals(mesh, weld.pointOfVertex, isWanted);
  const groups = new Groups(pointCount);
  const isInner = innerPoints(mesh, pointCount);
  const held = new Set<number>();
  let farthest = 0;
  let apart = 0;
  for (const [a, b] of pairs) {
    const na = normals.get(a);
    const nb = normals.get(b);
    if (na && nb && na[0] * nb[0] + na[1] * nb[1] + na[2] * nb[2] < -0.2) continue;
    if (!joins && isInner[a] && isInner[b]) {
      apart++;
      held.add(a);
      held.add(b);
      continue;
    }
    groups.join(a, b);
    farthest = Math.max(
      farthest,
      Math.hypot(
        places[a * 3] - places[b * 3],
        places[a * 3 + 1] - places[b * 3 + 1],
        places[a * 3 + 2] - places[b * 3 + 2],
      ),
    );
  }
  const touched = new Set<number>();
  let points = 0;
  for (const point of wanted) {
    becomes[point] = groups.find(point);
    if (becomes[point] !== point) {
      points++;
      touched.add(point);
      touched.add(becomes[point]);
    }
  }
  const vertices: number[] = [];
  for (let vertex = 0; vertex < mesh.vertexCount; vertex++)
    if (isWanted[weld.pointOfVertex[vertex]] === 1 && touched.has(weld.pointOfVertex[vertex]))
      vertices.push(vertex);
  const apartVertices: number[] = [];
  if (held.size > 0)
    weld.pointOfVertex.forEach((point, vertex) => {
      if (held.has(point)) apartVertices.push(vertex);
    });
  return {
    points,
    together: touched.size,
    farthest,
    vertices: Uint32Array.from(vertices),
    becomes,
    apart,
    apartVertices: Uint32Array.from(apartVertices),
  };
}

/** 3 per point. */
function placesOfPoints(mesh: Mesh): Float32Array {
  const { vertexOfPoint, pointCount } = pointsOf(mesh);
  const positions = positionsOf(mesh);
  const places = new Float32Array(pointCount * 3);
  for (let place = 0; place < pointCount; place++) {
    const vertex = vertexOfPoint[place] * 3;
    places[place * 3] = positions[vertex];
    places[place * 3 + 1] = positions[vertex + 1];
    places[place * 3 + 2] = positions[vertex + 2];
  }
  return places;
}

const NONE: Omit<Coincidence, 'becomes'> = {
  points: 0,
  together: 0,
  farthest: 0,
  vertices: new Uint32Array(0),
  apart: 0,
  apartVertices: new Uint32Array(0),
};

/** Points with faces all round: no border goes through them. 1 per point. */
function innerPoints(mesh: Mesh, pointCount: number): Uint8Array {
  const { ends, faces } = topologyOf(mesh).halfEdges;
  const isInner = new Uint8Array(pointCount);
  for (const point of ends) isInner[point] = 1;
  for (let i = 0; i < ends.length; i++) if (faces[i >> 1] !== 2) isInner[ends[i]] = 0;
  return isInner;
}

function pointNormals(
  mesh: Mesh,
  pointOfVertex: Uint32Array,
  isWanted: Uint8Array,
): Map<number, [number, number, number]> {
  const out = new Map<number, [number, number, number]>();
  const normal = [0, 0, 0];
  for (let polygon = 0; polygon + 1 < mesh.polygonOffsets.length; polygon++) {
    const start = mesh.polygonOffsets[polygon];
    const end = mesh.polygonOffsets[polygon + 1];
    let any = false;
    for (let k = start; k < end; k++) any ||= isWanted[pointOfVertex[mesh.corners[k]]] === 1;
    if (!any) continue;
    putAreaNormal(positionsOf(mesh), mesh.corners, start, end, normal);
    for (let k = start; k < end; k++) {
      const point = pointOfVertex[mesh.corners[k]];
      if (isWanted[point] === 0) continue;
      const sum = out.get(point) ?? [0, 0, 0];
      out.set(point, [sum[0] + normal[0], sum[1] + normal[1], sum[2] + normal[2]]);
    }
  }
  for (const [point, vector] of out) {
    const length = Math.hypot(...vector) || 1;
    out.set(point, [vector[0] / length, vector[1] / length, vector[2] / length]);
  }
  return out;
}

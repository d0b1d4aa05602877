/** Points at which other than four edges meet: there rows and columns end, and a bend creases. */
import type { Placed } from '../../character/measure';
import { pointsOf } from '../../character/points';
import { topologyOf } from '../../character/topology';
import { type Bend, isNear } from './bends';

/** The poles of a mesh: a vertex of each, and those near a joint that bends. */
export interface Poles {
  readonly all: readonly number[];
  readonly near: readonly number[];
}

/** Poles within quads: inner points that other than four edges meet at, and at which only quads meet. */
export function polesOf({ mesh, points }: Placed, bending: readonly Bend[]): Poles {
  const { pointCount, vertexOfPoint } = pointsOf(mesh);
  const { halfEdges } = topologyOf(mesh);
  const { ends, faces, origin, polygon } = halfEdges;
  const edges = new Uint32Array(pointCount);
  const isLeftOut = new Uint8Array(pointCount);
  for (let i = 0; i < ends.length; i++) {
    edges[ends[i]]++;
    if (faces[i >> 1] !== 2) isLeftOut[ends[i]] = 1;
  }
  // Where triangles meet it is they that are told.
  for (let half = 0; half < origin.length; half++) {
    const face = polygon[half];
    if (mesh.polygonOffsets[face + 1] - mesh.polygonOffsets[face] !== 4) isLeftOut[origin[half]] = 1;
  }
  const all: number[] = [];
  const near: number[] = [];
  for (let point = 0; point < pointCount; point++) {
    if (isLeftOut[point] || edges[point] === 4 || edges[point] === 0) continue;
    const vertex = vertexOfPoint[point];
    all.push(vertex);
    if (isNear(bending, [points[vertex * 3], points[vertex * 3 + 1], points[vertex * 3 + 2]]))
      near.push(vertex);
  }
  return { all, near };
}

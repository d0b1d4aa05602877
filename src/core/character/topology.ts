import { type HalfEdges, type PointNeighbours, halfEdgesOf, neighboursOf } from '../geometry/half-edges';
import type { Mesh } from './model';
import { pointsOf } from './points';

/** How the polygons of a mesh hang together, over its points. */
export interface Topology {
  readonly halfEdges: HalfEdges;
  readonly neighbours: PointNeighbours;
}

const cache = new WeakMap<Uint32Array, { readonly points: object; readonly topology: Topology }>();

/** The half-edges of a mesh and the neighbours of its points. Computed once for its corners and its points. */
export function topologyOf(mesh: Mesh): Topology {
  const points = pointsOf(mesh);
  const known = cache.get(mesh.corners);
  if (known?.points === points) return known.topology;
  const { pointOfVertex, pointCount } = points;
  const halfEdges = halfEdgesOf(mesh.polygonOffsets, mesh.corners, pointOfVertex, pointCount);
  let neighbours: PointNeighbours | null = null;
  const topology: Topology = {
    halfEdges,
    // Few ask for them, and they cost as much as half of the rest.
    get neighbours() {
      neighbours ??= neighboursOf(halfEdges, pointCount);
      return neighbours;
    },
  };
  cache.set(mesh.corners, { points, topology });
  return topology;
}

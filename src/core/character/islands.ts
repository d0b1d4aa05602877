import { type Islands, islandsOf } from '../geometry/islands';
import type { Mesh } from './model';
import { pointsOf } from './points';

const cache = new WeakMap<Uint32Array, { readonly points: object; readonly islands: Islands }>();

/** The connected pieces of a mesh, over its points. Computed once for its corners and its points. */
export function islandsOfMesh(mesh: Mesh): Islands {
  const points = pointsOf(mesh);
  const known = cache.get(mesh.corners);
  if (known?.points === points) return known.islands;
  const islands = islandsOf(mesh.polygonOffsets, mesh.corners, points.pointOfVertex, points.pointCount);
  cache.set(mesh.corners, { points, islands });
  return islands;
}

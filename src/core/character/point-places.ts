import { type Mesh, positionsOf } from './model';
import { pointsOf } from './points';

/** Where the points of a mesh are, each once: 3 per point, in the mesh's own space. */
export function placesOfPoints(mesh: Mesh, positions: ArrayLike<number> = positionsOf(mesh)): Float32Array {
  const { pointCount, vertexOfPoint } = pointsOf(mesh);
  const places = new Float32Array(pointCount * 3);
  for (let point = 0; point < pointCount; point++)
    for (let k = 0; k < 3; k++) places[point * 3 + k] = positions[vertexOfPoint[point] * 3 + k];
  return places;
}

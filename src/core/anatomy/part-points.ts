/** The vertices and points of parts. */
import type { MeshPart } from './parts';
import type { Mesh } from '../character/model';
import { pointsOf } from '../character/points';

/** The vertices that the faces of a part have, each once. */
export function verticesOfPart(mesh: Mesh, { polygons }: Pick<MeshPart, 'polygons'>): Uint32Array {
  const vertices = new Set<number>();
  for (const polygon of polygons)
    for (let k = mesh.polygonOffsets[polygon]; k < mesh.polygonOffsets[polygon + 1]; k++)
      vertices.add(mesh.corners[k]);
  return Uint32Array.from(vertices);
}

/** Its points, each once. */
export function pointsOfPart(mesh: Mesh, part: Pick<MeshPart, 'polygons'>): number[] {
  const { pointOfVertex } = pointsOf(mesh);
  const points = new Set<number>();
  for (const vertex of verticesOfPart(mesh, part)) points.add(pointOfVertex[vertex]);
  return [...points];
}

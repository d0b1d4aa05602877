/** Spatial search over a mesh: built here, handed over, refitted where the mesh is posed. */
import { type TriangleBoxes, triangleBoxes } from '@/core/geometry/triangle-tree';
import type { FigureMesh } from './figure';

export const buildSearch = ({ points, triangles }: FigureMesh): TriangleBoxes =>
  triangleBoxes(points, triangles);

/** Buffers of a search, to be handed over instead of copied. */
export const searchBuffers = (boxes: TriangleBoxes): ArrayBuffer[] =>
  [boxes.bounds, boxes.right, boxes.start, boxes.count, boxes.order].map(
    (array) => array.buffer as ArrayBuffer,
  );

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

/** The same on its own, so that it can be fitted here while the other is fitted elsewhere. */
export const copyOfBoxes = (boxes: TriangleBoxes): TriangleBoxes => ({
  ...boxes,
  bounds: boxes.bounds.slice(),
  right: boxes.right.slice(),
  start: boxes.start.slice(),
  count: boxes.count.slice(),
  order: boxes.order.slice(),
});

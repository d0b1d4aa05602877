/** Spatial search over a mesh: built here, handed over, refitted on the page when the mesh is posed. */
import { BufferAttribute, BufferGeometry } from 'three';
import { MeshBVH, type SerializedBVH } from 'three-mesh-bvh';
import type { FigureMesh } from './figure';

export function buildSearch(mesh: FigureMesh): SerializedBVH {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(mesh.points, 3));
  geometry.setIndex(new BufferAttribute(mesh.triangles, 1));
  return MeshBVH.serialize(new MeshBVH(geometry, { indirect: true }), { cloneBuffers: false });
}

/** Buffers of a search, to be handed over instead of copied. */
export const searchBuffers = (search: SerializedBVH): ArrayBuffer[] => [
  ...(search.roots as ArrayBuffer[]),
  ...(search.indirectBuffer ? [(search.indirectBuffer as Uint32Array).buffer as ArrayBuffer] : []),
];

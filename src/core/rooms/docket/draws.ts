/** A mesh in as many draws as a machine needs that knows only so many bones and vertices at a time. */
import type { Mesh } from '../../character/model';

/** How a mesh is drawn. */
export interface Draws {
  /** Runs of polygons that it has, and that it is drawn in. */
  readonly pieces: number;
  readonly parts: number;
  /** Vertices that stand in more than one part, counted once for every further one. */
  readonly added: number;
  /** Faces that need more bones by themselves than a draw knows. */
  readonly impossible: number;
  /** Which limit divides it, in words. */
  readonly reason: string;
}

/**
 * Divides every run of polygons into draws, face by face in their order: one is ended when the next face would bring a
 * bone, or a vertex, too many.
 */
export function drawsOf(mesh: Mesh, bonesPerDraw: number, verticesPerDraw: number): Draws {
  const f = mesh.influences;
  let parts = 0;
  let added = 0;
  let impossible = 0;
  const reasons = new Set<string>();
  const everDrawn = new Set<number>();
  let bones = new Set<number>();
  let vertices = new Set<number>();
  const begin = () => {
    bones = new Set();
    vertices = new Set();
    parts++;
  };
  const pieces = mesh.pieces.filter((p) => p.polygonCount > 0);
  for (const piece of pieces) {
    begin();
    for (let p = piece.polygonStart; p < piece.polygonStart + piece.polygonCount; p++) {
      const corners = mesh.corners.subarray(mesh.polygonOffsets[p], mesh.polygonOffsets[p + 1]);
      const own = new Set<number>();
      for (const v of corners)
        if (f) for (let k = f.offsets[v]; k < f.offsets[v + 1]; k++) if (f.weight[k] > 0) own.add(f.joint[k]);
      if (own.size > bonesPerDraw) {
        impossible++;
        continue;
      }
      const moreBones = [...own].filter((b) => !bones.has(b)).length;
      const moreVertices = [...new Set(corners)].filter((v) => !vertices.has(v)).length;
      const isBones = bones.size + moreBones > bonesPerDraw;
      const isVertices = vertices.size + moreVertices > verticesPerDraw;
      if (isBones) reasons.add(`a draw knows ${bonesPerDraw} bones`);
      else if (isVertices) reasons.add(`a draw holds ${verticesPerDraw} vertices`);
      if (isBones || isVertices) begin();
      for (const b of own) bones.add(b);
      for (const v of corners) {
        if (vertices.has(v)) continue;
        vertices.add(v);
        if (everDrawn.has(v)) added++;
        everDrawn.add(v);
      }
    }
  }
  return { pieces: pieces.length, parts, added, impossible, reason: [...reasons].join(' and ') };
}

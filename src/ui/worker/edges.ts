import type { Placed } from '@/core/character/measure';
import { topologyOf } from '@/core/character/topology';
import { areaNormals, unitRows } from '@/core/geometry/normals';

/** Beyond this angle between its two faces an edge is sharp. */
const SHARP = Math.cos((50 * Math.PI) / 180);

/** The edges that are drawn: 2 vertices each, those that are sharp or no seam between two faces first. */
export interface DrawnEdges {
  readonly edges: Uint32Array;
  readonly creases: number;
}

/** The true edges of a mesh, each once, whatever its seams split. */
export function drawnEdges({ points, mesh }: Placed): DrawnEdges {
  const { polygonOffsets, corners } = mesh;
  const { edge, next, polygon, twin, faces } = topologyOf(mesh).halfEdges;
  const facing = unitRows(areaNormals(points, polygonOffsets, corners));
  const isSharp = (p: number, q: number) =>
    facing[p * 3] * facing[q * 3] +
      facing[p * 3 + 1] * facing[q * 3 + 1] +
      facing[p * 3 + 2] * facing[q * 3 + 2] <
    SHARP;
  const edges = new Uint32Array(faces.length * 2);
  const isDrawn = new Uint8Array(faces.length);
  let first = 0;
  let last = faces.length;
  for (let h = 0; h < edge.length; h++) {
    if (isDrawn[edge[h]]) continue;
    isDrawn[edge[h]] = 1;
    const isSmooth = twin[h] >= 0 && !isSharp(polygon[h], polygon[twin[h]]);
    const at = isSmooth ? --last : first++;
    edges[at * 2] = corners[h];
    edges[at * 2 + 1] = corners[next[h]];
  }
  return { edges, creases: first };
}

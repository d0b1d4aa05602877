/** What is left to be seen when something is shown alone. */
import { shownMeshes } from '@/core/character/measure';
import type { Character } from '@/core/character/model';
import type { Figure } from './figure';

/** The very things that are shown alone. */
export interface Chosen {
  /** Nodes that are shown whole. */
  readonly nodes: readonly number[];
  /** Bones, and the polygons that they carry. */
  readonly bones: readonly number[];
  readonly vertices: ReadonlyMap<number, Uint32Array>;
  readonly polygons: ReadonlyMap<number, Uint32Array>;
}

/** Triangles and edges of a mesh that stay. */
export interface Kept {
  readonly triangles: Uint32Array;
  readonly edges: Uint32Array;
}

/**
 * Of every mesh that is shown in part, what stays; of others nothing is said. Meshes without an entry are
 * shown whole or not at all.
 */
export function keepChosen(character: Character, figure: Figure, chosen: Chosen): Map<number, Kept> {
  const out = new Map<number, Kept>();
  const whole = new Set(chosen.nodes);
  const bones = new Set(chosen.bones);
  for (const { node, mesh, skin } of shownMeshes(character)) {
    const drawn = figure.meshes.find((mesh) => mesh.node === node);
    if (!drawn || whole.has(node)) continue;
    const polygons = new Set(chosen.polygons.get(node));
    const vertices = new Uint8Array(mesh.vertexCount);
    for (const vertex of chosen.vertices.get(node) ?? []) vertices[vertex] = 1;
    const influences = mesh.influences;
    if (influences && skin && bones.size > 0) {
      const on = skin.joints.map((j) => bones.has(j));
      for (let vertex = 0; vertex < mesh.vertexCount; vertex++)
        for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++)
          if (influences.weight[k] > 0 && on[influences.joint[k]]) vertices[vertex] = 1;
    }
    const kept = keepOf(drawn, polygons, vertices);
    if (kept.triangles.length > 0) out.set(node, kept);
  }
  return out;
}

function keepOf(mesh: Figure['meshes'][number], polygons: ReadonlySet<number>, vertices: Uint8Array): Kept {
  // A polygon is shown whole where any of its corners is chosen.
  const on = new Set(polygons);
  mesh.polygonOf.forEach((polygon, index) => {
    for (let k = 0; k < 3; k++) if (vertices[mesh.triangles[index * 3 + k]]) on.add(polygon);
  });
  const triangles: number[] = [];
  const seen = new Uint8Array(mesh.points.length / 3);
  mesh.polygonOf.forEach((polygon, index) => {
    if (!on.has(polygon)) return;
    for (let k = 0; k < 3; k++) {
      const triangle = mesh.triangles[index * 3 + k];
      triangles.push(triangle);
      seen[triangle] = 1;
    }
  });
  const edges: number[] = [];
  for (let edge = 0; edge < mesh.edges.length; edge += 2)
    if (seen[mesh.edges[edge]] && seen[mesh.edges[edge + 1]])
      edges.push(mesh.edges[edge], mesh.edges[edge + 1]);
  return { triangles: Uint32Array.from(triangles), edges: Uint32Array.from(edges) };
}

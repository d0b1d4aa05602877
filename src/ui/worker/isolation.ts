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
    const drawn = figure.meshes.find((m) => m.node === node);
    if (!drawn || whole.has(node)) continue;
    const polygons = new Set(chosen.polygons.get(node));
    const vertices = new Uint8Array(mesh.vertexCount);
    for (const v of chosen.vertices.get(node) ?? []) vertices[v] = 1;
    const f = mesh.influences;
    if (f && skin && bones.size > 0) {
      const on = skin.joints.map((j) => bones.has(j));
      for (let v = 0; v < mesh.vertexCount; v++)
        for (let k = f.offsets[v]; k < f.offsets[v + 1]; k++)
          if (f.weight[k] > 0 && on[f.joint[k]]) vertices[v] = 1;
    }
    const kept = keepOf(drawn, polygons, vertices);
    if (kept.triangles.length > 0) out.set(node, kept);
  }
  return out;
}

function keepOf(mesh: Figure['meshes'][number], polygons: ReadonlySet<number>, vertices: Uint8Array): Kept {
  // A polygon is shown whole where any of its corners is chosen.
  const on = new Set(polygons);
  mesh.polygonOf.forEach((q, t) => {
    for (let k = 0; k < 3; k++) if (vertices[mesh.triangles[t * 3 + k]]) on.add(q);
  });
  const triangles: number[] = [];
  const seen = new Uint8Array(mesh.points.length / 3);
  mesh.polygonOf.forEach((q, t) => {
    if (!on.has(q)) return;
    for (let k = 0; k < 3; k++) {
      const v = mesh.triangles[t * 3 + k];
      triangles.push(v);
      seen[v] = 1;
    }
  });
  const edges: number[] = [];
  for (let e = 0; e < mesh.edges.length; e += 2)
    if (seen[mesh.edges[e]] && seen[mesh.edges[e + 1]]) edges.push(mesh.edges[e], mesh.edges[e + 1]);
  return { triangles: Uint32Array.from(triangles), edges: Uint32Array.from(edges) };
}

import type { Character } from '../character/model';
import { placedMeshes } from '../character/measure';

/** What a step touched, and how far the rest moved: the answer to “did anything else change?”. */
export interface Effects {
  readonly nodes: readonly string[];
  readonly meshes: readonly string[];
  readonly skins: number;
  readonly clips: readonly string[];
  /** Largest move of any point at rest, metres, over meshes that kept their points. */
  readonly largestMove: number;
  /** Points before and after. */
  readonly vertices: readonly [number, number];
}

export function effectsOf(before: Character, after: Character): Effects {
  const name = (s: string, i: number, what: string) => s || `${what} ${i}`;
  let largestMove = 0;
  const old = new Map(placedMeshes(before).map((p) => [p.node, p]));
  for (const p of placedMeshes(after)) {
    const q = old.get(p.node);
    if (!q || q.points.length !== p.points.length || q.points === p.points) continue;
    for (let i = 0; i < p.points.length; i += 3) {
      const d = Math.hypot(p.points[i] - q.points[i], p.points[i + 1] - q.points[i + 1], p.points[i + 2] - q.points[i + 2]);
      if (d > largestMove) largestMove = d;
    }
  }
  const sum = (c: Character) => c.meshes.reduce((n, m) => n + m.vertexCount, 0);
  return {
    nodes: after.nodes.flatMap((n, i) => (n === before.nodes[i] ? [] : [name(n.name, i, 'node')])),
    meshes: after.meshes.flatMap((m, i) => (m === before.meshes[i] ? [] : [name(m.name, i, 'mesh')])),
    skins: after.skins.filter((s, i) => s !== before.skins[i]).length,
    clips: after.clips.flatMap((c, i) => (c === before.clips[i] ? [] : [name(c.name, i, 'clip')])),
    largestMove, vertices: [sum(before), sum(after)],
  };
}

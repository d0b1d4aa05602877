import type { Influences } from '../../../character/model';
import type { Found } from '../../../contracts/check';
import type { Elements, Gravity, RemedyCall } from '../../../contracts/finding';
import type { Character } from '../../../character/model';
import { shownMeshes } from '../../../character/measure';
import { pointsOf } from '../../../character/points';

/** Something that is asked of every vertex of a bound mesh. */
export interface VertexQuestion {
  readonly gravity: Gravity;
  /** True for a vertex that is at fault. */
  wrong(influences: Influences, v: number): boolean;
  /** What one vertex measures; the worst is reported. */
  measure(influences: Influences, v: number): number;
  worse(a: number, b: number): boolean;
  readonly expected: number;
  readonly unit: string;
  readonly label: string;
  message(points: number, worst: number, mesh: string): string;
  readonly remedies: readonly RemedyCall[];
}

/**
 * Asks one question of every vertex of every bound mesh: one finding a mesh, its elements the vertices at
 * fault.
 */
export function askVertices(character: Character, q: VertexQuestion): Found[] {
  const out: Found[] = [];
  for (const p of shownMeshes(character)) {
    const f = p.mesh.influences;
    if (!p.skin || !f) continue;
    const ids: number[] = [];
    let worst = Number.NaN;
    for (let v = 0; v < p.mesh.vertexCount; v++) {
      if (!q.wrong(f, v)) continue;
      ids.push(v);
      const m = q.measure(f, v);
      if (Number.isNaN(worst) || q.worse(m, worst)) worst = m;
    }
    if (ids.length === 0) continue;
    const { pointOfVertex } = pointsOf(p.mesh);
    const points = new Set(ids.map((v) => pointOfVertex[v])).size;
    const name = character.nodes[p.node].name || p.mesh.name || `mesh ${character.nodes[p.node].mesh}`;
    const elements: Elements[] = [{ kind: 'vertex', node: p.node, ids: Uint32Array.from(ids) }];
    out.push({
      gravity: q.gravity,
      subject: { kind: 'mesh', index: character.nodes[p.node].mesh, name },
      elements,
      count: points,
      unit: q.unit,
      message: q.message(points, worst, name),
      measured: worst,
      expected: q.expected,
      remedies: q.remedies,
      evidence: [
        { label: 'Points concerned', now: points, brief: 0, unit: 'pts' },
        { label: q.label, now: worst, brief: q.expected, unit: q.unit },
      ],
    });
  }
  return out;
}

/** The most that any vertex of a bound mesh measures; null where nothing is bound. */
export function mostOf(character: Character, measure: (f: Influences, v: number) => number): number | null {
  let most: number | null = null;
  for (const { mesh, skin } of shownMeshes(character)) {
    if (!skin || !mesh.influences) continue;
    for (let v = 0; v < mesh.vertexCount; v++) most = Math.max(most ?? 0, measure(mesh.influences, v));
  }
  return most;
}

/** The sum of a vertex’s weights. */
export const sumAt = (f: Influences, v: number): number => {
  let sum = 0;
  for (let k = f.offsets[v]; k < f.offsets[v + 1]; k++) sum += f.weight[k];
  return sum;
};

/** How many bones a vertex hangs on: weights above zero. */
export const liveAt = (f: Influences, v: number): number => {
  let n = 0;
  for (let k = f.offsets[v]; k < f.offsets[v + 1]; k++) if (f.weight[k] > 0) n++;
  return n;
};

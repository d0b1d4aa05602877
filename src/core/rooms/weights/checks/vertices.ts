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
  wrong(influences: Influences, value: number): boolean;
  /** What one vertex measures; the worst is reported. */
  measure(influences: Influences, value: number): number;
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
export function askVertices(character: Character, question: VertexQuestion): Found[] {
  const out: Found[] = [];
  for (const mesh of shownMeshes(character)) {
    const influences = mesh.mesh.influences;
    if (!mesh.skin || !influences) continue;
    const ids: number[] = [];
    let worst = Number.NaN;
    for (let vertex = 0; vertex < mesh.mesh.vertexCount; vertex++) {
      if (!question.wrong(influences, vertex)) continue;
      ids.push(vertex);
      const measured = question.measure(influences, vertex);
      if (Number.isNaN(worst) || question.worse(measured, worst)) worst = measured;
    }
    if (ids.length === 0) continue;
    const { pointOfVertex } = pointsOf(mesh.mesh);
    const points = new Set(ids.map((id) => pointOfVertex[id])).size;
    const name =
      character.nodes[mesh.node].name || mesh.mesh.name || `mesh ${character.nodes[mesh.node].mesh}`;
    const elements: Elements[] = [{ kind: 'vertex', node: mesh.node, ids: Uint32Array.from(ids) }];
    out.push({
      gravity: question.gravity,
      subject: { kind: 'mesh', index: character.nodes[mesh.node].mesh, name },
      elements,
      count: points,
      unit: question.unit,
      message: question.message(points, worst, name),
      measured: worst,
      expected: question.expected,
      remedies: question.remedies,
      evidence: [
        { label: 'Points concerned', now: points, brief: 0, unit: 'pts' },
        { label: question.label, now: worst, brief: question.expected, unit: question.unit },
      ],
    });
  }
  return out;
}

/** The most that any vertex of a bound mesh measures; null where nothing is bound. */
export function mostOf(
  character: Character,
  measure: (influences: Influences, value: number) => number,
): number | null {
  let most: number | null = null;
  for (const { mesh, skin } of shownMeshes(character)) {
    if (!skin || !mesh.influences) continue;
    for (let vertex = 0; vertex < mesh.vertexCount; vertex++)
      most = Math.max(most ?? 0, measure(mesh.influences, vertex));
  }
  return most;
}

/** The sum of a vertex’s weights. */
export const sumAt = (influences: Influences, vertex: number): number => {
  let sum = 0;
  for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++)
    sum += influences.weight[k];
  return sum;
};

/** How many bones a vertex hangs on: weights above zero. */
export const liveAt = (influences: Influences, vertex: number): number => {
  let count = 0;
  for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++)
    if (influences.weight[k] > 0) count++;
  return count;
};

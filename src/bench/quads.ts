/** Quads found again: meshes of quads are cut into triangles in several ways, in any order, and put together again. */
import type { Mesh } from '../core/character/model';
import { positionsOf } from '../core/character/model';
import { pointsOf } from '../core/character/points';
import { makeRandom } from '../core/geometry/random';
import { recoverQuads } from '../core/geometry/quads';
import type { BenchRow } from './row';

/** How a quad a b c d is cut: from its first corner, from its second, by chance, or along its shorter diagonal. */
const CUTS = ['from the first corner', 'from the second', 'by chance', 'along the shorter diagonal'] as const;
type Cut = (typeof CUTS)[number];

export interface QuadsFound {
  readonly wanted: number;
  readonly found: number;
  /** Quads that were none; pairs within one polygon of more corners are not counted. */
  readonly wrong: number;
}

const named = (corners: ArrayLike<number>): string =>
  Array.from(corners)
    .sort((a, b) => a - b)
    .join(' ');

/** Cuts a mesh of quads, shuffles what comes, and counts what is found again. */
export function quadsFoundAgain(mesh: Mesh, cut: Cut, seed: number): QuadsFound {
  const random = makeRandom(seed);
  const positions = positionsOf(mesh);
  const apart = (a: number, b: number) =>
    Math.hypot(...[0, 1, 2].map((k) => positions[a * 3 + k] - positions[b * 3 + k]));
  const quads = new Set<string>();
  const polygonOf = new Map<string, number>();
  const triangles: number[][] = [];
  for (let polygon = 0; polygon + 1 < mesh.polygonOffsets.length; polygon++) {
    const row = [...mesh.corners.subarray(mesh.polygonOffsets[polygon], mesh.polygonOffsets[polygon + 1])];
    if (row.length === 4 && new Set(row).size === 4) quads.add(named(row));
    const turns: Record<Cut, () => boolean> = {
      'from the first corner': () => false,
      'from the second': () => true,
      'by chance': () => random() < 0.5,
      'along the shorter diagonal': () => apart(row[0], row[2]) > apart(row[1], row[3]),
    };
    const from = row.length === 4 && turns[cut]() ? [...row.slice(1), row[0]] : row;
    for (let k = 1; k + 1 < from.length; k++) {
      const triangle = [from[0], from[k], from[k + 1]];
      polygonOf.set(named(triangle), polygon);
      triangles.push(triangle);
    }
  }
  for (let i = triangles.length - 1; i > 0; i--) {
    const j = Math.floor(random() * (i + 1));
    [triangles[i], triangles[j]] = [triangles[j], triangles[i]];
  }
  const turned = triangles.map((row) => {
    const k = Math.floor(random() * 3);
    return [...row.slice(k), ...row.slice(0, k)];
  });
  const { pointOfVertex, pointCount } = pointsOf(mesh);
  const back = recoverQuads(Uint32Array.from(turned.flat()), positions, pointOfVertex, pointCount);
  let found = 0;
  let wrong = 0;
  for (let polygon = 0; polygon + 1 < back.offsets.length; polygon++) {
    const row = back.corners.subarray(back.offsets[polygon], back.offsets[polygon + 1]);
    if (row.length !== 4) continue;
    if (quads.has(named(row))) found++;
    else if (
      polygonOf.get(named([row[0], row[1], row[2]])) !== polygonOf.get(named([row[0], row[2], row[3]]))
    )
      wrong++;
  }
  return { wanted: quads.size, found, wrong };
}

/** A row for each way to cut, over all meshes together. */
export function quadRows(whose: string, meshes: readonly Mesh[]): BenchRow[] {
  return CUTS.map((cut) => {
    const all = meshes.map((mesh, i) => quadsFoundAgain(mesh, cut, i + 1));
    const sum = (pick: (one: QuadsFound) => number) => all.reduce((total, one) => total + pick(one), 0);
    const wanted = sum((one) => one.wanted);
    const found = wanted > 0 ? sum((one) => one.found) / wanted : 0;
    const wrong =
      sum((one) => one.wrong) /
      Math.max(
        1,
        sum((one) => one.found + one.wrong),
      );
    const worst = Math.min(...all.map((one) => one.found / one.wanted));
    const percent = (share: number) => `${(share * 100).toFixed(1)} %`;
    return {
      work: `quads cut ${cut}, in any order, of ${meshes.length} meshes ${whose}, found again (worst mesh ${percent(worst)}); not quads`,
      measured: `${percent(found)}; ${percent(wrong)}`,
      budget: '≥ 98 %; ≤ 1 %',
      holds: found >= 0.98 && wrong <= 0.01,
    };
  });
}

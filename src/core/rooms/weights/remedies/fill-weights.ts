import { KDTree } from 'mnemonist';
import { number, object } from 'yup';
import { NothingToDo, defineRemedy, promise } from '../../../contracts/remedy';
import { boundNodes } from '../bound';
import type { Character, Influences, Mesh } from '../../../character/model';
import { positionsOf } from '../../../character/model';
import { influencesFrom, limitInfluences } from '../../../geometry/influences';
import { pointsOf } from '../../../character/points';
import { liveAt } from '../checks/vertices';

const bare = (c: Character) =>
  c.meshes.reduce((n, m) => {
    for (let v = 0; m.influences && v < m.vertexCount; v++) if (liveAt(m.influences, v) === 0) n++;
    return n;
  }, 0);

/**
 * Gives points without weight the mean weights of their neighbours along the edges, ring by ring from the
 * weighted rim inwards; a part that has no weight anywhere takes those of the nearest weighted point.
 */
export const fillWeights = defineRemedy({
  id: 'fill-weights',
  room: 'weights',
  title: 'Fill from the neighbours',
  does: 'Points without weight take the mean of their neighbours, ring by ring; other points stay as they are.',
  params: object({
    limit: number()
      .integer()
      .min(1)
      .max(64)
      .default(4)
      .meta({ quantity: 'count', label: 'Bones a point may keep' }),
  }),
  rows: (character) => [{ label: 'Vertices without weight', value: bare(character), unit: '' }],
  promises: (character) => promise(['weights'], { meant: boundNodes(character) }),
  apply(character, { limit }) {
    let filled = 0;
    const meshes = character.meshes.map((m) => {
      if (!m.influences) return m;
      const f = fillMesh(m, m.influences, limit);
      if (f) filled++;
      return f ? { ...m, influences: f } : m;
    });
    if (filled === 0)
      throw new NothingToDo(
        'Every point carries weight already, or no point of the mesh does; there is nothing to fill from.',
      );
    return { ...character, meshes };
  },
});

function fillMesh(mesh: Mesh, f: Influences, limit: number): Influences | null {
  const { pointOfVertex, pointCount, vertexOfPoint } = pointsOf(mesh);
  const rows: ([number, number][] | null)[] = new Array(pointCount).fill(null);
  for (let v = 0; v < mesh.vertexCount; v++) {
    if (liveAt(f, v) === 0 || rows[pointOfVertex[v]]) continue;
    const row: [number, number][] = [];
    for (let k = f.offsets[v]; k < f.offsets[v + 1]; k++) row.push([f.joint[k], f.weight[k]]);
    rows[pointOfVertex[v]] = row;
  }
  let open = rows.flatMap((r, p) => (r ? [] : [p]));
  const empty = new Set(open);
  const bareVertices = Array.from({ length: mesh.vertexCount }, (_, v) => v).filter(
    (v) => liveAt(f, v) === 0,
  );
  if (bareVertices.length === 0 || open.length === pointCount) return null;
  const neighbours = new Map<number, Set<number>>(open.map((p) => [p, new Set()]));
  for (let p = 0; p + 1 < mesh.polygonOffsets.length; p++) {
    const start = mesh.polygonOffsets[p];
    const end = mesh.polygonOffsets[p + 1];
    for (let k = start; k < end; k++) {
      const a = pointOfVertex[mesh.corners[k]];
      const b = pointOfVertex[mesh.corners[k + 1 === end ? start : k + 1]];
      neighbours.get(a)?.add(b);
      neighbours.get(b)?.add(a);
    }
  }
  while (open.length > 0) {
    const ring = open.filter((p) => [...(neighbours.get(p) ?? [])].some((q) => rows[q]));
    if (ring.length === 0) break;
    const found = ring.map((p) =>
      mean(
        [...(neighbours.get(p) ?? [])].flatMap((q) => (rows[q] ? [rows[q]!] : [])),
        limit,
      ),
    );
    ring.forEach((p, i) => {
      rows[p] = found[i];
    });
    open = open.filter((p) => !rows[p]);
  }
  if (open.length > 0) {
    const weighted = rows.flatMap((r, p) => (r && !empty.has(p) ? [p] : []));
    const nearest = nearestAmong(mesh, weighted, vertexOfPoint);
    for (const p of open) rows[p] = rows[nearest(p)];
  }
  const isBare = new Set(bareVertices);
  const out: [number, number][][] = [];
  for (let v = 0; v < mesh.vertexCount; v++) {
    if (isBare.has(v)) {
      out.push(rows[pointOfVertex[v]] ?? []);
      continue;
    }
    const row: [number, number][] = [];
    for (let k = f.offsets[v]; k < f.offsets[v + 1]; k++) row.push([f.joint[k], f.weight[k]]);
    out.push(row);
  }
  return influencesFrom(out);
}

/** Finds the nearest of some points of a mesh. `vertexOfPoint`: a vertex of every point. */
function nearestAmong(mesh: Mesh, points: readonly number[], vertexOfPoint: ArrayLike<number>) {
  const positions = positionsOf(mesh);
  const axis = (k: number) => Float64Array.from(points, (p) => positions[vertexOfPoint[p] * 3 + k]);
  const tree = KDTree.fromAxes([axis(0), axis(1), axis(2)], [...points]);
  return (p: number): number => {
    const at = vertexOfPoint[p] * 3;
    return tree.nearestNeighbor([positions[at], positions[at + 1], positions[at + 2]]);
  };
}

function mean(rows: readonly (readonly [number, number])[][], limit: number): [number, number][] {
  const sum = new Map<number, number>();
  for (const row of rows) for (const [j, w] of row) sum.set(j, (sum.get(j) ?? 0) + w);
  const { influences } = limitInfluences(influencesFrom([[...sum]]), limit);
  return Array.from(influences.joint, (j, k) => [j, influences.weight[k]]);
}

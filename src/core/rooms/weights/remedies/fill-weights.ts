import { number, object } from 'yup';
import { NothingToDo, defineRemedy, promise } from '../../../contracts/remedy';
import { boundNodes } from '../../../character/held-by';
import type { Character, Influences, Mesh } from '../../../character/model';
import { positionsOf } from '../../../character/model';
import { influencesFrom, limitInfluences } from '../../../geometry/influences';
import { pointsOf } from '../../../character/points';
import { topologyOf } from '../../../character/topology';
import { PointTree } from '../../../geometry/point-tree';
import { liveAt } from '../checks/vertices';

const bare = (character: Character) =>
  character.meshes.reduce((least, mesh) => {
    for (let vertex = 0; mesh.influences && vertex < mesh.vertexCount; vertex++)
      if (liveAt(mesh.influences, vertex) === 0) least++;
    return least;
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
    const meshes = character.meshes.map((mesh) => {
      if (!mesh.influences) return mesh;
      const influences = fillMesh(mesh, mesh.influences, limit);
      if (influences) filled++;
      return influences ? { ...mesh, influences } : mesh;
    });
    if (filled === 0)
      throw new NothingToDo(
        'Every point carries weight already, or no point of the mesh does; there is nothing to fill from.',
      );
    return { ...character, meshes };
  },
});

function fillMesh(mesh: Mesh, influences: Influences, limit: number): Influences | null {
  const { pointOfVertex, pointCount, vertexOfPoint } = pointsOf(mesh);
  const rows: ([number, number][] | null)[] = new Array(pointCount).fill(null);
  for (let vertex = 0; vertex < mesh.vertexCount; vertex++) {
    if (liveAt(influences, vertex) === 0 || rows[pointOfVertex[vertex]]) continue;
    const row: [number, number][] = [];
    for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++)
      row.push([influences.joint[k], influences.weight[k]]);
    rows[pointOfVertex[vertex]] = row;
  }
  let open = rows.flatMap((row, index) => (row ? [] : [index]));
  const empty = new Set(open);
  const bareVertices = Array.from({ length: mesh.vertexCount }, (_, value) => value).filter(
    (vertex) => liveAt(influences, vertex) === 0,
  );
  if (bareVertices.length === 0 || open.length === pointCount) return null;
  const { offsets, neighbours } = topologyOf(mesh).neighbours;
  const near = (point: number) => [...neighbours.subarray(offsets[point], offsets[point + 1])];
  while (open.length > 0) {
    const ring = open.filter((point) => near(point).some((neighbour) => rows[neighbour]));
    if (ring.length === 0) break;
    const found = ring.map((point) =>
      mean(
        near(point).flatMap((neighbour) => (rows[neighbour] ? [rows[neighbour]!] : [])),
        limit,
      ),
    );
    ring.forEach((point, i) => {
      rows[point] = found[i];
    });
    open = open.filter((point) => !rows[point]);
  }
  if (open.length > 0) {
    const weighted = rows.flatMap((row, index) => (row && !empty.has(index) ? [index] : []));
    const nearest = nearestAmong(mesh, weighted, vertexOfPoint);
    for (const point of open) rows[point] = rows[nearest(point)];
  }
  const isBare = new Set(bareVertices);
  const out: [number, number][][] = [];
  for (let vertex = 0; vertex < mesh.vertexCount; vertex++) {
    if (isBare.has(vertex)) {
      out.push(rows[pointOfVertex[vertex]] ?? []);
      continue;
    }
    const row: [number, number][] = [];
    for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++)
      row.push([influences.joint[k], influences.weight[k]]);
    out.push(row);
  }
  return influencesFrom(out);
}

/** Finds the nearest of some points of a mesh. `vertexOfPoint`: a vertex of every point. */
function nearestAmong(mesh: Mesh, points: readonly number[], vertexOfPoint: ArrayLike<number>) {
  const positions = positionsOf(mesh);
  const places = points.flatMap((point) => {
    const at = vertexOfPoint[point] * 3;
    return [positions[at], positions[at + 1], positions[at + 2]];
  });
  const tree = new PointTree(places);
  return (point: number): number => {
    const at = vertexOfPoint[point] * 3;
    return points[tree.nearest(positions[at], positions[at + 1], positions[at + 2])];
  };
}

function mean(rows: readonly (readonly [number, number])[][], limit: number): [number, number][] {
  const sum = new Map<number, number>();
  for (const row of rows) for (const [j, weight] of row) sum.set(j, (sum.get(j) ?? 0) + weight);
  const { influences } = limitInfluences(influencesFrom([[...sum]]), limit);
  return Array.from(influences.joint, (j, k) => [j, influences.weight[k]]);
}

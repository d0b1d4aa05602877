/** Walks over a surface: to the neighbours and back, along a ring of quads, and by the shortest way along edges (Dijkstra 1959). */
import FlatQueue from 'flatqueue';
import type { HalfEdges, PointNeighbours } from './half-edges';

/** The points of a choice and all their neighbours. 1 per point. */
export function grown(isIn: Uint8Array, { offsets, neighbours }: PointNeighbours): Uint8Array {
  const out = isIn.slice();
  for (let point = 0; point < isIn.length; point++)
    if (isIn[point]) for (let k = offsets[point]; k < offsets[point + 1]; k++) out[neighbours[k]] = 1;
  return out;
}

/** The points of a choice whose neighbours are all in it. 1 per point. */
export function shrunk(isIn: Uint8Array, { offsets, neighbours }: PointNeighbours): Uint8Array {
  const out = isIn.slice();
  for (let point = 0; point < isIn.length; point++)
    for (let k = offsets[point]; k < offsets[point + 1]; k++) if (!isIn[neighbours[k]]) out[point] = 0;
  return out;
}

/**
 * The ring of edges that lie opposite each other in quads, from a half-edge on, both ways: one half-edge each. It ends at a border
 * and at a face that is no quad.
 */
export function edgeRingThrough(
  { next, twin, edge }: Pick<HalfEdges, 'next' | 'twin' | 'edge'>,
  start: number,
): number[] {
  const seen = new Set<number>([edge[start]]);
  const ring = [start];
  const walk = (from: number): void => {
    for (let at = from; at >= 0;) {
      const across = next[next[at]];
      // Of a quad the one across has the one begun with across.
      if (next[next[across]] !== at || across === at || seen.has(edge[across])) return;
      seen.add(edge[across]);
      ring.push(across);
      at = twin[across];
    }
  };
  walk(start);
  walk(twin[start]);
  return ring;
}

/**
 * The points of the shortest way along edges from one to another, both with it; null where none leads there.
 * @param positions 3 per point
 */
export function shortestWay(
  { offsets, neighbours }: PointNeighbours,
  positions: ArrayLike<number>,
  from: number,
  to: number,
): number[] | null {
  const distance = new Float64Array(offsets.length - 1).fill(Infinity);
  const cameFrom = new Int32Array(distance.length).fill(-1);
  const queue = new FlatQueue<number>();
  distance[from] = 0;
  queue.push(from, 0);
  for (let point = queue.pop(); point !== undefined && point !== to; point = queue.pop())
    for (let k = offsets[point]; k < offsets[point + 1]; k++) {
      const other = neighbours[k];
      const way = distance[point] + apart(positions, point, other);
      if (way >= distance[other]) continue;
      distance[other] = way;
      cameFrom[other] = point;
      queue.push(other, way);
    }
  if (!(distance[to] < Infinity)) return null;
  const way = [to];
  while (way[way.length - 1] !== from) way.push(cameFrom[way[way.length - 1]]);
  return way.reverse();
}

const apart = (positions: ArrayLike<number>, a: number, b: number): number =>
  Math.hypot(
    positions[a * 3] - positions[b * 3],
    positions[a * 3 + 1] - positions[b * 3 + 1],
    positions[a * 3 + 2] - positions[b * 3 + 2],
  );

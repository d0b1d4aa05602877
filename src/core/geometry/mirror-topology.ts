/**
 * Twins by how faces hang together: from pairs of half-edges that are known to mirror each other the pairing is carried on over
 * neighbouring faces of as many corners, whatever their shape. So a side that was sculpted otherwise keeps its twins.
 */
import type { HalfEdges } from './half-edges';

/**
 * By point its twin, −1 for none; a point on the middle is its own.
 * @param near twins by place, −1 for none: where both ends of an edge have theirs, and these are an edge, the walk begins
 */
export function twinsByTopology(
  half: Pick<HalfEdges, 'origin' | 'next' | 'twin' | 'polygon'>,
  near: Int32Array,
): Int32Array {
  const { origin, next, twin, polygon } = half;
  const twins = new Int32Array(near.length).fill(-1);
  const previous = previousOf(next);
  const mirrorOf = new Int32Array(origin.length).fill(-1);
  const outgoing = edgesByEnds(half, near.length);
  const waiting: number[] = [];
  const pair = (h: number, other: number): void => {
    if (mirrorOf[h] >= 0 || !isSameFace(h, other, next, previous)) return;
    // All round the two faces, one the other way.
    let [a, b] = [h, other];
    do {
      mirrorOf[a] = b;
      waiting.push(a);
      a = next[a];
      b = previous[b];
    } while (a !== h);
  };
  for (let seed = 0; seed < origin.length; seed++) {
    if (mirrorOf[seed] >= 0 || !isSeed(seed, half, near)) continue;
    const other = outgoing(near[origin[next[seed]]], near[origin[seed]]);
    if (other < 0 || polygon[other] === undefined) continue;
    pair(seed, other);
    while (waiting.length > 0) {
      const h = waiting.pop() as number;
      const across = twin[h];
      const acrossMirror = twin[mirrorOf[h]];
      if (across >= 0 && acrossMirror >= 0) pair(across, acrossMirror);
    }
  }
  for (let h = 0; h < origin.length; h++)
    if (mirrorOf[h] >= 0 && twins[origin[h]] < 0) twins[origin[h]] = origin[next[mirrorOf[h]]];
  // What is no pair both ways is none.
  return twins.map((other, point) => (other >= 0 && twins[other] === point ? other : -1));
}

function previousOf(next: Uint32Array): Uint32Array {
  const previous = new Uint32Array(next.length);
  next.forEach((after, h) => {
    previous[after] = h;
  });
  return previous;
}

/** Whether two faces have as many corners. */
function isSameFace(h: number, other: number, next: Uint32Array, previous: Uint32Array): boolean {
  let [a, b] = [next[h], previous[other]];
  for (; a !== h && b !== other; a = next[a], b = previous[b]);
  return a === h && b === other;
}

/** A face all of whose points have twins by place begins the walk. */
function isSeed(h: number, { origin, next }: Pick<HalfEdges, 'origin' | 'next'>, near: Int32Array): boolean {
  let at = h;
  do {
    const other = near[origin[at]];
    if (other < 0 || near[other] !== origin[at]) return false;
    at = next[at];
  } while (at !== h);
  return true;
}

/** Finds the half-edge that runs from one point to another; −1 where there is none. */
function edgesByEnds(
  { origin, next }: Pick<HalfEdges, 'origin' | 'next'>,
  pointCount: number,
): (from: number, to: number) => number {
  const at = new Uint32Array(pointCount + 1);
  for (const point of origin) at[point + 1]++;
  for (let point = 0; point < pointCount; point++) at[point + 1] += at[point];
  const list = new Uint32Array(origin.length);
  const end = at.slice();
  origin.forEach((point, h) => {
    list[end[point]++] = h;
  });
  return (from, to) => {
    for (let i = at[from]; i < at[from + 1]; i++) if (origin[next[list[i]]] === to) return list[i];
    return -1;
  };
}

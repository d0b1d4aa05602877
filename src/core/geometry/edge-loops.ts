/**
 * Loops of edges: where four edges meet at a point, a loop that comes in by one goes out by the one across. On a mesh of quads
 * these are the rows and columns that it was modelled in, whatever its triangles or its seams.
 */
import type { HalfEdges } from './half-edges';

/** A walk that is longer is none that goes round a limb. */
export const LONGEST_LOOP = 4096;

/** The half-edge across a point: from one that comes in, the one that goes on; −1 unless just four edges meet there. */
export function acrossPoint({ next, twin }: Pick<HalfEdges, 'next' | 'twin'>, incoming: number): number {
  let out = next[incoming];
  let across = -1;
  for (let turn = 0; turn < 3; turn++) {
    const other = twin[out];
    if (other < 0) return -1;
    out = next[other];
    if (turn === 0) across = out;
  }
  return out === twin[incoming] ? across : -1;
}

/**
 * The closed loop of edges that a half-edge belongs to, as half-edges one after the other; null where it ends at a border or
 * at a point where other than four edges meet, or crosses itself.
 */
export function edgeLoopThrough(half: Pick<HalfEdges, 'next' | 'twin'>, start: number): number[] | null {
  const loop = [start];
  for (let at = acrossPoint(half, start); at !== start; at = acrossPoint(half, at)) {
    if (at < 0 || loop.length >= LONGEST_LOOP) return null;
    loop.push(at);
  }
  return loop;
}

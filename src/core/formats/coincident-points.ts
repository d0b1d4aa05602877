import { weldExact } from '../geometry/weld';
import { printable } from './errors';

/** A mesh whose file keeps more points than there are places. */
export interface CoincidentPoints {
  readonly name: string;
  readonly points: number;
  readonly places: number;
}

/**
 * Counts the points of a mesh's file that lie exactly on another of the same mesh. Only a format that knows
 * points can tell them from a seam. Null where every point has a place of its own.
 * @param filePoints the file's point of every vertex
 * @param positions Float32Array, 3 per vertex
 */
export function countTogether(
  name: string,
  filePoints: Int32Array | Uint32Array,
  positions: Float32Array,
): CoincidentPoints | null {
  let last = -1;
  for (const point of filePoints) if (point > last) last = point;
  const seen = new Uint8Array(last + 1);
  let points = 0;
  for (const point of filePoints) {
    points += 1 - seen[point];
    seen[point] = 1;
  }
  const { pointCount: places } = weldExact(positions);
  return points > places ? { name, points, places } : null;
}

/** Meshes that a note lists by name. */
const NAMED = 3;

/** What is said of them: the house takes every such place as one point, and writes it as one. */
export function togetherNotes(found: readonly CoincidentPoints[]): string[] {
  if (found.length === 0) return [];
  const more = found.reduce((sum, together) => sum + together.points - together.places, 0);
  const names = found.slice(0, NAMED).map((together) => `“${printable(together.name)}”`);
  const rest = found.length > NAMED ? ` and ${found.length - NAMED} more` : '';
  return [
    `${more} ${more === 1 ? 'point' : 'points'} of ${names.join(', ')}${rest} ${
      more === 1 ? 'lies' : 'lie'
    } exactly on another of the same mesh; what lies at one place is taken as one point.`,
  ];
}

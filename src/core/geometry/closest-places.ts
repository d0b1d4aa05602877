/** The closest place of a surface to each of many places, which follow each other closely as a rule: the one before says how far to look. */
import type { TriangleTree } from './triangle-tree';

export interface ClosestPlaces {
  /** Triangle of every place, −1 where none is within. */
  readonly triangle: Int32Array;
  /** Weights of the triangle's corners, 3 per place. */
  readonly corners: Float32Array;
  /** In the unit of the places; Infinity for none. */
  readonly distance: Float32Array;
}

/** @param places 3 per place */
export function closestPlaces(
  tree: TriangleTree,
  places: ArrayLike<number>,
  within = Infinity,
): ClosestPlaces {
  const count = places.length / 3;
  const triangle = new Int32Array(count).fill(-1);
  const corners = new Float32Array(count * 3);
  const distance = new Float32Array(count).fill(Infinity);
  let last: readonly number[] | null = null;
  for (let i = 0; i < count; i++) {
    const [x, y, z] = [places[i * 3], places[i * 3 + 1], places[i * 3 + 2]];
    const known: number = last ? Math.hypot(x - last[0], y - last[1], z - last[2]) : Infinity;
    // A little more, so that rounding does not hide the place that is known.
    const found = tree.closestPoint(x, y, z, Math.min(within, known * 1.000001 + 1e-12));
    if (!found) continue;
    last = found.point;
    triangle[i] = found.triangle;
    for (let k = 0; k < 3; k++) corners[i * 3 + k] = found.corners[k];
    distance[i] = found.distance;
  }
  return { triangle, corners, distance };
}

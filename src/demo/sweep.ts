/** Rings swept along a line that stays in a plane of constant x, and the faces that close them. */
import type { CageBuilder, Weights } from './cage';

/** A ring: where its middle is, half its width along x, half its depth across the line, metres. */
export interface SweepRing {
  readonly y: number;
  readonly z: number;
  readonly x?: number;
  readonly a: number;
  readonly b: number;
  readonly weights: Weights;
}

/** Columns of half a ring, front middle over the left to back middle, in degrees from the front. */
export const HALF_COLUMNS = [0, 26, 50, 72, 92, 112, 134, 157, 180];

/** Unit vectors of the front of each ring (y, z): square to the line through the middles before and after. */
function frontsOf(rings: readonly SweepRing[]): [number, number][] {
  return rings.map((_, i) => {
    const [a, b] = [rings[Math.max(0, i - 1)], rings[Math.min(rings.length - 1, i + 1)]];
    const [y, z] = [b.y - a.y, b.z - a.z];
    const length = Math.hypot(y, z) || 1;
    return [-z / length, y / length];
  });
}

/** Half rings along a line that rises; the first and the last column lie in the middle. */
export function halfSweep(
  cage: CageBuilder,
  rings: readonly SweepRing[],
  columns: readonly number[] = HALF_COLUMNS,
): number[][] {
  const fronts = frontsOf(rings);
  return rings.map(({ y, z, a, b, weights }, i) =>
    columns.map((degrees) => {
      const angle = (degrees * Math.PI) / 180;
      const x = degrees === 0 || degrees === 180 ? 0 : a * Math.sin(angle);
      const forward = b * Math.cos(angle);
      return cage.point([x, y + fronts[i][0] * forward, z + fronts[i][1] * forward], weights);
    }),
  );
}

/** Whole rings of `around` points along a line that falls. */
export function tube(cage: CageBuilder, rings: readonly SweepRing[], around: number): number[][] {
  const fronts = frontsOf(rings);
  return rings.map(({ x = 0, y, z, a, b, weights }, i) =>
    Array.from({ length: around }, (_, k) => {
      const angle = ((k + 0.5) / around) * 2 * Math.PI;
      const forward = -b * Math.cos(angle);
      return cage.point(
        [x + a * Math.sin(angle), y + fronts[i][0] * forward, z + fronts[i][1] * forward],
        weights,
      );
    }),
  );
}

/** Closes half a ring of an odd number of points with strips across it. `below`: whether it is seen from below. */
export function closeHalf(
  cage: CageBuilder,
  half: readonly number[],
  material: string,
  below: boolean,
): void {
  const last = half.length - 1;
  for (let k = 0; k < last / 2; k++) {
    const corners = [half[k], half[k + 1], half[last - k - 1], half[last - k]];
    const face = [...new Set(corners)];
    cage.face(below ? face.reverse() : face, material);
  }
}

/** Closes a ring of an even number of points with strips across it. */
export function closeRing(
  cage: CageBuilder,
  ring: readonly number[],
  material: string,
  below: boolean,
): void {
  const last = ring.length - 1;
  for (let k = 0; k + 1 < ring.length / 2; k++) {
    const face = [ring[k], ring[k + 1], ring[last - k - 1], ring[last - k]];
    cage.face(below ? face.reverse() : face, material);
  }
}

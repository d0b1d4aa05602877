/** Flat tapering parts: feathers, toes, the lower beak. */
import { cross, normalise, subtract } from '../core/geometry/matrix';
import type { CageBuilder, Point, Weights } from './cage';

/** A blade along a line, wide across it, thin square to both. Widths and thicknesses are halves, metres, one each station. */
export interface Blade {
  readonly line: readonly Point[];
  readonly across: Point;
  readonly widths: readonly number[];
  readonly thicknesses: readonly number[];
  readonly weights: Weights;
  readonly material: string;
}

/** Six points round each station; both ends closed. */
export function blade(
  cage: CageBuilder,
  { line, across, widths, thicknesses, weights, material }: Blade,
): void {
  const rings = line.map((place, i) => {
    const along = normalise(
      subtract(line[Math.min(line.length - 1, i + 1)], line[Math.max(0, i - 1)]) as [number, number, number],
    );
    const out = normalise(cross(along, across as [number, number, number]));
    const wide = cross(out, along);
    return [0, 60, 120, 180, 240, 300].map((degrees) => {
      const angle = (degrees * Math.PI) / 180;
      const [w, t] = [Math.cos(angle) * widths[i], Math.sin(angle) * thicknesses[i]];
      return cage.point(
        [
          place[0] + wide[0] * w + out[0] * t,
          place[1] + wide[1] * w + out[1] * t,
          place[2] + wide[2] * w + out[2] * t,
        ],
        weights,
      );
    });
  });
  for (let i = 1; i < rings.length; i++) cage.bridge(rings[i - 1], rings[i], material);
  const [first, last] = [rings[0], rings[rings.length - 1]];
  cage.face([first[0], first[5], first[4], first[3]], material);
  cage.face([first[3], first[2], first[1], first[0]], material);
  cage.face([last[0], last[1], last[2], last[3]], material);
  cage.face([last[3], last[4], last[5], last[0]], material);
}

/**
 * Implicit bodies: distance functions of round cones and ellipsoids, blended smoothly, and the way of a point
 * onto them.
 */
import type { Point } from './cage';

/** Signed distance in metres, negative inside. */
export type Solid = (x: number, y: number, z: number) => number;

/** A limb from a (radius ra) to b (radius rb). After Quilez' exact round cone. */
export function roundCone(a: Point, b: Point, ra: number, rb: number): Solid {
  const ba = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
  const l2 = ba[0] ** 2 + ba[1] ** 2 + ba[2] ** 2;
  const rr = ra - rb;
  const a2 = l2 - rr * rr;
  const il2 = 1 / l2;
  return (x, y, z) => {
    const pa = [x - a[0], y - a[1], z - a[2]];
    const yy = pa[0] * ba[0] + pa[1] * ba[1] + pa[2] * ba[2];
    const zz = yy - l2;
    const values = [pa[0] * l2 - ba[0] * yy, pa[1] * l2 - ba[1] * yy, pa[2] * l2 - ba[2] * yy];
    const x2 = values[0] ** 2 + values[1] ** 2 + values[2] ** 2;
    const y2 = yy * yy * l2;
    const z2 = zz * zz * l2;
    const k = Math.sign(rr) * rr * rr * x2;
    if (Math.sign(zz) * a2 * z2 > k) return Math.sqrt(x2 + z2) * il2 - rb;
    if (Math.sign(yy) * a2 * y2 < k) return Math.sqrt(x2 + y2) * il2 - ra;
    return (Math.sqrt(x2 * a2 * il2) + yy * rr) * il2 - ra;
  };
}

/** An ellipsoid, its distance approximated to first order. */
export function ellipsoid(c: Point, row: Point): Solid {
  return (x, y, z) => {
    const [px, py, pz] = [(x - c[0]) / row[0], (y - c[1]) / row[1], (z - c[2]) / row[2]];
    const k0 = Math.hypot(px, py, pz);
    const k1 = Math.hypot(px / row[0], py / row[1], pz / row[2]);
    return k1 < 1e-9 ? -Math.min(...row) : (k0 * (k0 - 1)) / k1;
  };
}

/** The union of solids, blended over a distance of k metres. */
export function blend(k: number, ...solids: Solid[]): Solid {
  return (x, y, z) => {
    let d = solids[0](x, y, z);
    for (let i = 1; i < solids.length; i++) {
      const e = solids[i](x, y, z);
      const h = Math.max(k - Math.abs(d - e), 0) / k;
      d = Math.min(d, e) - h * h * k * 0.25;
    }
    return d;
  };
}

/** The first solid with the second pressed into it, softly over k. */
export function pressed(k: number, body: Solid, stamp: Solid): Solid {
  return (x, y, z) => {
    const d = body(x, y, z);
    const e = -stamp(x, y, z);
    const h = Math.max(k - Math.abs(d - e), 0) / k;
    return Math.max(d, e) + h * h * k * 0.25;
  };
}

/** Both sides of a solid given for the left. */
export function bothSides(solid: Solid): Solid {
  return (x, y, z) => solid(Math.abs(x), y, z);
}

/**
 * The point moved towards the surface at distance `offset`, by `share` of the way; no farther than
 * `farthest`.
 */
export function drawn(solid: Solid, p: Point, offset: number, share: number, farthest = 0.05): Point {
  let [x, y, z] = p;
  for (let i = 0; i < 3; i++) {
    const difference = solid(x, y, z) - offset;
    const e = 5e-4;
    const g = [
      solid(x + e, y, z) - solid(x - e, y, z),
      solid(x, y + e, z) - solid(x, y - e, z),
      solid(x, y, z + e) - solid(x, y, z - e),
    ];
    const length = Math.hypot(...g) || 1;
    const step = Math.max(-0.03, Math.min(0.03, difference)) * (i === 2 ? 1 : 0.95);
    x -= (g[0] / length) * step;
    y -= (g[1] / length) * step;
    z -= (g[2] / length) * step;
  }
  const way = [x - p[0], y - p[1], z - p[2]];
  const long = Math.hypot(...way);
  const f = share * (long > farthest ? farthest / long : 1);
  return [p[0] + way[0] * f, p[1] + way[1] * f, p[2] + way[2] * f];
}

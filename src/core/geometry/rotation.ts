import { quatAbout, quatMultiply, quatRotate } from './matrix';

/** How many steps the rotation is sought in at most, and the turn below which it is found, radians. */
const STEPS = 60;
const FOUND = 1e-9;

/**
 * The rotation nearest to a 3×3 matrix (row by row), as a quaternion: the one that turns the vectors b nearest to the
 * vectors a where the matrix is the sum of a bᵀ. Found from no turn on, so that of equally good ones it is the smallest
 * (Müller, Bender, Chentanez and Macklin 2016, “A robust method to extract the rotational part of deformations”).
 */
export function rotationOf(m: Float64Array): [number, number, number, number] {
  let q: [number, number, number, number] = [0, 0, 0, 1];
  for (let step = 0; step < STEPS; step++) {
    const turn = [0, 0, 0];
    let along = 0;
    for (let c = 0; c < 3; c++) {
      const r = quatRotate(q, [c === 0 ? 1 : 0, c === 1 ? 1 : 0, c === 2 ? 1 : 0]);
      const a = [m[c], m[3 + c], m[6 + c]];
      turn[0] += r[1] * a[2] - r[2] * a[1];
      turn[1] += r[2] * a[0] - r[0] * a[2];
      turn[2] += r[0] * a[1] - r[1] * a[0];
      along += r[0] * a[0] + r[1] * a[1] + r[2] * a[2];
    }
    const size = Math.hypot(...turn);
    const angle = size / (Math.abs(along) + 1e-300);
    if (size === 0 || angle < FOUND) break;
    const axis = turn.map((x) => x / size);
    q = quatMultiply(quatAbout(axis, Math.min(angle, Math.PI / 2)), q);
  }
  return q;
}

import { type Vec3, quatAbout, quatMultiply, quatRotate } from './matrix';

/** How many steps the rotation is sought in at most, and the turn below which it is found, radians. */
const STEPS = 40;
const FOUND = 1e-12;

/** A step never turns farther than this, radians. */
const FAR = Math.PI / 2;

/**
 * The rotation nearest to a 3×3 matrix (row by row), as a quaternion: the one that turns the vectors b nearest to the
 * vectors a where the matrix is the sum of a bᵀ. Sought from no turn on, so that of equally good ones it is
 * the smallest: by Newton's steps for the polar decomposition where they lead there, by the sure ones of
 * Müller, Bender, Chentanez and Macklin (2016, “A robust method to extract the rotational part of
 * deformations”) where they do not.
 */
export function rotationOf(m: Float64Array): [number, number, number, number] {
  let q: [number, number, number, number] = [0, 0, 0, 1];
  for (let step = 0; step < STEPS; step++) {
    const b = unturned(m, q);
    const turn: Vec3 = [b[7] - b[5], b[2] - b[6], b[3] - b[1]];
    const trace = b[0] + b[4] + b[8];
    const by = newtonStep(b, trace, turn) ?? turn.map((x) => x / (Math.abs(trace) + 1e-300));
    const angle = Math.hypot(by[0], by[1], by[2]);
    if (!(angle > FOUND)) break;
    const axis = by.map((x) => x / angle);
    q = quatMultiply(quatAbout(axis, Math.min(angle, FAR)), q);
  }
  return q;
}

/** The matrix with a rotation taken off from its right: m·Rᵀ, row by row. */
function unturned(m: Float64Array, q: readonly number[]): number[] {
  const columns = [0, 1, 2].map((c) => quatRotate(q, [c === 0 ? 1 : 0, c === 1 ? 1 : 0, c === 2 ? 1 : 0]));
  const out: number[] = [];
  for (let r = 0; r < 3; r++)
    for (let c = 0; c < 3; c++)
      out.push(m[r * 3] * columns[0][c] + m[r * 3 + 1] * columns[1][c] + m[r * 3 + 2] * columns[2][c]);
  return out;
}

/** Solves (trace·I − S)·x = turn for the symmetric part S of b; null where that does not lead to the nearest one. */
function newtonStep(b: readonly number[], trace: number, turn: Vec3): number[] | null {
  const keep = 1e-9 * Math.abs(trace);
  const [xx, yy, zz] = [trace - b[0] + keep, trace - b[4] + keep, trace - b[8] + keep];
  const [xy, xz, yz] = [-(b[1] + b[3]) / 2, -(b[2] + b[6]) / 2, -(b[5] + b[7]) / 2];
  const [c0, c1, c2] = [yy * zz - yz * yz, xz * yz - xy * zz, xy * yz - xz * yy];
  const determinant = xx * c0 + xy * c1 + xz * c2;
  // Its leading minors: only where all are above 0 is there a least one near.
  if (!(xx > 0 && xx * yy - xy * xy > 0 && determinant > 0)) return null;
  const [d1, d2, e2] = [xx * zz - xz * xz, xy * xz - xx * yz, xx * yy - xy * xy];
  return [
    (c0 * turn[0] + c1 * turn[1] + c2 * turn[2]) / determinant,
    (c1 * turn[0] + d1 * turn[1] + d2 * turn[2]) / determinant,
    (c2 * turn[0] + d2 * turn[1] + e2 * turn[2]) / determinant,
  ];
}

/**
 * 4×4 matrices in flat arrays of doubles, column-major as in glTF 2.0 (element = row + 4·column).
 * Every function takes an offset, so that many matrices live in one array of stride 16.
 */

export type Vec3 = readonly [number, number, number];
export type Quat = readonly [number, number, number, number];
export type Numbers = Float64Array | Float32Array | readonly number[];

/** The identity, 16 numbers, column-major. */
export const IDENTITY: readonly number[] = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

/** out[o…o+16] = a[ao…] · b[bo…]. `out` may not overlap `a` or `b`. */
export function multiply(out: Float64Array, o: number, a: Numbers, ao: number, b: Numbers, bo: number): void {
  for (let c = 0; c < 4; c++) {
    const b0 = b[bo + c * 4];
    const b1 = b[bo + c * 4 + 1];
    const b2 = b[bo + c * 4 + 2];
    const b3 = b[bo + c * 4 + 3];
    for (let r = 0; r < 4; r++) {
      out[o + c * 4 + r] = a[ao + r] * b0 + a[ao + 4 + r] * b1 + a[ao + 8 + r] * b2 + a[ao + 12 + r] * b3;
    }
  }
}

/** The product of two matrices as a new array of 16. */
export function times(a: Numbers, b: Numbers, ao = 0, bo = 0): Float64Array {
  const out = new Float64Array(16);
  multiply(out, 0, a, ao, b, bo);
  return out;
}

/** Translation · rotation (unit quaternion x y z w) · scale. */
export function compose(out: Float64Array, o: number, t: Numbers, q: Numbers, s: Numbers): void {
  const [x, y, z, w] = [q[0], q[1], q[2], q[3]];
  const x2 = x + x;
  const y2 = y + y;
  const z2 = z + z;
  const xx = x * x2;
  const xy = x * y2;
  const xz = x * z2;
  const yy = y * y2;
  const yz = y * z2;
  const zz = z * z2;
  const wx = w * x2;
  const wy = w * y2;
  const wz = w * z2;
  out[o] = (1 - (yy + zz)) * s[0];
  out[o + 1] = (xy + wz) * s[0];
  out[o + 2] = (xz - wy) * s[0];
  out[o + 3] = 0;
  out[o + 4] = (xy - wz) * s[1];
  out[o + 5] = (1 - (xx + zz)) * s[1];
  out[o + 6] = (yz + wx) * s[1];
  out[o + 7] = 0;
  out[o + 8] = (xz + wy) * s[2];
  out[o + 9] = (yz - wx) * s[2];
  out[o + 10] = (1 - (xx + yy)) * s[2];
  out[o + 11] = 0;
  out[o + 12] = t[0];
  out[o + 13] = t[1];
  out[o + 14] = t[2];
  out[o + 15] = 1;
}

/** The matrix of a translation, a unit quaternion (x, y, z, w) and a scale: 16 numbers, column-major. */
export function composeMatrix(t: Numbers, q: Numbers, s: Numbers): Float64Array {
  const out = new Float64Array(16);
  compose(out, 0, t, q, s);
  return out;
}

/** Determinant of the upper-left 3×3: negative where the matrix mirrors, near 0 where it flattens. */
export function determinant3(m: Numbers, o = 0): number {
  return (
    m[o] * (m[o + 5] * m[o + 10] - m[o + 6] * m[o + 9]) -
    m[o + 4] * (m[o + 1] * m[o + 10] - m[o + 2] * m[o + 9]) +
    m[o + 8] * (m[o + 1] * m[o + 6] - m[o + 2] * m[o + 5])
  );
}

/** Inverse of an affine matrix (last row 0 0 0 1). A matrix without an inverse gives null. */
export function invertAffine(m: Numbers, o = 0): Float64Array | null {
  const d = determinant3(m, o);
  if (!(Math.abs(d) > 1e-300)) return null;
  const i = 1 / d;
  const out = new Float64Array(16);
  out[0] = (m[o + 5] * m[o + 10] - m[o + 9] * m[o + 6]) * i;
  out[1] = (m[o + 9] * m[o + 2] - m[o + 1] * m[o + 10]) * i;
  out[2] = (m[o + 1] * m[o + 6] - m[o + 5] * m[o + 2]) * i;
  out[4] = (m[o + 8] * m[o + 6] - m[o + 4] * m[o + 10]) * i;
  out[5] = (m[o] * m[o + 10] - m[o + 8] * m[o + 2]) * i;
  out[6] = (m[o + 4] * m[o + 2] - m[o] * m[o + 6]) * i;
  out[8] = (m[o + 4] * m[o + 9] - m[o + 8] * m[o + 5]) * i;
  out[9] = (m[o + 8] * m[o + 1] - m[o] * m[o + 9]) * i;
  out[10] = (m[o] * m[o + 5] - m[o + 4] * m[o + 1]) * i;
  for (let r = 0; r < 3; r++) {
    out[12 + r] = -(out[r] * m[o + 12] + out[4 + r] * m[o + 13] + out[8 + r] * m[o + 14]);
  }
  out[15] = 1;
  return out;
}

/** Same as {@link invertAffine}, with the identity for a matrix that has no inverse. */
export function inverseOr(m: Numbers, o = 0): Float64Array {
  return invertAffine(m, o) ?? Float64Array.from(IDENTITY);
}

/**
 * Unit quaternion of a pure rotation matrix (columns of length 1). Method: Shepperd 1978, largest term first.
 */
export function quatOfRotation(m: Numbers, o = 0): [number, number, number, number] {
  const m00 = m[o];
  const m11 = m[o + 5];
  const m22 = m[o + 10];
  const trace = m00 + m11 + m22;
  let x: number;
  let y: number;
  let z: number;
  let w: number;
  if (trace > 0) {
    const s = Math.sqrt(trace + 1) * 2;
    w = s / 4;
    x = (m[o + 6] - m[o + 9]) / s;
    y = (m[o + 8] - m[o + 2]) / s;
    z = (m[o + 1] - m[o + 4]) / s;
  } else if (m00 > m11 && m00 > m22) {
    const s = Math.sqrt(1 + m00 - m11 - m22) * 2;
    w = (m[o + 6] - m[o + 9]) / s;
    x = s / 4;
    y = (m[o + 4] + m[o + 1]) / s;
    z = (m[o + 8] + m[o + 2]) / s;
  } else if (m11 > m22) {
    const s = Math.sqrt(1 + m11 - m00 - m22) * 2;
    w = (m[o + 8] - m[o + 2]) / s;
    x = (m[o + 4] + m[o + 1]) / s;
    y = s / 4;
    z = (m[o + 9] + m[o + 6]) / s;
  } else {
    const s = Math.sqrt(1 + m22 - m00 - m11) * 2;
    w = (m[o + 1] - m[o + 4]) / s;
    x = (m[o + 8] + m[o + 2]) / s;
    y = (m[o + 9] + m[o + 6]) / s;
    z = s / 4;
  }
  const l = Math.hypot(x, y, z, w) || 1;
  return [x / l, y / l, z / l, w / l];
}

/** A matrix taken apart; `rotation` is a unit quaternion (x, y, z, w). */
export interface Decomposed {
  translation: [number, number, number];
  rotation: [number, number, number, number];
  scale: [number, number, number];
  shear: number;
}

/**
 * Splits an affine matrix into translation, rotation and scale. A mirror puts its sign on x.
 * `shear` is the largest cosine between two of its axes: 0 means that the split is exact.
 */
export function decompose(m: Numbers, o = 0): Decomposed {
  let sx = Math.hypot(m[o], m[o + 1], m[o + 2]);
  const sy = Math.hypot(m[o + 4], m[o + 5], m[o + 6]);
  const sz = Math.hypot(m[o + 8], m[o + 9], m[o + 10]);
  if (determinant3(m, o) < 0) sx = -sx;
  const ix = sx ? 1 / sx : 0;
  const iy = sy ? 1 / sy : 0;
  const iz = sz ? 1 / sz : 0;
  const r = new Float64Array(16);
  for (let k = 0; k < 3; k++) {
    r[k] = m[o + k] * ix;
    r[4 + k] = m[o + 4 + k] * iy;
    r[8 + k] = m[o + 8 + k] * iz;
  }
  const dot = (a: number, b: number) => Math.abs(r[a] * r[b] + r[a + 1] * r[b + 1] + r[a + 2] * r[b + 2]);
  return {
    translation: [m[o + 12], m[o + 13], m[o + 14]],
    rotation: quatOfRotation(r),
    scale: [sx, sy, sz],
    shear: Math.max(dot(0, 4), dot(0, 8), dot(4, 8)),
  };
}

/** Whether a matrix is a turn, a move and one scale along all axes, but for a share of that. */
export function scalesEvenly(m: Numbers, within = 1e-6): boolean {
  const { scale, shear } = decompose(m);
  return shear <= within && Math.max(...scale) - Math.min(...scale) <= within * Math.max(...scale);
}

/** The turn that does `b` first and then `a`. Quaternions (x, y, z, w). */
export function quatMultiply(a: Numbers, b: Numbers): [number, number, number, number] {
  return [
    a[3] * b[0] + a[0] * b[3] + a[1] * b[2] - a[2] * b[1],
    a[3] * b[1] - a[0] * b[2] + a[1] * b[3] + a[2] * b[0],
    a[3] * b[2] + a[0] * b[1] - a[1] * b[0] + a[2] * b[3],
    a[3] * b[3] - a[0] * b[0] - a[1] * b[1] - a[2] * b[2],
  ];
}

/** The turn back, of a unit quaternion (x, y, z, w). */
export function quatConjugate(q: Numbers): [number, number, number, number] {
  return [-q[0], -q[1], -q[2], q[3]];
}

/** Quaternion of a turn by `radians` about a unit axis. */
export function quatAbout(axis: Numbers, radians: number): [number, number, number, number] {
  const s = Math.sin(radians / 2);
  return [axis[0] * s, axis[1] * s, axis[2] * s, Math.cos(radians / 2)];
}

/** A vector turned by a unit quaternion (x, y, z, w). */
export function quatRotate(q: Numbers, v: Numbers): [number, number, number] {
  const tx = 2 * (q[1] * v[2] - q[2] * v[1]);
  const ty = 2 * (q[2] * v[0] - q[0] * v[2]);
  const tz = 2 * (q[0] * v[1] - q[1] * v[0]);
  return [
    v[0] + q[3] * tx + q[1] * tz - q[2] * ty,
    v[1] + q[3] * ty + q[2] * tx - q[0] * tz,
    v[2] + q[3] * tz + q[0] * ty - q[1] * tx,
  ];
}

/**
 * The smallest rotation that turns direction a to direction b (neither needs unit length; zero length gives
 * the identity).
 */
export function quatBetween(a: Numbers, b: Numbers): [number, number, number, number] {
  const la = Math.hypot(a[0], a[1], a[2]);
  const lb = Math.hypot(b[0], b[1], b[2]);
  if (la < 1e-12 || lb < 1e-12) return [0, 0, 0, 1];
  // Half of the turn leads from a to the direction midway between the two, which stays exact where they
  // nearly oppose each other.
  const from = [a[0] / la, a[1] / la, a[2] / la];
  const half = [from[0] + b[0] / lb, from[1] + b[1] / lb, from[2] + b[2] / lb];
  const lh = Math.hypot(half[0], half[1], half[2]);
  if (lh < 1e-9)
    return quatAbout(
      normalise(Math.abs(from[0]) < 0.9 ? cross([1, 0, 0], from) : cross([0, 1, 0], from)),
      Math.PI,
    );
  const c = cross(from, half);
  const w = dot(from, half);
  const l = Math.hypot(c[0], c[1], c[2], w);
  return [c[0] / l, c[1] / l, c[2] / l, w / l];
}

/** Spherical interpolation along the shorter arc. */
export function quatSlerp(a: Numbers, b: Numbers, t: number): [number, number, number, number] {
  let d = a[0] * b[0] + a[1] * b[1] + a[2] * b[2] + a[3] * b[3];
  const sign = d < 0 ? -1 : 1;
  d *= sign;
  let wa = 1 - t;
  let wb = t;
  if (d < 0.9995) {
    const angle = Math.acos(Math.min(1, d));
    const sine = Math.sin(angle);
    wa = Math.sin((1 - t) * angle) / sine;
    wb = Math.sin(t * angle) / sine;
  }
  const q = [
    a[0] * wa + sign * b[0] * wb,
    a[1] * wa + sign * b[1] * wb,
    a[2] * wa + sign * b[2] * wb,
    a[3] * wa + sign * b[3] * wb,
  ];
  const l = Math.hypot(q[0], q[1], q[2], q[3]) || 1;
  return [q[0] / l, q[1] / l, q[2] / l, q[3] / l];
}

/** The cross product. */
export function cross(a: Numbers, b: Numbers): [number, number, number] {
  return [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
}

/** The dot product of two vectors of three. */
export function dot(a: Numbers, b: Numbers): number {
  return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

/** a − b. */
export function subtract(a: Numbers, b: Numbers): [number, number, number] {
  return [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
}

/** The length of a vector of three. */
export function length(a: Numbers): number {
  return Math.hypot(a[0], a[1], a[2]);
}

/** The same direction with length one; a vector without length stays as it is. */
export function normalise(a: Numbers): [number, number, number] {
  const l = length(a) || 1;
  return [a[0] / l, a[1] / l, a[2] / l];
}

/** The distance between two places. */
export function distance(a: Numbers, b: Numbers): number {
  return Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
}

/** A quaternion of unit length. */
export function normalise4(q: Numbers): Quat {
  const l = Math.hypot(q[0], q[1], q[2], q[3]) || 1;
  return [q[0] / l, q[1] / l, q[2] / l, q[3] / l];
}

/** Where a matrix takes a point. Column-major 4 × 4, affine. */
export const pointThrough = (matrix: Numbers, [x, y, z]: Vec3): Vec3 => [
  matrix[0] * x + matrix[4] * y + matrix[8] * z + matrix[12],
  matrix[1] * x + matrix[5] * y + matrix[9] * z + matrix[13],
  matrix[2] * x + matrix[6] * y + matrix[10] * z + matrix[14],
];

/**
 * Dual quaternion linear blending (Kavan, Collins, Žára & O’Sullivan 2007, *Skinning with Dual Quaternions*): every joint's motion
 * away from the bind as a unit dual quaternion, the weighted sum of them made a unit again. Keeps volume where a limb twists; what
 * a joint scales is lost, as it is in engines that skin so.
 */
import type { Influences } from './influences';
import { decompose } from './matrix';

/**
 * The motions of joints as dual quaternions, 8 per joint: rotation x y z w, then the dual part.
 * @param matrices 12 per joint, three rows of four, as skinning takes them
 */
export function dualQuaternionsOf(matrices: Float32Array): Float64Array {
  const count = matrices.length / 12;
  const out = new Float64Array(count * 8);
  const matrix = new Float64Array(16);
  matrix[15] = 1;
  for (let joint = 0; joint < count; joint++) {
    for (let row = 0; row < 3; row++)
      for (let column = 0; column < 4; column++)
        matrix[column * 4 + row] = matrices[joint * 12 + row * 4 + column];
    const [x, y, z, w] = decompose(matrix).rotation;
    const [tx, ty, tz] = [matrix[12], matrix[13], matrix[14]];
    out.set(
      [
        x,
        y,
        z,
        w,
        0.5 * (tx * w + ty * z - tz * y),
        0.5 * (-tx * z + ty * w + tz * x),
        0.5 * (tx * y - ty * x + tz * w),
        -0.5 * (tx * x + ty * y + tz * z),
      ],
      joint * 8,
    );
  }
  return out;
}

/**
 * Skins points by dual quaternions. A vertex without influences stays where it is.
 * @param points Float32Array, 3 per vertex, bind space
 * @param duals 8 per joint, from {@link dualQuaternionsOf}
 * @param out Float32Array, 3 per vertex, world space
 */
export function skinByDualQuaternions(
  points: Float32Array,
  { offsets, joint, weight }: Influences,
  duals: Float64Array,
  out: Float32Array,
): void {
  const sum = new Float64Array(8);
  for (let vertex = 0; vertex + 1 < offsets.length; vertex++) {
    const [start, end] = [offsets[vertex], offsets[vertex + 1]];
    const i = vertex * 3;
    if (start === end) {
      for (let k = 0; k < 3; k++) out[i + k] = points[i + k];
      continue;
    }
    sum.fill(0);
    const first = joint[start] * 8;
    for (let k = start; k < end; k++) {
      const at = joint[k] * 8;
      let along = 0;
      for (let c = 0; c < 4; c++) along += duals[at + c] * duals[first + c];
      // Of the two quaternions that are one rotation, that on the side of the first.
      const share = along < 0 ? -weight[k] : weight[k];
      for (let c = 0; c < 8; c++) sum[c] += share * duals[at + c];
    }
    const size = Math.sqrt(sum[0] * sum[0] + sum[1] * sum[1] + sum[2] * sum[2] + sum[3] * sum[3]) || 1;
    for (let c = 0; c < 8; c++) sum[c] /= size;
    putMoved(sum, points, i, out);
  }
}

/** One point moved by a unit dual quaternion. */
function putMoved(dual: Float64Array, points: Float32Array, i: number, out: Float32Array): void {
  const [x, y, z, w, a, b, c, d] = dual;
  const [px, py, pz] = [points[i], points[i + 1], points[i + 2]];
  const ux = y * pz - z * py + w * px;
  const uy = z * px - x * pz + w * py;
  const uz = x * py - y * px + w * pz;
  out[i] = px + 2 * (y * uz - z * uy) + 2 * (w * a - d * x + y * c - z * b);
  out[i + 1] = py + 2 * (z * ux - x * uz) + 2 * (w * b - d * y + z * a - x * c);
  out[i + 2] = pz + 2 * (x * uy - y * ux) + 2 * (w * c - d * z + x * b - y * a);
}

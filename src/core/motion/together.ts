/**
 * All joints turned at once by a little, so that the points come nearer to where they are wanted: one step of Gauss and
 * Newton. Turning joint j by a small θ moves a point by θ × a, where a is the weighted arm from the joint to what its
 * branch carries of the point (as in the closed forms of inverse kinematics: Buss 2004, “Introduction to Inverse
 * Kinematics with Jacobian Transpose, Pseudoinverse and Damped Least Squares Methods”); roots move as well.
 */
import type { Joint } from './carried';

/** How the joints are to turn, by the places of blocks: a rotation vector a joint, then a shift a root. */
export interface Step {
  /** Rotation vector of every joint, world axes, radians, 3 each. */
  readonly turns: Float64Array;
  /** Shift of every joint that is a root, metres, 3 each; of others 0. */
  readonly shifts: Float64Array;
}

/** The normal equations of all joints over all points, filled and solved again and again. */
export class Together {
  /** For every point, the joints that move it and where in their lists it stands. */
  private readonly offsets: Int32Array;
  private readonly joint: Int32Array;
  private readonly index: Int32Array;
  /** Place of a joint’s turn, and of its shift, in the equations; −1 for none. Leaves first, so that little fills in. */
  private readonly turnAt: Int32Array;
  private readonly shiftAt: Int32Array;
  private size = 0;
  private matrix = new Float64Array(0);
  private factor = new Float64Array(0);
  private right = new Float64Array(0);

  constructor(
    private readonly joints: readonly Joint[],
    pointCount: number,
  ) {
    const counts = new Int32Array(pointCount + 1);
    for (const { points } of joints) for (const p of points) counts[p + 1]++;
    for (let p = 0; p < pointCount; p++) counts[p + 1] += counts[p];
    this.offsets = counts;
    this.joint = new Int32Array(counts[pointCount]);
    this.index = new Int32Array(counts[pointCount]);
    const next = counts.slice();
    joints.forEach(({ points }, j) => {
      points.forEach((p, k) => {
        this.joint[next[p]] = j;
        this.index[next[p]++] = k;
      });
    });
    this.turnAt = new Int32Array(joints.length);
    this.shiftAt = new Int32Array(joints.length);
  }

  /**
   * Sets the equations up.
   * @param arms for every joint, 3 per point of it; null for a joint that is to stay
   * @param off from where every point is to where it is wanted, 3 each
   */
  fill(arms: readonly (Float64Array | null)[], off: Float64Array): void {
    const { joints, turnAt, shiftAt } = this;
    let size = 0;
    for (let j = joints.length - 1; j >= 0; j--) {
      turnAt[j] = arms[j] ? size : -1;
      if (arms[j]) size += 3;
      shiftAt[j] = arms[j] && joints[j].isRoot ? size : -1;
      if (shiftAt[j] >= 0) size += 3;
    }
    this.size = size;
    this.matrix = new Float64Array(size * size);
    this.right = new Float64Array(size);
    for (let p = 0; p + 1 < this.offsets.length; p++) this.addPoint(p, arms, off);
  }

  private addPoint(p: number, arms: readonly (Float64Array | null)[], off: Float64Array): void {
    const { joint, index, turnAt, size: n, matrix, right } = this;
    const rx = off[p * 3];
    const ry = off[p * 3 + 1];
    const rz = off[p * 3 + 2];
    for (let e = this.offsets[p]; e < this.offsets[p + 1]; e++) {
      const i = joint[e];
      const mine = arms[i];
      if (!mine) continue;
      const k = index[e] * 3;
      const x = mine[k];
      const y = mine[k + 1];
      const z = mine[k + 2];
      const at = turnAt[i];
      right[at] += y * rz - z * ry;
      right[at + 1] += z * rx - x * rz;
      right[at + 2] += x * ry - y * rx;
      // Joints come from the root out, so that those further on stand before this one in the equations.
      for (let o = e; o < this.offsets[p + 1]; o++) {
        const theirs = arms[joint[o]];
        if (!theirs) continue;
        const b = index[o] * 3;
        const u = theirs[b];
        const v = theirs[b + 1];
        const w = theirs[b + 2];
        const dot = x * u + y * v + z * w;
        const to = turnAt[joint[o]];
        let row = at * n + to;
        matrix[row] += dot - u * x;
        matrix[row + 1] -= u * y;
        matrix[row + 2] -= u * z;
        row += n;
        matrix[row] -= v * x;
        matrix[row + 1] += dot - v * y;
        matrix[row + 2] -= v * z;
        row += n;
        matrix[row] -= w * x;
        matrix[row + 1] -= w * y;
        matrix[row + 2] += dot - w * z;
      }
    }
    this.addShifts(p, arms, off);
  }

  private addShifts(p: number, arms: readonly (Float64Array | null)[], off: Float64Array): void {
    const { joint, index, turnAt, shiftAt, joints, size: n, matrix, right } = this;
    for (let e = this.offsets[p]; e < this.offsets[p + 1]; e++) {
      const i = joint[e];
      const at = shiftAt[i];
      if (at < 0) continue;
      const mass = joints[i].masses[index[e]];
      for (let a = 0; a < 3; a++) {
        right[at + a] += mass * off[p * 3 + a];
        matrix[(at + a) * n + at + a] += mass * mass;
      }
      for (let o = e; o < this.offsets[p + 1]; o++) {
        const theirs = arms[joint[o]];
        if (!theirs) continue;
        const b = index[o] * 3;
        const x = mass * theirs[b];
        const y = mass * theirs[b + 1];
        const z = mass * theirs[b + 2];
        const to = turnAt[joint[o]];
        const row = at * n + to;
        matrix[row + 1] += z;
        matrix[row + 2] -= y;
        matrix[row + n] -= z;
        matrix[row + n + 2] += x;
        matrix[row + 2 * n] += y;
        matrix[row + 2 * n + 1] -= x;
      }
    }
  }

  /** The step, every joint kept back by a share `damping` of what its points weigh. */
  solve(damping: number): Step {
    const { size: n, matrix, joints, turnAt, shiftAt } = this;
    this.factor = matrix.slice();
    let most = 0;
    for (let i = 0; i < n; i++) most = Math.max(most, matrix[i * n + i]);
    for (let i = 0; i < n; i++) this.factor[i * n + i] += damping * matrix[i * n + i] + 1e-9 * most + 1e-30;
    const x = choleskySolve(this.factor, this.right, n);
    const turns = new Float64Array(joints.length * 3);
    const shifts = new Float64Array(joints.length * 3);
    joints.forEach((_, j) => {
      if (turnAt[j] >= 0) turns.set(x.subarray(turnAt[j], turnAt[j] + 3), j * 3);
      if (shiftAt[j] >= 0) shifts.set(x.subarray(shiftAt[j], shiftAt[j] + 3), j * 3);
    });
    return { turns, shifts };
  }
}

/**
 * Solves A·x = b for a symmetric positive definite A, of which the lower half is read and lost: Cholesky, row by row,
 * each from its first entry on.
 */
function choleskySolve(a: Float64Array, b: Float64Array, n: number): Float64Array {
  const first = new Int32Array(n);
  const x = b.slice();
  for (let i = 0; i < n; i++) {
    const row = i * n;
    let from = 0;
    while (from < i && a[row + from] === 0) from++;
    first[i] = from;
    let diagonal = a[row + i];
    for (let j = from; j < i; j++) {
      const other = j * n;
      let sum = a[row + j];
      for (let k = Math.max(from, first[j]); k < j; k++) sum -= a[row + k] * a[other + k];
      sum /= a[other + j];
      a[row + j] = sum;
      diagonal -= sum * sum;
      x[i] -= sum * x[j];
    }
    const root = Math.sqrt(Math.max(diagonal, 1e-300));
    a[row + i] = root;
    x[i] /= root;
  }
  for (let i = n - 1; i >= 0; i--) {
    x[i] /= a[i * n + i];
    for (let k = first[i]; k < i; k++) x[k] -= a[i * n + k] * x[i];
  }
  return x;
}

/**
 * All joints turned at once by a little, so that the points come nearer to where they are wanted: one step
 * of Gauss and Newton. Turning joint j by a small θ moves a point by θ × a, where a is the weighted arm from
 * the joint to what its branch carries of the point (as in the closed forms of inverse kinematics: Buss
 * 2004, “Introduction to Inverse Kinematics with Jacobian Transpose, Pseudoinverse and Damped Least Squares
 * Methods”); roots move as well.
 *
 * Two things keep it fast. Most of what a joint carries lies wholly in the branch of the joints above, so that their
 * arms to it differ by where they stand alone: what the products need of such points is summed once for all joints
 * above. And the joints stand in the equations branch by branch, so that nothing fills in beside a branch
 * (the order of Featherstone 2005, “Efficient factorization of the joint-space inertia matrix for branched
 * kinematic trees”).
 */
import type { Joint } from './carried';

/** How the joints are to turn, by the places of blocks: a rotation vector a joint, then a shift a root. */
export interface JointStep {
  /** Rotation vector of every joint, world axes, radians, 3 each. */
  readonly turns: Float64Array;
  /** Shift of every joint that is a root, metres, 3 each; of others 0. */
  readonly shifts: Float64Array;
}

/** Weights that sum to one but for this lie wholly in a branch. */
const WHOLE = 1e-6;

/** Another joint and some of the points that both move, by their places in the lists of the one and of the other. */
interface Shared {
  readonly joint: number;
  readonly mine: Int32Array;
  readonly theirs: Int32Array;
}

/** Where things are when the equations are set up. */
export interface Situation {
  /** For every joint, 3 per point of it; null for a joint that is to stay, as then all that hang under it do. */
  readonly arms: readonly (Float64Array | null)[];
  /** World matrices, 16 per node. */
  readonly world: Float64Array;
  /** Where every point is, and where it is wanted; 3 each. */
  readonly now: Float64Array;
  readonly wanted: Float64Array;
}

/** The normal equations of all joints over all points, filled and solved again and again. */
export class JointNormalEquations {
  /** The joints, each right before what hangs under it. */
  private readonly order: Int32Array;
  /** For every joint those above it, with the points that do not wholly lie in their branch. */
  private readonly above: readonly (readonly Shared[])[];
  /**
   * For every joint those in other branches that stand before it in the equations, with all points that both
   * move.
   */
  private readonly beside: readonly (readonly Shared[])[];
  /** Where a joint’s turn, and its shift, stand in the equations; −1 for none. Leaves first. */
  private readonly turnAt: Int32Array;
  private readonly shiftAt: Int32Array;
  private size = 0;
  /** The lower half, row by row, each from the first entry that can be another than 0: at `start[row] + column`. */
  private readonly first: Int32Array;
  private readonly start: Int32Array;
  private readonly matrix: Float64Array;
  private readonly factor: Float64Array;
  private used = 0;
  private readonly right: Float64Array;

  constructor(private readonly joints: readonly Joint[]) {
    this.order = branchByBranch(joints);
    this.above = aboveOf(joints);
    this.beside = besideOf(joints, this.order);
    this.turnAt = new Int32Array(joints.length);
    this.shiftAt = new Int32Array(joints.length);
    const rows = joints.length * 6;
    this.first = new Int32Array(rows);
    this.start = new Int32Array(rows);
    this.right = new Float64Array(rows);
    this.matrix = new Float64Array(this.place(() => true));
    this.factor = new Float64Array(this.matrix.length);
  }

  /** Gives the joints that turn their places in the equations; returns how many entries these have. */
  private place(turns: (joint: number) => boolean): number {
    const { order, joints, turnAt, shiftAt, first, start } = this;
    const least = new Int32Array(joints.length).fill(-1);
    let size = 0;
    let used = 0;
    for (let k = order.length - 1; k >= 0; k--) {
      const j = order[k];
      turnAt[j] = -1;
      shiftAt[j] = -1;
      if (!turns(j)) continue;
      let from = least[j] < 0 ? size : least[j];
      for (const { joint } of this.beside[j]) if (turnAt[joint] >= 0) from = Math.min(from, turnAt[joint]);
      turnAt[j] = size;
      if (isRoot(joints[j])) shiftAt[j] = size + 3;
      const end = size + (isRoot(joints[j]) ? 6 : 3);
      for (; size < end; size++) {
        first[size] = from;
        start[size] = used - from;
        used += end - from;
      }
      const parent = joints[j].parent;
      if (parent >= 0 && (least[parent] < 0 || from < least[parent])) least[parent] = from;
    }
    this.size = size;
    this.used = used;
    return used;
  }

  /** Sets the equations up. */
  fill(at: Situation): void {
    const { arms } = at;
    this.place((j) => arms[j] !== null);
    this.matrix.fill(0, 0, this.used);
    this.right.fill(0, 0, this.size);
    const sums = new Float64Array(SUMS);
    this.joints.forEach((_, j) => {
      if (!arms[j]) return;
      this.sumUp(j, at, sums);
      this.addTurn(j, sums);
      for (const above of this.above[j]) this.addAbove(j, above, at, sums);
      for (const beside of this.beside[j]) if (arms[beside.joint]) this.addBeside(j, beside, arms);
      if (this.shiftAt[j] >= 0) this.addShift(j, at);
    });
  }

  /** Sums over the points of a joint, in the order of the offsets below. */
  private sumUp(j: number, { arms, now, wanted }: Situation, sums: Float64Array): void {
    const { points } = this.joints[j];
    const mine = arms[j] as Float64Array;
    sums.fill(0);
    for (let k = 0; k < points.length; k++) {
      const p = points[k] * 3;
      const share = mine[k * 3];
      const vertex = mine[k * 3 + 1];
      const w = mine[k * 3 + 2];
      const x = now[p];
      const y = now[p + 1];
      const z = now[p + 2];
      const rx = wanted[p] - x;
      const ry = wanted[p + 1] - y;
      const rz = wanted[p + 2] - z;
      sums[TORQUE] += vertex * rz - w * ry;
      sums[TORQUE + 1] += w * rx - share * rz;
      sums[TORQUE + 2] += share * ry - vertex * rx;
      sums[OWN] += share * share;
      sums[OWN + 1] += vertex * vertex;
      sums[OWN + 2] += w * w;
      sums[OWN + 3] += share * vertex;
      sums[OWN + 4] += vertex * w;
      sums[OWN + 5] += w * share;
      sums[PLACE] += x * share;
      sums[PLACE + 1] += x * vertex;
      sums[PLACE + 2] += x * w;
      sums[PLACE + 3] += y * share;
      sums[PLACE + 4] += y * vertex;
      sums[PLACE + 5] += y * w;
      sums[PLACE + 6] += z * share;
      sums[PLACE + 7] += z * vertex;
      sums[PLACE + 8] += z * w;
      sums[ARM] += share;
      sums[ARM + 1] += vertex;
      sums[ARM + 2] += w;
    }
  }

  /** What a joint's turn has to do with itself. */
  private addTurn(j: number, sums: Float64Array): void {
    const { start, matrix, right } = this;
    const at = this.turnAt[j];
    for (let a = 0; a < 3; a++) right[at + a] += sums[TORQUE + a];
    const [xx, yy, zz] = [sums[OWN], sums[OWN + 1], sums[OWN + 2]];
    const [xy, yz, zx] = [sums[OWN + 3], sums[OWN + 4], sums[OWN + 5]];
    const rows = [yy + zz, -xy, -zx, -xy, zz + xx, -yz, -zx, -yz, xx + yy];
    for (let row = 0; row < 3; row++)
      for (let corner = 0; corner < 3; corner++)
        matrix[start[at + row] + at + corner] += rows[row * 3 + corner];
  }

  /** What a joint's turn has to do with the turn, and the shift, of one above it. */
  private addAbove(
    j: number,
    { joint: i, mine: lower, theirs: upper }: Shared,
    { arms, world, now }: Situation,
    sums: Float64Array,
  ): void {
    const { turnAt, shiftAt, joints } = this;
    const mine = arms[j] as Float64Array;
    const theirs = arms[i] as Float64Array;
    const { points } = joints[j];
    const { node, masses } = joints[i];
    const origin = [world[node * 16 + 12], world[node * 16 + 13], world[node * 16 + 14]];
    // Products of the arms, theirs in rows: as if all lay wholly in their branch, then what lies outside taken away.
    const product = PRODUCT;
    const arm = SHIFTED;
    for (let corner = 0; corner < 3; corner++) {
      arm[corner] = sums[ARM + corner];
      for (let row = 0; row < 3; row++)
        product[corner * 3 + row] = sums[PLACE + corner * 3 + row] - origin[corner] * sums[ARM + row];
    }
    for (let entry = 0; entry < lower.length; entry++) {
      const k = lower[entry] * 3;
      const p = points[lower[entry]] * 3;
      const q = upper[entry] * 3;
      const outside = 1 - masses[upper[entry]];
      const share = mine[k];
      const vertex = mine[k + 1];
      const w = mine[k + 2];
      for (let corner = 0; corner < 3; corner++) {
        const rest = now[p + corner] - origin[corner] - theirs[q + corner];
        product[corner * 3] -= rest * share;
        product[corner * 3 + 1] -= rest * vertex;
        product[corner * 3 + 2] -= rest * w;
      }
      arm[0] -= outside * share;
      arm[1] -= outside * vertex;
      arm[2] -= outside * w;
    }
    this.addProduct(turnAt[i], turnAt[j], product);
    if (shiftAt[i] >= 0) this.addCross(shiftAt[i], turnAt[j], arm);
  }

  /** What a joint's turn has to do with that of one in another branch. */
  private addBeside(
    i: number,
    { joint: j, mine, theirs }: Shared,
    arms: readonly (Float64Array | null)[],
  ): void {
    const product = PRODUCT.fill(0);
    const [upper, lower] = [arms[i] as Float64Array, arms[j] as Float64Array];
    for (let entry = 0; entry < mine.length; entry++) {
      const k = mine[entry] * 3;
      const q = theirs[entry] * 3;
      const share = lower[q];
      const v = lower[q + 1];
      const w = lower[q + 2];
      for (let corner = 0; corner < 3; corner++) {
        product[corner * 3] += upper[k + corner] * share;
        product[corner * 3 + 1] += upper[k + corner] * v;
        product[corner * 3 + 2] += upper[k + corner] * w;
      }
    }
    this.addProduct(this.turnAt[i], this.turnAt[j], product);
    const ofRoots = this.shiftAt[i] >= 0 || this.shiftAt[j] >= 0;
    if (ofRoots) this.addShiftsBeside(i, { joint: j, mine, theirs }, upper, lower);
  }

  /** What the shifts of roots have to do with joints of other trees that move the same points. */
  private addShiftsBeside(
    i: number,
    { joint: j, mine, theirs }: Shared,
    upper: Float64Array,
    lower: Float64Array,
  ): void {
    const { joints, turnAt, shiftAt, start, matrix } = this;
    const [ofUpper, ofLower] = [new Float64Array(3), new Float64Array(3)];
    let masses = 0;
    for (let entry = 0; entry < mine.length; entry++) {
      const mass = joints[i].masses[mine[entry]];
      const n = joints[j].masses[theirs[entry]];
      masses += mass * n;
      for (let corner = 0; corner < 3; corner++) {
        ofLower[corner] += mass * lower[theirs[entry] * 3 + corner];
        ofUpper[corner] += n * upper[mine[entry] * 3 + corner];
      }
    }
    if (shiftAt[i] >= 0) this.addCross(shiftAt[i], turnAt[j], ofLower);
    if (shiftAt[j] >= 0)
      this.addCross(
        turnAt[i],
        shiftAt[j],
        ofUpper.map((x) => -x),
      );
    if (shiftAt[i] >= 0 && shiftAt[j] >= 0)
      for (let corner = 0; corner < 3; corner++)
        matrix[start[shiftAt[i] + corner] + shiftAt[j] + corner] += masses;
  }

  /** What one turn has to do with another, from the products of their arms: (a·b)·I − b·aᵀ. */
  private addProduct(at: number, to: number, product: Float64Array): void {
    const { start, matrix } = this;
    const dot = product[0] + product[4] + product[8];
    for (let blockRow = 0; blockRow < 3; blockRow++) {
      const row = start[at + blockRow] + to;
      for (let corner = 0; corner < 3; corner++)
        matrix[row + corner] += (blockRow === corner ? dot : 0) - product[corner * 3 + blockRow];
    }
  }

  /** What a turn does to a shift, from the sum of its arms. */
  private addCross(at: number, to: number, [x, y, z]: Float64Array): void {
    const { start, matrix } = this;
    matrix[start[at] + to + 1] += z;
    matrix[start[at] + to + 2] -= y;
    matrix[start[at + 1] + to] -= z;
    matrix[start[at + 1] + to + 2] += x;
    matrix[start[at + 2] + to] += y;
    matrix[start[at + 2] + to + 1] -= x;
  }

  /** What the shift of a root has to do with itself and with its own turn. */
  private addShift(j: number, { arms, now, wanted }: Situation): void {
    const { start, matrix, right, turnAt, shiftAt } = this;
    const { points, masses } = this.joints[j];
    const mine = arms[j] as Float64Array;
    const at = shiftAt[j];
    const arm = SHIFTED.fill(0);
    let mass = 0;
    for (let k = 0; k < points.length; k++) {
      const p = points[k] * 3;
      mass += masses[k] * masses[k];
      for (let a = 0; a < 3; a++) {
        right[at + a] += masses[k] * (wanted[p + a] - now[p + a]);
        arm[a] += masses[k] * mine[k * 3 + a];
      }
    }
    for (let a = 0; a < 3; a++) matrix[start[at + a] + at + a] += mass;
    this.addCross(at, turnAt[j], arm);
  }

  /** The step, every joint kept back by a share `damping` of what its points weigh. */
  solve(damping: number): JointStep {
    const { size: n, matrix, factor, start, first, joints, turnAt, shiftAt, used } = this;
    factor.set(matrix.subarray(0, used));
    let most = 0;
    for (let i = 0; i < n; i++) most = Math.max(most, matrix[start[i] + i]);
    for (let i = 0; i < n; i++) factor[start[i] + i] += damping * matrix[start[i] + i] + 1e-9 * most + 1e-30;
    const right = this.right.slice(0, n);
    choleskySolve(factor, first, start, right, n);
    const turns = new Float64Array(joints.length * 3);
    const shifts = new Float64Array(joints.length * 3);
    joints.forEach((_, j) => {
      if (turnAt[j] >= 0) turns.set(right.subarray(turnAt[j], turnAt[j] + 3), j * 3);
      if (shiftAt[j] >= 0) shifts.set(right.subarray(shiftAt[j], shiftAt[j] + 3), j * 3);
    });
    return { turns, shifts };
  }
}

// Where the sums over the points of a joint stand: arm × way to go; squares and products of the arm (xx, yy,
// zz, xy, yz,
// zx); the point's place times the arm, row by row; the arm.
const TORQUE = 0;
const OWN = 3;
const PLACE = 9;
const ARM = 18;
const SUMS = 21;

const PRODUCT = new Float64Array(9);
const SHIFTED = new Float64Array(3);

const isRoot = ({ parent }: Joint) => parent < 0;

/** The joints in an order in which each stands right before all that hang under it. */
function branchByBranch(joints: readonly Joint[]): Int32Array {
  const children = joints.map((): number[] => []);
  const open: number[] = [];
  joints.forEach(({ parent }, j) => (parent < 0 ? open : children[parent]).push(j));
  const order: number[] = [];
  for (let j = open.pop(); j !== undefined; j = open.pop()) {
    order.push(j);
    open.push(...children[j]);
  }
  return Int32Array.from(order);
}

/** For every joint those above it, with the points that lie only partly in their branch. */
function aboveOf(joints: readonly Joint[]): Shared[][] {
  const partly = joints.map(({ points, masses }) => {
    const at = new Map<number, number>();
    points.forEach((point, k) => Math.abs(masses[k] - 1) > WHOLE && at.set(point, k));
    return at;
  });
  return joints.map(({ points, parent }) => {
    const out: Shared[] = [];
    for (let i = parent; i >= 0; i = joints[i].parent) {
      const mine: number[] = [];
      const theirs: number[] = [];
      points.forEach((point, k) => {
        const q = partly[i].get(point);
        if (q === undefined) return;
        mine.push(k);
        theirs.push(q);
      });
      out.push({ joint: i, mine: Int32Array.from(mine), theirs: Int32Array.from(theirs) });
    }
    return out;
  });
}

/** For every joint those in other branches that come later in the order, with the points that both move. */
function besideOf(joints: readonly Joint[], order: Int32Array): Shared[][] {
  const place = new Int32Array(joints.length);
  order.forEach((j, k) => (place[j] = k));
  const isAbove = joints.map(({ parent }) => {
    const above = new Set<number>();
    for (let i = parent; i >= 0; i = joints[i].parent) above.add(i);
    return above;
  });
  const movers = new Map<number, { joint: number; k: number }[]>();
  joints.forEach(({ points }, joint) => {
    points.forEach((point, k) => {
      const list = movers.get(point) ?? [];
      movers.set(point, list);
      list.push({ joint, k });
    });
  });
  const out = joints.map(() => new Map<number, { joint: number; mine: number[]; theirs: number[] }>());
  for (const list of movers.values())
    for (const a of list)
      for (const b of list) {
        if (place[b.joint] <= place[a.joint] || isAbove[b.joint].has(a.joint)) continue;
        const shared = out[a.joint].get(b.joint) ?? { joint: b.joint, mine: [], theirs: [] };
        out[a.joint].set(b.joint, shared);
        shared.mine.push(a.k);
        shared.theirs.push(b.k);
      }
  return out.map((beside) =>
    Array.from(beside.values(), ({ joint, mine, theirs }) => ({
      joint,
      mine: Int32Array.from(mine),
      theirs: Int32Array.from(theirs),
    })),
  );
}

/**
 * Solves A·x = b, b in x, for a symmetric positive definite A whose lower half is given row by row, each
 * from its first entry on; it is lost (Cholesky).
 */
function choleskySolve(
  a: Float64Array,
  first: Int32Array,
  start: Int32Array,
  x: Float64Array,
  n: number,
): void {
  for (let i = 0; i < n; i++) {
    const row = start[i];
    const from = first[i];
    let diagonal = a[row + i];
    for (let j = from; j < i; j++) {
      const other = start[j];
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
    const row = start[i];
    x[i] /= a[row + i];
    for (let k = first[i]; k < i; k++) x[k] -= a[row + k] * x[i];
  }
}

/** The weights of one mesh, solved so that over given motions of its bones every vertex comes nearest to its goals. */
import type { Influences } from '../geometry/influences';
import { SimplexSolver } from '../geometry/simplex';
import { type Character, type Mesh, type SceneNode, type Skin, positionsOf } from '../character/model';
import { type Goals, skinMatricesByJoint } from './goals';

/** How weights are solved. */
export interface SolveOptions {
  /** Most bones a vertex may keep. */
  readonly limit: number;
  /** A whole weight moved from the rules costs as much as this distance from the goal in every pose, metres. */
  readonly nearness: number;
  /** How far in the tree a bone may lie from those that the rules give. */
  readonly steps: number;
  /** Nodes that may carry weight; all of the skin where nothing is said. */
  readonly among?: ReadonlySet<number>;
}

/** Weights below what a byte can say are let go. */
const DUST = 1 / 255;

/** Most bones that a vertex is solved over. */
const MOST_BONES = 32;

/** One mesh on its bones, what its weights are, and where its points are to be. */
export class MeshWeights {
  private readonly points: Float32Array;
  /** Bones that a vertex with weight on one may go to, itself first. */
  private readonly around: readonly (readonly number[])[];
  /** Skin matrices, 12 a pose, joint after joint. */
  private matrices: Float64Array = new Float64Array(0);
  private readonly solved = new Map<number, { joints: Int32Array; weights: Float32Array }>();
  private readonly solver = new SimplexSolver(MOST_BONES);
  private readonly q = new Float64Array(MOST_BONES * MOST_BONES);
  private readonly c = new Float64Array(MOST_BONES);
  private readonly w = new Float64Array(MOST_BONES);
  private readonly arms: Float64Array;
  /** Places of the vertex at hand, 3 a pose. */
  private readonly goal: Float64Array;

  readonly mesh: Mesh;
  private readonly current: Influences;

  /**
   * @param node of the target that shows the mesh
   * @param rules weights by the rules, before any limit
   * @param goals where the points are to be
   */
  constructor(
    target: Character,
    readonly node: number,
    readonly skin: Skin,
    private readonly rules: Influences,
    readonly goals: Goals,
    private readonly options: SolveOptions,
  ) {
    this.mesh = target.meshes[target.nodes[node].mesh];
    this.current = this.mesh.influences ?? rules;
    this.points = positionsOf(this.mesh);
    const { steps, among } = options;
    this.around = bonesAround(target.nodes, skin.joints, steps).map((list) =>
      list.filter((j) => !among || among.has(skin.joints[j])),
    );
    this.arms = new Float64Array(MOST_BONES * goals.count * 3);
    this.goal = new Float64Array(goals.count * 3);
  }

  /** Takes the motion of the bones: world matrices, 16 per node, pose after pose. */
  setMotion(worlds: readonly Float64Array[]): void {
    this.matrices = skinMatricesByJoint(this.skin, worlds);
  }

  /** Solves the weights of some vertices for the motion at hand. */
  solve(vertices: ArrayLike<number>): void {
    for (let k = 0; k < vertices.length; k++) this.solveOne(vertices[k]);
  }

  private solveOne(v: number): void {
    const { q, c, w, options } = this;
    const joints = this.candidates(v);
    const n = joints.length;
    if (n === 0) return;
    this.measure(v, joints);
    const near = options.nearness * options.nearness * this.goals.count;
    const ridge = near + 1e-12 * (1 + q[0]);
    c.fill(0, 0, n);
    const { offsets, joint, weight } = this.rules;
    for (let k = offsets[v]; k < offsets[v + 1]; k++) {
      const i = joints.indexOf(joint[k]);
      if (i >= 0) c[i] += near * weight[k];
    }
    for (let i = 0; i < n; i++) q[i * n + i] += ridge;
    this.solver.solveSparse(q, c, n, options.limit, w);
    const on = joints.map((_, i) => i).filter((i) => w[i] >= DUST);
    const sum = on.reduce((s, i) => s + w[i], 0);
    this.solved.set(v, {
      joints: Int32Array.from(on, (i) => joints[i]),
      weights: Float32Array.from(on, (i) => w[i] / sum),
    });
  }

  /** Bones that may carry a vertex: those that the rules give, then those around them. */
  private candidates(v: number): number[] {
    const { offsets, joint, weight } = this.rules;
    const out: number[] = [];
    for (let k = offsets[v]; k < offsets[v + 1]; k++)
      if (weight[k] > 0 && !out.includes(joint[k])) out.push(joint[k]);
    const own = out.length;
    for (let i = 0; i < own; i++)
      for (const j of this.around[out[i]]) if (out.length < MOST_BONES && !out.includes(j)) out.push(j);
    return out.slice(0, MOST_BONES);
  }

  /** Products of how far each bone alone would bring the vertex from its goals, summed over the poses, into q. */
  private measure(v: number, joints: readonly number[]): void {
    const { arms, matrices, goals, goal, q } = this;
    goals.at(v, goal);
    const n = joints.length;
    const rows = goals.count * 3;
    const x = this.points[v * 3];
    const y = this.points[v * 3 + 1];
    const z = this.points[v * 3 + 2];
    for (let i = 0; i < n; i++) {
      const o = i * rows;
      let r = joints[i] * goals.count * 12;
      for (let k = 0; k < rows; k++) {
        const carried = matrices[r] * x + matrices[r + 1] * y + matrices[r + 2] * z + matrices[r + 3];
        arms[o + k] = carried - goal[k];
        r += 4;
      }
    }
    gramOfRows(arms, n, rows, q);
  }

  /** The weights as they are now: those that were solved for, and those that nothing touched. */
  influences(): Influences {
    const { current, solved } = this;
    const count = this.mesh.vertexCount;
    const offsets = new Uint32Array(count + 1);
    for (let v = 0; v < count; v++)
      offsets[v + 1] =
        offsets[v] + (solved.get(v)?.joints.length ?? current.offsets[v + 1] - current.offsets[v]);
    const joint = new Uint16Array(offsets[count]);
    const weight = new Float32Array(offsets[count]);
    for (let v = 0; v < count; v++) {
      const row = solved.get(v);
      const from = current.offsets[v];
      const to = current.offsets[v + 1];
      joint.set(row?.joints ?? current.joint.subarray(from, to), offsets[v]);
      weight.set(row?.weights ?? current.weight.subarray(from, to), offsets[v]);
    }
    return { offsets, joint, weight };
  }

  /** Squared distances of a vertex from its goals over all poses, metres²; by its weights now or as they were first. */
  squaresAt(v: number, by: 'now' | 'first' = 'now'): { readonly most: number; readonly sum: number } {
    const { matrices, goals, goal, points, current } = this;
    goals.at(v, goal);
    const [from, to] = [current.offsets[v], current.offsets[v + 1]];
    const row = by === 'now' ? this.solved.get(v) : undefined;
    const joints = row?.joints ?? current.joint.subarray(from, to);
    const weights = row?.weights ?? current.weight.subarray(from, to);
    const place = points.subarray(v * 3, v * 3 + 3);
    let most = 0;
    let sum = 0;
    for (let p = 0; p < goals.count; p++) {
      let squared = 0;
      for (let a = 0; a < 3; a++) {
        // What no bone carries stays where it is.
        let at = (joints.length === 0 ? place[a] : 0) - goal[p * 3 + a];
        for (let k = 0; k < joints.length; k++) {
          const r = (joints[k] * goals.count + p) * 12 + a * 4;
          const carried = matrices[r] * place[0] + matrices[r + 1] * place[1] + matrices[r + 2] * place[2];
          at += weights[k] * (carried + matrices[r + 3]);
        }
        squared += at * at;
      }
      sum += squared;
      most = Math.max(most, squared);
    }
    return { most, sum };
  }

  get solvedVertices(): Iterable<number> {
    return this.solved.keys();
  }

  /** How the weights of a vertex that was solved differ from what they were, by joint. */
  changeAt(v: number): ReadonlyMap<number, number> {
    const out = new Map<number, number>();
    const row = this.solved.get(v);
    const { offsets, joint, weight } = this.current;
    if (!row) return out;
    for (let k = offsets[v]; k < offsets[v + 1]; k++) out.set(joint[k], (out.get(joint[k]) ?? 0) - weight[k]);
    row.joints.forEach((j, k) => out.set(j, (out.get(j) ?? 0) + row.weights[k]));
    return out;
  }
}

/**
 * The products of all pairs of `n` rows, n × n, into q. Two rows by two at a time: what is read is used twice, and no sum
 * waits for itself.
 */
function gramOfRows(x: Float64Array, n: number, length: number, q: Float64Array): void {
  for (let i = 0; i < n; i += 2) {
    const a = i * length;
    // Where the rows come out odd the last is taken twice.
    const b = Math.min(i + 1, n - 1) * length;
    for (let j = 0; j <= i; j += 2) {
      const c = j * length;
      const d = Math.min(j + 1, n - 1) * length;
      let ac = 0;
      let ad = 0;
      let bc = 0;
      let bd = 0;
      for (let k = 0; k < length; k++) {
        const xa = x[a + k];
        const xb = x[b + k];
        const xc = x[c + k];
        const xd = x[d + k];
        ac += xa * xc;
        ad += xa * xd;
        bc += xb * xc;
        bd += xb * xd;
      }
      q[i * n + j] = ac;
      q[j * n + i] = ac;
      if (j + 1 < n) {
        q[i * n + j + 1] = ad;
        q[(j + 1) * n + i] = ad;
      }
      if (i + 1 < n) {
        q[(i + 1) * n + j] = bc;
        q[j * n + i + 1] = bc;
      }
      if (i + 1 < n && j + 1 < n) {
        q[(i + 1) * n + j + 1] = bd;
        q[(j + 1) * n + i + 1] = bd;
      }
    }
  }
}

/** For every joint those that lie at most so many steps from it in the tree, nearest first, itself left out. */
function bonesAround(nodes: readonly SceneNode[], joints: readonly number[], steps: number): number[][] {
  const slot = new Map(joints.map((n, k) => [n, k]));
  const beside = joints.map((): number[] => []);
  joints.forEach((n, k) => {
    let p = nodes[n].parent;
    while (p >= 0 && !slot.has(p)) p = nodes[p].parent;
    const above = slot.get(p);
    if (above === undefined) return;
    beside[k].push(above);
    beside[above].push(k);
  });
  return joints.map((_, k) => {
    const out = [k];
    let ring = [k];
    for (let s = 0; s < steps; s++) {
      ring = [...new Set(ring.flatMap((j) => beside[j]))].filter((j) => !out.includes(j));
      out.push(...ring);
    }
    return out.slice(1);
  });
}

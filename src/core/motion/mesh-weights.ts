/**
 * The weights of one mesh, and where its points stand at rest, solved so that over given motions of its bones every
 * vertex comes nearest to its goals: in turns, since either is a small problem of its own where the other is given.
 * For given weights the rest place is a linear least-squares problem of three unknowns (Kavan, Sloan and O'Sullivan
 * 2010, *Fast and Efficient Skinning of Animated Meshes*).
 */
import type { Influences } from '../geometry/influences';
import { SimplexSolver } from '../geometry/simplex';
import { type Character, type Mesh, type SceneNode, type Skin, positionsOf } from '../character/model';
import { type Goals, skinMatricesByJoint } from './goals';
import { Moments } from './moments';

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
  /** Whether weights stay as they are, so that the rest shape alone is solved; they are solved where nothing is said. */
  readonly areWeightsKept?: boolean;
  /** How points may move at rest; they stay where they are where nothing is said. */
  readonly rest?: RestFreedom;
}

/** How the points of a mesh may move at rest. */
export interface RestFreedom {
  /** A point that moves at rest costs this share of its way in every pose. */
  readonly keep: number;
  /** How often rest places and weights take turns at a vertex. */
  readonly turns: number;
}

/** Weights below what a byte can say are let go. */
const DUST = 1 / 255;

/** What differences of large squares may be wrong by, as a share of them. */
const ROUNDING = 1e-12;

/** Most bones that a vertex is solved over. */
const MOST_BONES = 32;

/** One mesh on its bones, what its weights are, and where its points are to be. */
export class MeshWeights {
  /** Places at rest, 3 per vertex: as they were, until they are solved. */
  private readonly points: Float32Array;
  /** The same as they were. */
  private readonly posed: Float32Array;
  private readonly normal = new Float64Array(9);
  private readonly toRest = new Float64Array(3);
  /** Bones that a vertex with weight on one may go to, itself first. */
  private readonly around: readonly (readonly number[])[];
  /** Skin matrices, 12 a pose, joint after joint. */
  private matrices: Float64Array = new Float64Array(0);
  private readonly solved = new Map<number, { joints: Int32Array; weights: Float32Array }>();
  private readonly solver = new SimplexSolver(MOST_BONES);
  private readonly q = new Float64Array(MOST_BONES * MOST_BONES);
  private readonly c = new Float64Array(MOST_BONES);
  private readonly w = new Float64Array(MOST_BONES);
  /** How the bones agree, and the carriers of the goals behind them. */
  private moments = new Moments(this.matrices, 0, 0);
  /** What carries the vertex at hand on the source, and how much of it. */
  private readonly carriers: number[] = [];
  private readonly shares: number[] = [];
  private readonly toGoal = new Float64Array(MOST_BONES);
  /** Places of the vertex at hand, 3 a pose. */
  private readonly goal: Float64Array;

  readonly mesh: Mesh;
  /** Which of the target's meshes it is. */
  readonly meshIndex: number;
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
    this.meshIndex = target.nodes[node].mesh;
    this.mesh = target.meshes[this.meshIndex];
    this.current = this.mesh.influences ?? rules;
    this.posed = positionsOf(this.mesh);
    this.points = options.rest ? this.posed.slice() : this.posed;
    const { steps, among } = options;
    this.around = bonesAround(target.nodes, skin.joints, steps).map((list) =>
      list.filter((j) => !among || among.has(skin.joints[j])),
    );
    this.goal = new Float64Array(goals.count * 3);
  }

  /** Takes the motion of the bones: world matrices, 16 per node, pose after pose. */
  setMotion(worlds: readonly Float64Array[]): void {
    const { goals, skin } = this;
    this.matrices = skinMatricesByJoint(skin, worlds);
    const all = new Float64Array(this.matrices.length + goals.matrices.length);
    all.set(this.matrices);
    all.set(goals.matrices, this.matrices.length);
    this.moments = new Moments(all, goals.count, skin.joints.length);
  }

  /** Solves the weights of some vertices for the motion at hand. */
  solve(vertices: ArrayLike<number>): void {
    for (let k = 0; k < vertices.length; k++) this.solveOne(vertices[k]);
  }

  private solveOne(vertex: number): void {
    const { rest, areWeightsKept } = this.options;
    for (let turn = 0; turn < (rest?.turns ?? 0); turn++) {
      this.solveRest(vertex);
      if (!areWeightsKept) this.solveWeights(vertex);
    }
    if (rest) this.solveRest(vertex);
    else if (!areWeightsKept) this.solveWeights(vertex);
  }

  /** Where a vertex stands at rest so that its weights bring it nearest to its goals. */
  private solveRest(vertex: number): void {
    const { moments, goals, carriers, shares, normal, toRest, points, posed, options } = this;
    const { joints, weights, from, to } = this.rowOf(vertex);
    if (from === to) return;
    const keep = (options.rest?.keep ?? 0) ** 2 * goals.count;
    normal.fill(0);
    toRest.fill(0);
    for (let i = from; i < to; i++)
      for (let j = from; j < to; j++)
        moments.addToRest(joints[i], joints[j], weights[i] * weights[j], normal, toRest);
    const count = goals.carriersOf(vertex, carriers, shares);
    const first = this.skin.joints.length;
    for (let i = from; i < to; i++)
      for (let share = 0; share < count; share++)
        moments.addGoalToRest(
          joints[i],
          first + carriers[share],
          weights[i] * shares[share],
          goals.points,
          vertex * 3,
          toRest,
        );
    for (let a = 0; a < 3; a++) {
      normal[a * 4] += keep;
      toRest[a] += keep * posed[vertex * 3 + a];
    }
    if (solveThree(normal, toRest)) points.set(toRest, vertex * 3);
  }

  /** The bones of a vertex and their weights as they are now, from one place to another in their lists. */
  private rowOf(vertex: number): {
    readonly joints: ArrayLike<number>;
    readonly weights: ArrayLike<number>;
    readonly from: number;
    readonly to: number;
  } {
    const row = this.solved.get(vertex);
    if (row) return { ...row, from: 0, to: row.joints.length };
    const { joint, weight, offsets } = this.current;
    return { joints: joint, weights: weight, from: offsets[vertex], to: offsets[vertex + 1] };
  }

  private solveWeights(vertex: number): void {
    const { q: rotation, c, w: world, options } = this;
    const joints = this.candidates(vertex);
    const count = joints.length;
    if (count === 0) return;
    const squares = this.measure(vertex, joints);
    const near = options.nearness * options.nearness * this.goals.count;
    const ridge = near + ROUNDING * (1 + squares);
    c.fill(0, 0, count);
    const { offsets, joint, weight } = this.rules;
    for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++) {
      const i = joints.indexOf(joint[k]);
      if (i >= 0) c[i] += near * weight[k];
    }
    for (let i = 0; i < count; i++) rotation[i * count + i] += ridge;
    this.solver.solveSparse(rotation, c, count, options.limit, world);
    const on = joints.map((_, i) => i).filter((i) => world[i] >= DUST);
    const sum = on.reduce((sum, i) => sum + world[i], 0);
    this.solved.set(vertex, {
      joints: Int32Array.from(on, (i) => joints[i]),
      weights: Float32Array.from(on, (i) => world[i] / sum),
    });
  }

  /** Bones that may carry a vertex: those that the rules give, then those around them. */
  private candidates(vertex: number): number[] {
    const { offsets, joint, weight } = this.rules;
    const out: number[] = [];
    for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++)
      if (weight[k] > 0 && !out.includes(joint[k])) out.push(joint[k]);
    const own = out.length;
    for (let i = 0; i < own; i++)
      for (const j of this.around[out[i]]) if (out.length < MOST_BONES && !out.includes(j)) out.push(j);
    return out.slice(0, MOST_BONES);
  }

  /**
   * Products of how far each bone alone would bring the vertex from its goals, summed over the poses, into
   * q. Gives the sum of the squares that they are differences of.
   */
  private measure(vertex: number, joints: readonly number[]): number {
    const { moments, goals, carriers, shares, toGoal, q: rotation, points } = this;
    moments.setPoints(points, vertex * 3, goals.points, vertex * 3);
    const count = goals.carriersOf(vertex, carriers, shares);
    const first = this.skin.joints.length;
    let goal = 0;
    for (let share = 0; share < count; share++)
      for (let triangle = 0; triangle <= share; triangle++) {
        const both = shares[share] * shares[triangle] * (share === triangle ? 1 : 2);
        goal += both * moments.product(first + carriers[share], first + carriers[triangle]);
      }
    const total = joints.length;
    for (let i = 0; i < total; i++) {
      let sum = 0;
      for (let share = 0; share < count; share++)
        sum += shares[share] * moments.product(joints[i], first + carriers[share]);
      toGoal[i] = sum;
    }
    for (let i = 0; i < total; i++)
      for (let j = 0; j <= i; j++) {
        const product = moments.product(joints[i], joints[j]) - toGoal[i] - toGoal[j] + goal;
        rotation[i * total + j] = product;
        rotation[j * total + i] = product;
      }
    return goal;
  }

  /** The weights as they are now: those that were solved for, and those that nothing touched. */
  influences(): Influences {
    const { current, solved } = this;
    const count = this.mesh.vertexCount;
    const offsets = new Uint32Array(count + 1);
    for (let vertex = 0; vertex < count; vertex++)
      offsets[vertex + 1] =
        offsets[vertex] +
        (solved.get(vertex)?.joints.length ?? current.offsets[vertex + 1] - current.offsets[vertex]);
    const joint = new Uint16Array(offsets[count]);
    const weight = new Float32Array(offsets[count]);
    for (let vertex = 0; vertex < count; vertex++) {
      const row = solved.get(vertex);
      const from = current.offsets[vertex];
      const to = current.offsets[vertex + 1];
      joint.set(row?.joints ?? current.joint.subarray(from, to), offsets[vertex]);
      weight.set(row?.weights ?? current.weight.subarray(from, to), offsets[vertex]);
    }
    return { offsets, joint, weight };
  }

  /**
   * Squared distances of a vertex from its goals over all poses, metres²; by its weights now or as they were
   * first.
   */
  squaresAt(vertex: number, by: 'now' | 'first' = 'now'): { readonly most: number; readonly sum: number } {
    const { matrices, goals, goal, points, posed, current } = this;
    goals.at(vertex, goal);
    const [from, to] = [current.offsets[vertex], current.offsets[vertex + 1]];
    const row = by === 'now' ? this.solved.get(vertex) : undefined;
    const joints = row?.joints ?? current.joint.subarray(from, to);
    const weights = row?.weights ?? current.weight.subarray(from, to);
    const place = (by === 'now' ? points : posed).subarray(vertex * 3, vertex * 3 + 3);
    let most = 0;
    let sum = 0;
    for (let point = 0; point < goals.count; point++) {
      let squared = 0;
      for (let a = 0; a < 3; a++) {
        // What no bone carries stays where it is.
        let at = (joints.length === 0 ? place[a] : 0) - goal[point * 3 + a];
        for (let k = 0; k < joints.length; k++) {
          const r = (joints[k] * goals.count + point) * 12 + a * 4;
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

  /** Places at rest as they are now, 3 per vertex; the mesh's own where points may not move. */
  get restPlaces(): Float32Array {
    return this.points;
  }

  /** Sets a vertex to a place at rest (3 numbers of `places` from v · 3 on); its weights are solved anew for that. */
  setRest(vertex: number, places: Float32Array): void {
    for (let a = 0; a < 3; a++) this.points[vertex * 3 + a] = places[vertex * 3 + a];
    if (!this.options.areWeightsKept && this.solved.has(vertex)) this.solveWeights(vertex);
  }

  /** A vertex with the weights that it had first, and the rest place that is right for those. */
  solveRestAlone(vertex: number): void {
    this.solved.delete(vertex);
    this.solveRest(vertex);
  }

  /** The joint that a vertex has most weight on; −1 where it has none. */
  heaviestAt(vertex: number): number {
    const { joints, weights, from, to } = this.rowOf(vertex);
    let most = -1;
    for (let k = from; k < to; k++) if (most < 0 || weights[k] > weights[most]) most = k;
    return most < 0 ? -1 : joints[most];
  }

  get solvedVertices(): Iterable<number> {
    return this.solved.keys();
  }

  /** How the weights of a vertex that was solved differ from what they were, by joint. */
  changeAt(vertex: number): ReadonlyMap<number, number> {
    const out = new Map<number, number>();
    const row = this.solved.get(vertex);
    const { offsets, joint, weight } = this.current;
    if (!row) return out;
    for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++)
      out.set(joint[k], (out.get(joint[k]) ?? 0) - weight[k]);
    row.joints.forEach((j, k) => out.set(j, (out.get(j) ?? 0) + row.weights[k]));
    return out;
  }
}

/** For every joint those that lie at most so many steps from it in the tree, nearest first, itself left out. */
function bonesAround(nodes: readonly SceneNode[], joints: readonly number[], steps: number): number[][] {
  const slot = new Map(joints.map((joint, k) => [joint, k]));
  const beside = joints.map((): number[] => []);
  joints.forEach((joint, k) => {
    let parent = nodes[joint].parent;
    while (parent >= 0 && !slot.has(parent)) parent = nodes[parent].parent;
    const above = slot.get(parent);
    if (above === undefined) return;
    beside[k].push(above);
    beside[above].push(k);
  });
  return joints.map((_, k) => {
    const out = [k];
    let ring = [k];
    for (let step = 0; step < steps; step++) {
      ring = [...new Set(ring.flatMap((j) => beside[j]))].filter((j) => !out.includes(j));
      out.push(...ring);
    }
    return out.slice(1);
  });
}

/**
 * Solves N·x = b for a symmetric positive definite N (3 × 3), x in b; false, and b as it was, where N is none (Cramer's
 * rule).
 */
function solveThree(n: Float64Array, b: Float64Array): boolean {
  const [a, d, e, , f, g, , , h] = n;
  const [p, q, r] = [f * h - g * g, e * g - d * h, d * g - e * f];
  const determinant = a * p + d * q + e * r;
  const size = (a + f + h) / 3;
  if (!(determinant > 1e-9 * size ** 3)) return false;
  const [s, t, share] = [a * h - e * e, d * e - a * g, a * f - d * d];
  const [x, y, z] = b;
  b[0] = (p * x + q * y + r * z) / determinant;
  b[1] = (q * x + s * y + t * z) / determinant;
  b[2] = (r * x + t * y + share * z) / determinant;
  return true;
}

/**
 * The motion of one rig on another that has other bones, so that the mesh comes as near as it can to where
 * it was: its joints turn about themselves, their lengths kept. The turns that are right joint by joint are
 * the beginning; from there all joints turn together, by the steps of Gauss and Newton with the damping of
 * Levenberg and Marquardt.
 */
import type { Character } from '../character/model';
import { restWorld } from '../character/hierarchy';
import {
  IDENTITY as IDENTITY_NUMBERS,
  composeMatrix,
  inverseOr,
  multiply,
  quatAbout,
  times,
} from '../geometry/matrix';
import {
  type CarriedPoints,
  type Joint,
  type VerticesOfNodes,
  broughtBy,
  carriedBy,
  fittedPoints,
  jointsOf,
  placesOf,
  sizeOf,
} from './carried';
import { transferPose } from './pose';
import { JointNormalEquations } from './joint-normal-equations';

/** How often all joints are turned together at most, and what that must gain, as a share, to be done again. */
const STEPS = 8;
const GAIN = 0.01;

/** How firmly a joint keeps its turn at first, as a share of what its points weigh. */
const KEEP = 2e-3;

/** How much firmer after a step that led away, and less firm after one that led on; the firmest that is tried. */
const FIRMER = 30;
const LOOSER = 0.1;
const FIRMEST = 1e3;

/** A step never turns a joint farther than this, radians. */
const FARTHEST = 1;

/** What lies nearer than this, as a share of the figure, needs no fitting. */
const NEAR = 1e-4;

const IDENTITY = Float64Array.from(IDENTITY_NUMBERS);

/** Two rigs of one mesh, and what the motion of one on the other is held against. */
export interface MotionTask {
  /** What the motion is taken from. */
  readonly source: Character;
  readonly target: Character;
  /** For every node of the target, the node of the source that it stands for; −1 for none. */
  readonly sourceNodeOf: Int32Array;
  /**
   * Where the mesh is to be: the source in another rest pose, its nodes those of the source; the source itself where
   * nothing is said.
   */
  readonly reference?: Character;
  /** Vertices of mesh nodes that lost a bone to the limit: their weights are others, and no joint turns for their sake. */
  readonly trimmed?: VerticesOfNodes;
  /** Those that say where the mesh is to be; chosen evenly where none are given. */
  readonly points?: VerticesOfNodes;
}

/** What is told of a place where joints stand, as a share of the figure: as near is there. */
const THERE = 1e-5;

/** Carries poses of a character over to the same mesh on other bones. */
export class MotionFit {
  private readonly before: CarriedPoints;
  private readonly after: CarriedPoints;
  /** Made when they are needed first. */
  private joints: readonly Joint[] | null = null;
  private together: JointNormalEquations | null = null;
  private readonly size: number;
  /** Bones that carry the mesh, as they are on either side, where every one has its counterpart; null where not. */
  private readonly bones: PairedBones | null;

  constructor(private readonly task: MotionTask) {
    const { source, target, sourceNodeOf, reference = source, trimmed, points } = task;
    const chosen = points ?? fittedPoints(source, target, sourceNodeOf, trimmed);
    this.before = carriedBy(
      reference,
      chosen.map((node) => ({ node: sourceNodeOf[node.node], vertices: node.vertices })),
    );
    this.after = carriedBy(target, chosen);
    this.size = sizeOf(this.before);
    this.bones = allPaired(task, this.before);
  }

  /**
   * World matrices of the target, 16 per node, for those of the source. Where turning joint by joint is exact nothing
   * is fitted. `start`: where an earlier fit of the same pose has left the joints; it is not changed.
   */
  pose(sourceWorld: Float64Array, start?: Float64Array): Float64Array {
    const { source, target, sourceNodeOf } = this.task;
    const transferred = this.bones && transferPose(source, sourceWorld, target, sourceNodeOf);
    // Joints that stand where they stood move as they moved: nothing is nearer to what the motion was.
    if (transferred && this.bones?.goAsTheyWent(sourceWorld, transferred, THERE * this.size))
      return transferred;
    const world = start?.slice() ?? transferred ?? transferPose(source, sourceWorld, target, sourceNodeOf);
    const wanted = placesOf(this.before, broughtBy(this.before, sourceWorld));
    const now = this.placesIn(world);
    let far = 0;
    for (let i = 0; i < now.length; i++) far = Math.max(far, Math.abs(now[i] - wanted[i]));
    if (far <= NEAR * this.size) return world;
    this.joints ??= jointsOf(target, this.after);
    this.together ??= new JointNormalEquations(this.joints);
    return this.turnTogether(world, wanted);
  }

  /** Turns all joints at once, step by step, as long as the points come nearer. Returns where that leaves them. */
  private turnTogether(from: Float64Array, wanted: Float64Array): Float64Array {
    const joints = this.joints ?? [];
    let world = from;
    let now = this.placesIn(world);
    let off = squares(wanted, now);
    let damping = KEEP;
    for (let step = 0; step < STEPS; step++) {
      const isFar = farther(now, wanted, NEAR * this.size);
      const brought = broughtBy(this.after, world);
      const arms = joints.map((joint) =>
        hasAny(isFar, joint.points) ? armsOf(joint, world, brought) : null,
      );
      this.together?.fill({ arms, world, now, wanted });
      let left = Infinity;
      for (; !(left <= off) && damping <= FIRMEST; damping *= FIRMER) {
        const tried = this.turned(world, damping);
        const places = this.placesIn(tried);
        left = squares(wanted, places);
        // Where the numbers gave out it is no step either.
        if (!(left <= off)) continue;
        world = tried;
        now = places;
        damping *= LOOSER / FIRMER;
      }
      if (!(left <= off * (1 - GAIN))) break;
      off = left;
    }
    return world;
  }

  /** The joints turned by one step, from the root out, each about where it is by then. */
  private turned(from: Float64Array, damping: number): Float64Array {
    const world = from.slice();
    const { together, joints } = this;
    if (!together || !joints) return world;
    const { turns, shifts } = together.solve(damping);
    const moves: Float64Array[] = [];
    joints.forEach(({ node, parent, own }, j) => {
      const move = turnedAbout(
        moves[parent] ?? IDENTITY,
        from.subarray(node * 16 + 12, node * 16 + 15),
        turns.subarray(j * 3, j * 3 + 3),
        shifts.subarray(j * 3, j * 3 + 3),
      );
      moves.push(move);
      for (const n of own) multiply(world, n * 16, move, 0, from, n * 16);
    });
    return world;
  }

  private placesIn(world: Float64Array): Float64Array {
    return placesOf(this.after, broughtBy(this.after, world));
  }
}

/** The bones that carry a mesh, on either side. */
class PairedBones {
  private readonly rest: Float64Array;

  /**
   * @param own bones of the source that carry any of it, and for each the bone of the target that stands for it
   */
  constructor(
    source: Character,
    target: Character,
    private readonly own: Int32Array,
    private readonly theirs: Int32Array,
  ) {
    const [before, after] = [restWorld(source.nodes), restWorld(target.nodes)];
    // From a bone of the source at rest to its counterpart at rest.
    this.rest = new Float64Array(own.length * 16);
    own.forEach((s, k) => {
      this.rest.set(times(inverseOr(before, s * 16), after, 0, theirs[k] * 16), k * 16);
    });
  }

  /** Whether every bone of the target stands in a pose where its counterpart takes it, to within some metres. */
  goAsTheyWent(sourceWorld: Float64Array, targetWorld: Float64Array, within: number): boolean {
    const { own, theirs, rest } = this;
    return own.every((bone, k) => {
      const there = times(sourceWorld, rest, bone * 16, k * 16);
      const at = theirs[k] * 16;
      for (let i = 12; i < 15; i++) if (Math.abs(there[i] - targetWorld[at + i]) > within) return false;
      for (let i = 0; i < 11; i++) if (Math.abs(there[i] - targetWorld[at + i]) > SAME_TURN) return false;
      return true;
    });
  }
}

/** How far the axes of two bones may be apart that are turned alike. */
const SAME_TURN = 1e-5;

/** The bones that carry any of the points, where every one of them has a counterpart; null where one has none. */
function allPaired(
  { source, target, sourceNodeOf }: MotionTask,
  { node }: CarriedPoints,
): PairedBones | null {
  const own = Int32Array.from(new Set(node)).filter((node) => source.nodes[node].kind === 'bone');
  const theirs = own.map((bone) => sourceNodeOf.indexOf(bone));
  return theirs.some((their) => their < 0) ? null : new PairedBones(source, target, own, theirs);
}

/** From a joint to what its branch carries of each of its points, times the weight; 3 per point. */
function armsOf(
  { node, points, offsets, entries, masses }: Joint,
  world: Float64Array,
  brought: Float64Array,
): Float64Array {
  const arms = new Float64Array(points.length * 3);
  const at = node * 16 + 12;
  for (let k = 0; k < points.length; k++) {
    let x = -masses[k] * world[at];
    let y = -masses[k] * world[at + 1];
    let z = -masses[k] * world[at + 2];
    for (let entry = offsets[k]; entry < offsets[k + 1]; entry++) {
      const i = entries[entry] * 3;
      x += brought[i];
      y += brought[i + 1];
      z += brought[i + 2];
    }
    arms[k * 3] = x;
    arms[k * 3 + 1] = y;
    arms[k * 3 + 2] = z;
  }
  return arms;
}

/** Marks the points (3 each) that lie farther apart than told, along an axis. */
function farther(a: Float64Array, b: Float64Array, far: number): Uint8Array {
  const out = new Uint8Array(a.length / 3);
  for (let i = 0; i < a.length; i++) if (Math.abs(a[i] - b[i]) > far) out[Math.floor(i / 3)] = 1;
  return out;
}

function hasAny(marks: Uint8Array, points: Int32Array): boolean {
  for (let k = 0; k < points.length; k++) if (marks[points[k]]) return true;
  return false;
}

function squares(a: Float64Array, b: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += (a[i] - b[i]) ** 2;
  return sum;
}

/**
 * What moves a joint and all under it, as a matrix: what moves the joint above, then a turn about where this
 * one is by then, at most so far, then a shift.
 */
function turnedAbout(
  parent: Float64Array,
  origin: Float64Array,
  turn: Float64Array,
  shift: Float64Array,
): Float64Array {
  const angle = Math.hypot(turn[0], turn[1], turn[2]) || 1e-300;
  const axis = [turn[0] / angle, turn[1] / angle, turn[2] / angle];
  const by = composeMatrix([0, 0, 0], quatAbout(axis, Math.min(angle, FARTHEST)), [1, 1, 1]);
  const move = times(by, parent);
  for (let a = 0; a < 3; a++) {
    let at = parent[12 + a] + shift[a];
    for (let corner = 0; corner < 3; corner++)
      at += (parent[corner * 4 + a] - move[corner * 4 + a]) * origin[corner];
    move[12 + a] = at;
  }
  return move;
}

import { parentBone } from '../../character/hierarchy';
import { type Placed, type Shown, characterHeight, placedMeshes } from '../../character/measure';
import type { Character } from '../../character/model';
import { placedPoints } from '../../character/deform';
import { MotionFit } from '../../motion/fit';
import { type TrialPose, parentsOfMotion, topDownIn } from './poses';
import type { Remapped } from './remap';

/** Two characters whose nodes are known to stand for each other. */
export interface Compared extends Pick<
  Remapped,
  'character' | 'sourceNodeOf' | 'motionSource' | 'reference'
> {
  readonly report: Pick<Remapped['report'], 'trimmed'>;
  /** For mesh nodes that show only a part: for every vertex, the vertex of the other that it is of. */
  readonly origins?: ReadonlyMap<number, Uint32Array>;
  /**
   * How the motion comes over: world matrices of the driver to those of the character; fitted where nothing
   * is said.
   */
  readonly carry?: (world: Float64Array) => Float64Array;
}

/** How far the points that a bone moves lie from where they were, and the pose that shows it most. */
export interface BoneProof {
  /** Node of the source. */
  readonly node: number;
  /** Metres. */
  readonly max: number;
  /** Index among the poses. */
  readonly pose: number;
}

/** How far points lie from where they were, pose by pose, metres. */
export interface Proof {
  /**
   * Largest, root-mean-square and 95th-percentile distance over all points and poses, metres; the percentile
   * is of each point's worst.
   */
  readonly max: number;
  readonly rms: number;
  readonly p95: number;
  /** The same as a share of the character's height. */
  readonly ofHeight: { readonly max: number; readonly rms: number; readonly p95: number };
  readonly poses: readonly { readonly label: string; readonly max: number }[];
  /**
   * Points whose own weights had to be mended (too many bones, or no sum of one), and how far the others lie
   * off: what the pairs themselves bring, metres.
   */
  readonly mended: number;
  readonly byPairs: number;
  /** How many vertices were compared; 0 where there is no mesh, and the proof says nothing. */
  readonly compared: number;
  /** For every mesh node of the remapped character: the worst distance of every vertex, metres, and in which pose. */
  readonly worst: readonly {
    readonly node: number;
    readonly distance: Float32Array;
    readonly pose: Uint16Array;
  }[];
  /**
   * Bones of the source whose own turning moves points off. For points of bones that stay still, and where
   * all turn in a clip or together, those answer that have no counterpart of their own. Points whose weights
   * had to be mended are left out.
   */
  readonly bones: readonly BoneProof[];
}

/** A mesh before and after, and what was found of every vertex. */
interface Pair {
  readonly before: Placed;
  readonly after: Placed;
  /** The same mesh on the driver, where that is another character than the one it is held against. */
  readonly driven: Placed | null;
  /** Vertex of `before` for every vertex of `after`. */
  readonly at: Uint32Array;
  /** Squares while poses are compared, distances at the end. */
  readonly distance: Float32Array;
  /** Squares of the pose at hand. */
  readonly squares: Float32Array;
  readonly pose: Uint16Array;
  readonly bone: Int32Array;
  readonly isMended: Uint8Array;
}

function pairsOf(remapped: Compared): Pair[] {
  const { character, reference, motionSource, sourceNodeOf, origins } = remapped;
  const byNode = (character: Character) =>
    new Map(placedMeshes(character).map((placed) => [placed.node, placed]));
  const [before, driven] = [byNode(reference), byNode(motionSource)];
  return placedMeshes(character).flatMap((after): Pair[] => {
    const placed = before.get(sourceNodeOf[after.node]);
    const otherPlaced = driven.get(sourceNodeOf[after.node]);
    const count = after.points.length / 3;
    const at = origins?.get(after.node) ?? new Uint32Array(count).map((_, value) => value);
    if (
      !placed ||
      !otherPlaced ||
      (!origins?.has(after.node) && placed.points.length !== after.points.length)
    )
      return [];
    return [
      {
        before: placed,
        after,
        driven: reference === motionSource ? null : otherPlaced,
        at,
        distance: new Float32Array(count),
        squares: new Float32Array(count),
        pose: new Uint16Array(count),
        bone: heaviestBones(reference, placed),
        isMended: mendedPoints(remapped, otherPlaced.points, after, at),
      },
    ];
  });
}

const pointsIn = ({ mesh, skin, node }: Placed, world: Float64Array) => placedPoints(mesh, skin, node, world);

function squareApart(a: Float32Array, share: number, b: Float32Array, value: number): number {
  const dx = a[share * 3] - b[value * 3];
  const dy = a[share * 3 + 1] - b[value * 3 + 1];
  const dz = a[share * 3 + 2] - b[value * 3 + 2];
  return dx * dx + dy * dy + dz * dz;
}

/**
 * The proof that a remap deforms as before: the same motions on both rigs, fitted where the other has other bones,
 * points compared in world space. A pure rename or reorder gives zero to float precision.
 */
export function prove(remapped: Compared, poses: readonly TrialPose[]): Proof {
  const { reference: before } = remapped;
  const pairs = pairsOf(remapped);
  const blame = new Blame(before, remapped);
  const carry = carryOf(remapped);
  let sum = 0;
  const rows = poses.map(({ label, world, turned }, pose) => {
    blame.begin(pose, turned);
    const moved = carry(world);
    let farthest = 0;
    for (const pair of pairs) {
      const a = pointsIn(pair.before, world);
      const b = pointsIn(pair.after, moved);
      // What binding in another pose brings is no bone's doing.
      const points = pair.driven ? pointsIn(pair.driven, world) : null;
      const far = comparePoints(pair, a, b, pose);
      blame.putAll(pair, points ? squaresApart(points, b, pair.at) : pair.squares);
      sum += far.sum;
      if (far.most > farthest) farthest = far.most;
    }
    return { label, max: Math.sqrt(farthest) };
  });
  for (const { distance } of pairs)
    for (let vertex = 0; vertex < distance.length; vertex++) distance[vertex] = Math.sqrt(distance[vertex]);
  const all = joined(pairs.map((pair) => pair.distance)).sort();
  const count = all.length * poses.length;
  const height = characterHeight(before);
  const max = rows.reduce((most, row) => Math.max(most, row.max), 0);
  const rms = Math.sqrt(sum / Math.max(1, count));
  const p95 = all.length > 0 ? all[Math.min(all.length - 1, Math.floor(all.length * 0.95))] : 0;
  return {
    max,
    rms,
    p95,
    ofHeight: { max: max / height, rms: rms / height, p95: p95 / height },
    poses: rows,
    mended: pairs.reduce((most, pair) => most + pair.isMended.reduce((a, b) => a + b, 0), 0),
    byPairs: Math.sqrt(blame.most),
    compared: all.length,
    worst: pairs.map((pair) => ({ node: pair.after.node, distance: pair.distance, pose: pair.pose })),
    bones: blame.bones,
  };
}

/**
 * Squares between the points of a mesh before and after in one pose, metres²: kept for the pose, and where they are the
 * largest so far. Nothing but numbers in the loop: it runs over every point in every pose.
 */
function comparePoints(
  { at, squares, distance, pose }: Pair,
  a: Float32Array,
  b: Float32Array,
  index: number,
): { sum: number; most: number } {
  let sum = 0;
  let most = 0;
  for (let otherSquare = 0; otherSquare < squares.length; otherSquare++) {
    const i = at[otherSquare] * 3;
    const j = otherSquare * 3;
    const dx = a[i] - b[j];
    const dy = a[i + 1] - b[j + 1];
    const dz = a[i + 2] - b[j + 2];
    const square = dx * dx + dy * dy + dz * dz;
    squares[otherSquare] = square;
    sum += square;
    if (square > most) most = square;
    if (square <= distance[otherSquare]) continue;
    distance[otherSquare] = square;
    pose[otherSquare] = index;
  }
  return { sum, most };
}

/** The same between a third mesh and the points after. */
function squaresApart(a: Float32Array, b: Float32Array, at: Uint32Array): Float32Array {
  const out = new Float32Array(at.length);
  for (let vertex = 0; vertex < out.length; vertex++) out[vertex] = squareApart(a, at[vertex], b, vertex);
  return out;
}

function joined(parts: readonly Float32Array[]): Float32Array {
  const out = new Float32Array(parts.reduce((sum, part) => sum + part.length, 0));
  parts.reduce((at, part) => {
    out.set(part, at);
    return at + part.length;
  }, 0);
  return out;
}

/** What moves a point at rest is no pair’s doing, metres. */
const AT_REST = 1e-5;

/**
 * 1 for every vertex whose own weights had to be mended: it lost a bone to the limit, or its weights did not
 * sum to one and it moved at rest. Such a point says nothing about the pairs.
 */
function mendedPoints(
  { report }: Compared,
  before: Float32Array,
  { node, points }: Placed,
  at: Uint32Array,
): Uint8Array {
  const out = new Uint8Array(points.length / 3);
  for (const trimmed of report.trimmed)
    if (trimmed.node === node) for (const vertex of trimmed.vertices) out[vertex] = 1;
  for (let vertex = 0; vertex < out.length; vertex++)
    if (squareApart(before, at[vertex], points, vertex) > AT_REST ** 2) out[vertex] = 1;
  return out;
}

/** How motion comes over: as it is said, else so that it brings the mesh nearest. */
export function carryOf(remapped: Compared): NonNullable<Compared['carry']> {
  if (remapped.carry) return remapped.carry;
  const fit = motionOf(remapped);
  return (world) => fit.pose(world);
}

/** The motion of the driver on the character, so that its mesh comes nearest to the model's. */
export const motionOf = ({ motionSource, reference, character, sourceNodeOf, report }: Compared): MotionFit =>
  new MotionFit({
    source: motionSource,
    reference,
    target: character,
    sourceNodeOf,
    trimmed: report.trimmed,
  });

/** The bone node that weighs most at every vertex; of a rigid mesh the one that it hangs on. −1 for none. */
function heaviestBones(character: Character, { node, mesh, skin }: Shown): Int32Array {
  const out = new Int32Array(mesh.vertexCount).fill(-1);
  const influences = mesh.influences;
  if (!skin || !influences) return out.fill(parentBone(character.nodes, node));
  for (let vertex = 0; vertex < mesh.vertexCount; vertex++) {
    let most = 0;
    for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++) {
      if (influences.weight[k] <= most) continue;
      most = influences.weight[k];
      out[vertex] = skin.joints[influences.joint[k]];
    }
  }
  return out;
}

/** Which bone answers for what is off. */
class Blame {
  /** Largest squares by node, metres². */
  private readonly max: Float64Array;
  private readonly pose: Int32Array;
  /** For the pose at hand: the bone that answers for points of each node; −1 for none. */
  private readonly answers: Int32Array;
  private readonly hasOwn: ReadonlySet<number>;
  private readonly parents: Int32Array;
  private readonly order: readonly number[];
  private at = 0;
  /** Square of the farthest of all points, metres². */
  most = 0;

  constructor(
    private readonly character: Character,
    { sourceNodeOf }: Compared,
  ) {
    const count = character.nodes.length;
    this.max = new Float64Array(count);
    this.pose = new Int32Array(count);
    this.answers = new Int32Array(count);
    this.hasOwn = new Set(sourceNodeOf);
    this.parents = parentsOfMotion(character) ?? Int32Array.from(character.nodes, (node) => node.parent);
    this.order = topDownIn(this.parents);
  }

  /**
   * A pose begins: the nearest turned bone above answers. Where none is, and where all turn, a bone answers
   * for its own points if nothing on the other side moves like it.
   */
  begin(pose: number, turned: readonly number[]): void {
    this.at = pose;
    const isTurned = new Set(turned);
    const above = new Int32Array(this.answers.length).fill(-1);
    for (const i of this.order) {
      above[i] = isTurned.has(i) ? i : (above[this.parents[i]] ?? -1);
      const isOwn = this.character.nodes[i].kind === 'bone' && !this.hasOwn.has(i);
      this.answers[i] = above[i] < 0 && isOwn ? i : above[i];
    }
  }

  /** Takes what lies how far off in the pose at hand, metres² by vertex. Points that had to be mended say nothing. */
  putAll({ bone, at, isMended }: Pair, squares: Float32Array): void {
    const { answers, max, pose } = this;
    for (let otherSquare = 0; otherSquare < squares.length; otherSquare++) {
      if (isMended[otherSquare] !== 0) continue;
      const square = squares[otherSquare];
      if (square > this.most) this.most = square;
      const mine = bone[at[otherSquare]];
      const answer = mine < 0 ? -1 : answers[mine];
      if (answer < 0 || square <= max[answer]) continue;
      max[answer] = square;
      pose[answer] = this.at;
    }
  }

  get bones(): BoneProof[] {
    return Array.from(this.max, (square, node) => ({
      node,
      max: Math.sqrt(square),
      pose: this.pose[node],
    })).filter((b) => b.max > 0);
  }
}

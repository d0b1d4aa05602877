/**
 * Weights by example: over motions of the source, the mesh on the target's bones is to go as it went. In turns the
 * joints are turned to where the mesh fits best (./fit), and every vertex gets the weights that bring it nearest, not
 * negative and summing to one, at most so many (James and Twigg 2005, *Skinning Mesh Animations*; Le and Deng 2012,
 * *Smooth Skinning Decomposition with Rigid Bones*). The weights begin with those of the rules and stay near
 * them where the motions do not tell.
 */
import { placedPoints } from '../character/deform';
import { restWorld } from '../character/hierarchy';
import { type Shown, characterHeight, shownMeshes } from '../character/measure';
import { type Character, type Influences, type Mesh, replaceAt } from '../character/model';
import type { MirrorPlane } from '../geometry/mirror';
import { type VerticesOfNodes, fittedPoints } from './carried';
import { MotionFit } from './fit';
import { Goals } from './goals';
import { MeshWeights, type RestFreedom, type SolveOptions } from './mesh-weights';
import { type RestMoved, settleRest } from './rest-shape';

/** What weights are solved for. */
export interface ExampleTask {
  /** What the motion is taken from. */
  readonly source: Character;
  /** Where the mesh is to be: the source in another rest pose; the source itself where nothing is said. */
  readonly reference?: Character;
  /** The same meshes on the target's bones, weights by the rules and within the limit; all bones in every skin. */
  readonly target: Character;
  /** For every node of the target, the node of the source that it stands for; −1 for none. */
  readonly sourceNodeOf: Int32Array;
  /** Weights by the rules before any limit, by mesh node of the target; joints as in its skin. */
  readonly rules: ReadonlyMap<number, Influences>;
  /** Vertices of mesh nodes that lost a bone to the limit: no joint turns for their sake. */
  readonly trimmed: VerticesOfNodes;
  /** Poses of the source: world matrices, 16 per node. */
  readonly worlds: readonly Float64Array[];
  readonly limit: number;
  /** Whether weights stay those of the target; they are solved where nothing is said. */
  readonly areWeightsKept?: boolean;
  /** Whether the points may move at rest as well; they stay where nothing is said. */
  readonly isRestFree?: boolean;
  /** The plane that the figure is alike on both sides of; none where nothing is said. */
  readonly plane?: MirrorPlane | null;
}

/** How the weights of one bone of the target moved. */
export interface BoneMoved {
  /** Node of the target. */
  readonly node: number;
  /** Points at which its weight is another now, by a hundredth at least. */
  readonly points: number;
  /** Largest change of its weight at a point, 0 … 1. */
  readonly most: number;
}

/** Weights that were solved for. */
export interface ByExample {
  /** New weights by mesh of the target. */
  readonly influences: ReadonlyMap<number, Influences>;
  /** How many vertices got other weights than the rules and the limit gave them. */
  readonly changed: number;
  /** The bones whose weights moved, most of all first. */
  readonly bones: readonly BoneMoved[];
  /** What the limit costs over the motions at the points that it takes a bone from. */
  readonly limited: LimitCost;
  /** Where points stand at rest now, 3 per vertex, by mesh of the target; only meshes of which any moved. */
  readonly shapes: ReadonlyMap<number, Float32Array>;
  /** How far they moved for it; null where they might not. */
  readonly rest: RestMoved | null;
}

/** Root of the mean square distance at points that lost a bone, metres. */
export interface LimitCost {
  readonly points: number;
  /** Where the smallest weights are let go. */
  readonly plain: number;
  /** Where those are let go that move the mesh least. */
  readonly chosen: number;
}

/** From which change on a point counts. */
const TELLS = 0.01;

/** How often weights and motion take turns. */
const ROUNDS = 3;

/** What goes as it went by this much, as a share of the height, keeps the weights of the rules. */
const FAR = 1e-4;

/** See {@link SolveOptions}; a share of the height. */
const NEARNESS = 1e-3;

/** How far in the tree a bone may lie from those of the rules. */
const STEPS = 1;

/** How points may move at rest while weights are solved by example. */
const REST: RestFreedom = { keep: 0.02, turns: 1 };

/** Points that lie farther off at rest had to be mended, metres: what moves them is no bone. */
const AT_REST = 1e-5;

/** Vertices that are solved between two words of progress. */
const PART = 250;

/** Solves the weights. Yields how much is done, 0 … 1; whoever drives it may stop at any such moment. */
export function* byExample(task: ExampleTask): Generator<number, ByExample> {
  const { source, target, sourceNodeOf, areWeightsKept } = task;
  const height = characterHeight(source);
  const rest = task.isRestFree ? REST : undefined;
  // What nothing moves by the rules is for the game alone to move: an eye that drags the face along helps nobody.
  const among = busyNodes(task);
  const options = {
    limit: task.limit,
    nearness: NEARNESS * height,
    steps: STEPS,
    among,
    areWeightsKept,
    rest,
  };
  const meshes = meshWeights(task, options);
  const points = fittedPoints(source, target, sourceNodeOf, task.trimmed);
  const motions = new Motions(task, points);
  const open = new Map<MeshWeights, Uint32Array>();
  for (let round = 0; round < ROUNDS; round++) {
    const now = withSolved(target, meshes);
    const motion = yield* motions.fit(now, round / (ROUNDS + 1), 1 / (ROUNDS + 1));
    for (const mesh of meshes) {
      mesh.setMotion(motion);
      if (round === 0) open.set(mesh, farVertices(task, mesh, motion, FAR * height));
      if (round + 1 < ROUNDS) mesh.solve(sampleOf(mesh, points, open.get(mesh) as Uint32Array));
    }
  }
  const all = [...open.values()].reduce((sum, list) => sum + list.length, 0);
  let done = 0;
  for (const [weights, vertices] of open)
    for (let k = 0; k < vertices.length; k += PART) {
      const part = vertices.subarray(k, k + PART);
      weights.solve(part);
      done += part.length;
      yield (ROUNDS + done / all) / (ROUNDS + 1);
    }
  const shaped = rest
    ? settleRest(meshes, height, FAR * height, task.plane ?? null)
    : { shapes: new Map(), rest: null };
  const limited = limitedOf(meshes, task);
  return { influences: influencesOf(target, meshes), ...movedOf(meshes), limited, ...shaped };
}

/** Nodes that carry weight by the rules. */
function busyNodes({ target, rules }: ExampleTask): Set<number> {
  const busy = new Set<number>();
  for (const [node, { joint, weight }] of rules) {
    const { joints } = target.skins[target.nodes[node].skin];
    joint.forEach((j, k) => weight[k] > 0 && busy.add(joints[j]));
  }
  return busy;
}

/** Runs work that yields its progress to its end. */
export function finish<T>(work: Generator<unknown, T>): T {
  for (;;) {
    const step = work.next();
    if (step.done) return step.value;
  }
}

/** The motion of the poses on the target's bones, each fit beginning where the one before has ended. */
export class Motions {
  private last: readonly Float64Array[] | null = null;

  constructor(
    private readonly task: Pick<ExampleTask, 'source' | 'reference' | 'sourceNodeOf' | 'worlds'>,
    private readonly points: VerticesOfNodes,
  ) {}

  /** Fits all poses to the target as it is now. Yields progress from `from` on, over a `share`. */
  *fit(target: Character, from: number, share: number): Generator<number, readonly Float64Array[]> {
    const { task, points, last } = this;
    const { worlds } = task;
    const fit = new MotionFit({ ...task, target, points });
    const out: Float64Array[] = [];
    for (const [k, world] of worlds.entries()) {
      out.push(fit.pose(world, last?.[k]));
      yield from + (share * k) / worlds.length;
    }
    this.last = out;
    return out;
  }
}

/** Every bound mesh with where its points are to be. */
export function meshWeights(
  { source, reference = source, target, sourceNodeOf, rules, worlds }: Omit<ExampleTask, 'limit'>,
  options: SolveOptions,
): MeshWeights[] {
  const before = new Map(shownMeshes(reference).map((shown) => [shown.node, shown]));
  const taken = new Set<Mesh>();
  return shownMeshes(target).flatMap(({ node, mesh, skin }) => {
    const old = before.get(sourceNodeOf[node]);
    const own = rules.get(node);
    if (!skin || !old || !own || taken.has(mesh) || old.mesh.vertexCount !== mesh.vertexCount) return [];
    taken.add(mesh);
    return [new MeshWeights(target, node, skin, own, new Goals(old, worlds), options)];
  });
}

/** The target with the weights as they are now. */
export function withInfluences(target: Character, influences: ReadonlyMap<number, Influences>): Character {
  const changes = new Map<number, Mesh>();
  for (const [mesh, otherInfluences] of influences)
    changes.set(mesh, { ...target.meshes[mesh], influences: otherInfluences });
  return { ...target, meshes: replaceAt(target.meshes, changes) };
}

/** The target with weights and rest places as they are now. */
export function withSolved(target: Character, meshes: readonly MeshWeights[]): Character {
  const weighted = withInfluences(target, influencesOf(target, meshes));
  return withShapes(weighted, new Map(meshes.map((mesh) => [target.nodes[mesh.node].mesh, mesh.restPlaces])));
}

/** A character with other places of points at rest, 3 per vertex, by mesh; all else stays. */
export function withShapes(character: Character, shapes: ReadonlyMap<number, Float32Array>): Character {
  const changes = new Map<number, Mesh>();
  for (const [mesh, places] of shapes) {
    const { attributes } = character.meshes[mesh];
    if (places === attributes.POSITION.data) continue;
    const POSITION = { ...attributes.POSITION, data: places, normalized: false };
    changes.set(mesh, { ...character.meshes[mesh], attributes: { ...attributes, POSITION } });
  }
  return changes.size > 0 ? { ...character, meshes: replaceAt(character.meshes, changes) } : character;
}

/** The weights as they are now, by mesh. */
export const influencesOf = (target: Character, meshes: readonly MeshWeights[]): Map<number, Influences> =>
  new Map(meshes.map((mesh) => [target.nodes[mesh.node].mesh, mesh.influences()]));

/** Vertices that lie farther off than allowed in any pose, but not at rest: those had to be mended. */
function farVertices(
  { source, target, sourceNodeOf, worlds }: ExampleTask,
  weights: MeshWeights,
  motion: readonly Float64Array[],
  far: number,
): Uint32Array {
  const before = (world: Float64Array) => placedIn(weights.goals.shown, world);
  const after = (world: Float64Array) => placedIn(weights, world);
  const isFar = new Uint8Array(weights.mesh.vertexCount);
  motion.forEach((world, index) => markFar(isFar, after(world), before(worlds[index]), far));
  const isMended = new Uint8Array(weights.mesh.vertexCount);
  const own = shownMeshes(source).find((shown) => shown.node === sourceNodeOf[weights.node]);
  if (own) markFar(isMended, after(restWorld(target.nodes)), placedIn(own, restWorld(source.nodes)), AT_REST);
  return Uint32Array.from(isFar, (_, value) => value).filter(
    (value) => isFar[value] === 1 && isMended[value] === 0,
  );
}

const placedIn = ({ mesh, skin, node }: Shown, world: Float64Array) => placedPoints(mesh, skin, node, world);

/** Marks the points (3 per vertex) that lie farther apart than told. */
function markFar(marks: Uint8Array, a: Float32Array, b: Float32Array, far: number): void {
  for (let mark = 0; mark < marks.length; mark++) {
    const x = a[mark * 3] - b[mark * 3];
    const y = a[mark * 3 + 1] - b[mark * 3 + 1];
    const z = a[mark * 3 + 2] - b[mark * 3 + 2];
    if (x * x + y * y + z * z > far * far) marks[mark] = 1;
  }
}

/** The points that motion is fitted to, of those that may get other weights. */
function sampleOf(weights: MeshWeights, points: VerticesOfNodes, open: Uint32Array): number[] {
  const isOpen = new Uint8Array(weights.mesh.vertexCount);
  for (const vertex of open) isOpen[vertex] = 1;
  return [...(points.find((point) => point.node === weights.node)?.vertices ?? [])].filter(
    (vertex) => isOpen[vertex] === 1,
  );
}

/** How far the weights moved, vertex by vertex and bone by bone. */
function movedOf(meshes: readonly MeshWeights[]): Pick<ByExample, 'changed' | 'bones'> {
  const bones = new Map<number, { points: number; most: number }>();
  let changed = 0;
  for (const mesh of meshes)
    for (const vertex of mesh.solvedVertices) {
      const by = mesh.changeAt(vertex);
      let most = 0;
      for (const [joint, difference] of by) {
        most = Math.max(most, Math.abs(difference));
        if (Math.abs(difference) < TELLS) continue;
        const node = mesh.skin.joints[joint];
        const known = bones.get(node) ?? { points: 0, most: 0 };
        bones.set(node, { points: known.points + 1, most: Math.max(known.most, Math.abs(difference)) });
      }
      if (most >= TELLS) changed++;
    }
  const list = [...bones].map(([node, moved]): BoneMoved => ({ node, ...moved }));
  return { changed, bones: list.sort((a, b) => b.points * b.most - a.points * a.most) };
}

function limitedOf(meshes: readonly MeshWeights[], { trimmed, worlds }: ExampleTask): LimitCost {
  let points = 0;
  const sums = { first: 0, now: 0 };
  for (const mesh of meshes)
    for (const vertex of trimmed.find((node) => node.node === mesh.node)?.vertices ?? []) {
      points++;
      sums.first += mesh.squaresAt(vertex, 'first').sum;
      sums.now += mesh.squaresAt(vertex).sum;
    }
  const rms = (sum: number) => Math.sqrt(sum / Math.max(1, points * worlds.length));
  return { points, plain: rms(sums.first), chosen: rms(sums.now) };
}

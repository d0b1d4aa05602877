/**
 * What the target's missing bones cost: how near the mesh can come to where it was on any weights and with any motion
 * of the target's joints. Sought by the same turns as weights by example, over the very poses that are
 * compared, over all bones around, without a limit, and without staying near anything.
 */
import { ancestorsOf, bonesOf, restPlace, weightOfNodes } from '../character/hierarchy';
import { characterHeight } from '../character/measure';
import type { Character } from '../character/model';
import { distance } from '../geometry/matrix';
import { type ExampleTask, Motions, meshWeights, withSolved } from './example';
import { type VerticesOfNodes, fittedPoints } from './carried';
import type { SolveOptions } from './mesh-weights';

/** How far the points of a mesh node lie from where they were at least. */
export interface LeastOff {
  readonly node: number;
  /** Farthest in any pose, metres, 1 per point that was asked for. */
  readonly worst: Float64Array;
  /** Sum of the squares over all poses, metres². */
  readonly squares: Float64Array;
}

/** How often weights and motion take turns. */
const ROUNDS = 3;

/** What weights may be: most bones a point, and how far in the tree they may lie from those that it has. */
export type Freedom = Pick<SolveOptions, 'limit' | 'steps'>;

const ANY: Freedom = { limit: Infinity, steps: 3 };

/** Points are free at rest, but for as much as tells two places apart. */
const REST = { keep: 1e-3, turns: 6 };

/** Just enough to tell two bones apart that bring a point to the same place, as a share of the height. */
const HARDLY = 1e-5;

/**
 * Seeks the floor at some points, from the weights and the motion as they are, and once more with bones in
 * motion that nothing was paired with; what is nearer counts. Yields how much is done, 0 … 1.
 */
export function* floorOf(
  task: Omit<ExampleTask, 'limit' | 'rules'>,
  points: VerticesOfNodes,
  freedom: Freedom = ANY,
): Generator<number, LeastOff[]> {
  const { source, target, sourceNodeOf } = task;
  const woken = withNearest(source, target, sourceNodeOf);
  const starts = woken.some((node, i) => node !== sourceNodeOf[i]) ? [sourceNodeOf, woken] : [sourceNodeOf];
  let best: LeastOff[] = [];
  for (const [k, start] of starts.entries()) {
    const found = yield* searchFrom(
      { ...task, sourceNodeOf: start },
      points,
      freedom,
      k / starts.length,
      1 / starts.length,
    );
    if (best.length === 0 || sumOf(found) < sumOf(best)) best = found;
  }
  return best;
}

const sumOf = (found: readonly LeastOff[]) =>
  found.reduce((sum, off) => off.squares.reduce((a, b) => a + b, sum), 0);

function* searchFrom(
  task: Omit<ExampleTask, 'limit' | 'rules'>,
  points: VerticesOfNodes,
  freedom: Freedom,
  from: number,
  share: number,
): Generator<number, LeastOff[]> {
  const { source, target, sourceNodeOf, trimmed } = task;
  const rules = new Map(
    target.nodes.flatMap((node, i) => {
      const influences = node.mesh >= 0 && node.skin >= 0 ? target.meshes[node.mesh].influences : null;
      return influences ? [[i, influences] as const] : [];
    }),
  );
  const nearness = HARDLY * characterHeight(source);
  const rest = task.isRestFree ? REST : undefined;
  const meshes = meshWeights({ ...task, rules }, { ...freedom, nearness, rest });
  const fitted = fittedPoints(source, target, sourceNodeOf, trimmed);
  const motions = new Motions(task, fitted);
  const part = share / (ROUNDS + 1);
  for (let round = 0; round < ROUNDS; round++) {
    const moved = withSolved(target, meshes);
    const motion = yield* motions.fit(moved, from + round * part, part);
    for (const mesh of meshes) {
      mesh.setMotion(motion);
      mesh.solve(verticesOf(fitted, mesh.node));
    }
  }
  const out: LeastOff[] = [];
  for (const [k, mesh] of meshes.entries()) {
    const vertices = [...verticesOf(points, mesh.node)];
    mesh.solve(vertices);
    const off = vertices.map((vertex) => mesh.squaresAt(vertex));
    out.push({
      node: mesh.node,
      worst: Float64Array.from(off, (square) => Math.sqrt(square.most)),
      squares: Float64Array.from(off, (square) => square.sum),
    });
    yield from + (ROUNDS + (k + 1) / meshes.length) * part;
  }
  return out;
}

/**
 * Partners for bones that nothing was paired with and that carry nothing: what lies nearest, so that the
 * search begins with every bone in motion. Bones above all that is paired stay without, and so do those that
 * lie on one that is.
 */
function withNearest(source: Character, target: Character, sourceNodeOf: Int32Array): Int32Array {
  const bones = bonesOf(source);
  const weight = weightOfNodes(target);
  const isBelow = (node: number) =>
    ancestorsOf(target.nodes, node).some((ancestor) => sourceNodeOf[ancestor] >= 0);
  const taken = new Set(sourceNodeOf);
  return sourceNodeOf.map((node, index) => {
    if (node >= 0 || target.nodes[index].kind !== 'bone' || weight[index] > 0 || !isBelow(index)) return node;
    const place = restPlace(target.nodes, index);
    const far = (b: number) => distance(place, restPlace(source.nodes, b));
    const nearest = bones.reduce((best, bone) => (best < 0 || far(bone) < far(best) ? bone : best), -1);
    return taken.has(nearest) ? node : nearest;
  });
}

const verticesOf = (points: VerticesOfNodes, node: number) =>
  points.find((point) => point.node === node)?.vertices ?? [];

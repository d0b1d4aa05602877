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
  const { source, target, partner } = task;
  const woken = withNearest(source, target, partner);
  const starts = woken.some((p, i) => p !== partner[i]) ? [partner, woken] : [partner];
  let best: LeastOff[] = [];
  for (const [k, start] of starts.entries()) {
    const found = yield* searchFrom(
      { ...task, partner: start },
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
  found.reduce((sum, l) => l.squares.reduce((a, b) => a + b, sum), 0);

function* searchFrom(
  task: Omit<ExampleTask, 'limit' | 'rules'>,
  points: VerticesOfNodes,
  freedom: Freedom,
  from: number,
  share: number,
): Generator<number, LeastOff[]> {
  const { source, target, partner, trimmed } = task;
  const rules = new Map(
    target.nodes.flatMap((n, i) => {
      const f = n.mesh >= 0 && n.skin >= 0 ? target.meshes[n.mesh].influences : null;
      return f ? [[i, f] as const] : [];
    }),
  );
  const nearness = HARDLY * characterHeight(source);
  const rest = task.isRestFree ? REST : undefined;
  const meshes = meshWeights({ ...task, rules }, { ...freedom, nearness, rest });
  const fitted = fittedPoints(source, target, partner, trimmed);
  const motions = new Motions(task, fitted);
  const part = share / (ROUNDS + 1);
  for (let round = 0; round < ROUNDS; round++) {
    const moved = withSolved(target, meshes);
    const motion = yield* motions.fit(moved, from + round * part, part);
    for (const m of meshes) {
      m.setMotion(motion);
      m.solve(verticesOf(fitted, m.node));
    }
  }
  const out: LeastOff[] = [];
  for (const [k, m] of meshes.entries()) {
    const vertices = [...verticesOf(points, m.node)];
    m.solve(vertices);
    const off = vertices.map((v) => m.squaresAt(v));
    out.push({
      node: m.node,
      worst: Float64Array.from(off, (o) => Math.sqrt(o.most)),
      squares: Float64Array.from(off, (o) => o.sum),
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
function withNearest(source: Character, target: Character, partner: Int32Array): Int32Array {
  const bones = bonesOf(source);
  const weight = weightOfNodes(target);
  const isBelow = (n: number) => ancestorsOf(target.nodes, n).some((a) => partner[a] >= 0);
  const taken = new Set(partner);
  return partner.map((p, n) => {
    if (p >= 0 || target.nodes[n].kind !== 'bone' || weight[n] > 0 || !isBelow(n)) return p;
    const place = restPlace(target.nodes, n);
    const far = (b: number) => distance(place, restPlace(source.nodes, b));
    const nearest = bones.reduce((best, b) => (best < 0 || far(b) < far(best) ? b : best), -1);
    return taken.has(nearest) ? p : nearest;
  });
}

const verticesOf = (points: VerticesOfNodes, node: number) =>
  points.find((p) => p.node === node)?.vertices ?? [];

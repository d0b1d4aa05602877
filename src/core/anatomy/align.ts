/**
 * All pairs of two skeletons at once: of the mappings that keep what lies under what, the one whose pairs agree
 * most. Trees are laid over each other from the tips up (the constrained alignment of unordered trees: Zhang
 * 1996), with any bone of either side left out where that is better; at every fork the branches are assigned to
 * each other as a whole.
 */
import { assignAll } from '../geometry/assign';

/** What a pair of bones is worth, and how the two trees hang. */
export interface Alignment {
  readonly source: readonly (readonly number[])[];
  readonly target: readonly (readonly number[])[];
  readonly sourceOrder: readonly number[];
  readonly targetOrder: readonly number[];
  /** Worth of every pair, source by target; 0 or less is never taken. */
  readonly worth: Float64Array;
}

/** What it costs to pass over a bone below which others are paired: what lies between is missed less often than ends. */
const SKIP = 0.2;

const HERE = 1;
const SOURCE_ON = 2;
const TARGET_ON = 3;
const FOREST = 4;

/** The best mapping: for every source bone its target bone, or −1; and what all its pairs are worth together. */
export function alignTrees(a: Alignment): { readonly pairs: Int32Array; readonly worth: number } {
  const run = new Run(a);
  run.fill();
  const pairs = run.pairs();
  let worth = 0;
  pairs.forEach((j, i) => {
    if (j >= 0) worth += a.worth[i * a.target.length + j];
  });
  return { pairs, worth };
}

class Run {
  private readonly n: number;
  private readonly m: number;
  /** Best of the two subtrees, and of the two forests below. */
  private readonly tree: Float64Array;
  private readonly forest: Float64Array;
  private readonly treeWay: Uint8Array;
  private readonly forestWay: Uint8Array;
  private readonly onto: Int32Array;
  private readonly forestOnto: Int32Array;

  constructor(private readonly a: Alignment) {
    this.n = a.source.length;
    this.m = a.target.length;
    const cells = this.n * this.m;
    this.tree = new Float64Array(cells);
    this.forest = new Float64Array(cells);
    this.treeWay = new Uint8Array(cells);
    this.forestWay = new Uint8Array(cells);
    this.onto = new Int32Array(cells);
    this.forestOnto = new Int32Array(cells);
  }

  fill(): void {
    const { sourceOrder, targetOrder } = this.a;
    for (let x = sourceOrder.length - 1; x >= 0; x--)
      for (let y = targetOrder.length - 1; y >= 0; y--) {
        this.fillForest(sourceOrder[x], targetOrder[y]);
        this.fillTree(sourceOrder[x], targetOrder[y]);
      }
  }

  private fillForest(i: number, j: number): void {
    const { m, forest, forestWay, forestOnto } = this;
    const { source, target } = this.a;
    const at = i * m + j;
    let best = this.assignedWorth(source[i], target[j]);
    let way = FOREST;
    let onto = -1;
    for (const c of source[i])
      if (forest[c * m + j] - SKIP > best) {
        best = forest[c * m + j] - SKIP;
        way = SOURCE_ON;
        onto = c;
      }
    for (const c of target[j])
      if (forest[i * m + c] - SKIP > best) {
        best = forest[i * m + c] - SKIP;
        way = TARGET_ON;
        onto = c;
      }
    forest[at] = best;
    forestWay[at] = best > 0 ? way : 0;
    forestOnto[at] = onto;
  }

  private fillTree(i: number, j: number): void {
    const { m, tree, treeWay, onto, forest } = this;
    const { source, target, worth } = this.a;
    const at = i * m + j;
    // Nothing of what lies below pairs with the bone itself: the forests alone.
    let best = forest[at];
    let way = FOREST;
    let on = -1;
    if (worth[at] > 0 && worth[at] + forest[at] > best) {
      best = worth[at] + forest[at];
      way = HERE;
    }
    for (const c of source[i])
      if (tree[c * m + j] - SKIP > best) {
        best = tree[c * m + j] - SKIP;
        way = SOURCE_ON;
        on = c;
      }
    for (const c of target[j])
      if (tree[i * m + c] - SKIP > best) {
        best = tree[i * m + c] - SKIP;
        way = TARGET_ON;
        on = c;
      }
    tree[at] = best;
    treeWay[at] = best > 0 ? way : 0;
    onto[at] = on;
  }

  private assignedWorth(x: readonly number[], y: readonly number[]): number {
    if (x.length === 0 || y.length === 0) return 0;
    const { tree, m } = this;
    if (x.length === 1 || y.length === 1) {
      let best = 0;
      for (const c of x) for (const d of y) if (tree[c * m + d] > best) best = tree[c * m + d];
      return best;
    }
    let sum = 0;
    for (const [c, d] of this.assigned(x, y)) sum += tree[c * m + d];
    return sum;
  }

  private assigned(x: readonly number[], y: readonly number[]): [number, number][] {
    const { tree, m } = this;
    if (x.length === 2 && y.length === 2) {
      const straight = tree[x[0] * m + y[0]] + tree[x[1] * m + y[1]];
      const crossed = tree[x[0] * m + y[1]] + tree[x[1] * m + y[0]];
      return straight >= crossed
        ? [
            [x[0], y[0]],
            [x[1], y[1]],
          ]
        : [
            [x[0], y[1]],
            [x[1], y[0]],
          ];
    }
    // What has nothing to give is left out first: of fifty branches a handful are in question.
    const xs = x.filter((c) => y.some((d) => tree[c * m + d] > 0));
    const ys = y.filter((d) => xs.some((c) => tree[c * m + d] > 0));
    return assignAll(xs.map((c) => ys.map((d) => tree[c * m + d]))).map(([i, j]) => [xs[i], ys[j]]);
  }

  pairs(): Int32Array {
    const { source, target, sourceOrder, targetOrder } = this.a;
    const out = new Int32Array(this.n).fill(-1);
    const roots = (children: readonly (readonly number[])[], order: readonly number[]) => {
      const below = new Set(children.flat());
      return order.filter((i) => !below.has(i));
    };
    const stack: { i: number; j: number; isForest: boolean }[] = this.assigned(
      roots(source, sourceOrder),
      roots(target, targetOrder),
    ).map(([i, j]) => ({ i, j, isForest: false }));
    while (stack.length > 0) {
      const { i, j, isForest } = stack.pop() as { i: number; j: number; isForest: boolean };
      const at = i * this.m + j;
      const way = isForest ? this.forestWay[at] : this.treeWay[at];
      const on = isForest ? this.forestOnto[at] : this.onto[at];
      if (way === SOURCE_ON) stack.push({ i: on, j, isForest });
      else if (way === TARGET_ON) stack.push({ i, j: on, isForest });
      else if (way === HERE) {
        out[i] = j;
        stack.push({ i, j, isForest: true });
      } else if (way === FOREST && !isForest) stack.push({ i, j, isForest: true });
      else if (way === FOREST)
        for (const [c, d] of this.assigned(source[i], target[j])) stack.push({ i: c, j: d, isForest: false });
    }
    return out;
  }
}

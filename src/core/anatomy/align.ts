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

/**
 * What it costs to pass over a bone below which others are paired: what lies between is missed less often
 * than ends.
 */
const SKIP = 0.2;

const HERE = 1;
const SOURCE_ON = 2;
const TARGET_ON = 3;
const FOREST = 4;

/**
 * The best mapping: for every source bone its target bone, or −1; and what all its pairs are worth together.
 * @param cells of an alignment of the same two trees before, to be written over
 */
export function alignTrees(
  alignment: Alignment,
  cells: Cells = makeCells(alignment.source.length, alignment.target.length),
): { readonly pairs: Int32Array; readonly worth: number } {
  const run = new Run(alignment, cells);
  run.fill();
  const pairs = run.pairs();
  let worth = 0;
  pairs.forEach((j, i) => {
    if (j >= 0) worth += alignment.worth[i * alignment.target.length + j];
  });
  return { pairs, worth };
}

/** Lists of children behind one another: those of i are list[start[i]] … list[start[i + 1]]. */
interface Flat {
  readonly start: Int32Array;
  readonly list: Int32Array;
}

function flat(children: readonly (readonly number[])[]): Flat {
  const start = new Int32Array(children.length + 1);
  children.forEach((child, i) => {
    start[i + 1] = start[i] + child.length;
  });
  return { start, list: Int32Array.from(children.flat()) };
}

/** What is found of every pair, source by target; made once for alignments of the same two trees. */
export interface Cells {
  readonly tree: Float64Array;
  readonly forest: Float64Array;
  readonly treeWay: Uint8Array;
  readonly forestWay: Uint8Array;
  readonly onto: Int32Array;
  readonly forestOnto: Int32Array;
}

export const makeCells = (source: number, target: number): Cells => ({
  tree: new Float64Array(source * target),
  forest: new Float64Array(source * target),
  treeWay: new Uint8Array(source * target),
  forestWay: new Uint8Array(source * target),
  onto: new Int32Array(source * target),
  forestOnto: new Int32Array(source * target),
});

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

  constructor(
    private readonly a: Alignment,
    cells: Cells,
  ) {
    this.n = a.source.length;
    this.m = a.target.length;
    for (const array of Object.values(cells)) (array as Float64Array).fill(0);
    this.tree = cells.tree;
    this.forest = cells.forest;
    this.treeWay = cells.treeWay;
    this.forestWay = cells.forestWay;
    this.onto = cells.onto;
    this.forestOnto = cells.forestOnto;
  }

  /** Every cell after those below it. One loop over flat arrays: three hundred bones make ninety thousand cells. */
  fill(): void {
    const { sourceOrder, targetOrder, source, target } = this.a;
    const [x, y] = [flat(source), flat(target)];
    for (let k = sourceOrder.length - 1; k >= 0; k--) {
      const i = sourceOrder[k];
      if (x.start[i] === x.start[i + 1]) this.fillLeafRow(i, targetOrder, y);
      else this.fillRow(i, targetOrder, x, y);
    }
  }

  /** Cells of a source bone without any below: the target bone itself, or one below it. */
  private fillLeafRow(i: number, targetOrder: readonly number[], { start, list }: Flat): void {
    const { m, tree, treeWay, onto } = this;
    const { worth } = this.a;
    const row = i * m;
    for (let level = targetOrder.length - 1; level >= 0; level--) {
      const j = targetOrder[level];
      let best = worth[row + j];
      let way = HERE;
      let on = -1;
      if (best <= 0) best = 0;
      for (let k = start[j]; k < start[j + 1]; k++) {
        const w = tree[row + list[k]] - SKIP;
        if (w <= best) continue;
        best = w;
        way = TARGET_ON;
        on = list[k];
      }
      if (best <= 0) continue;
      tree[row + j] = best;
      treeWay[row + j] = way;
      onto[row + j] = on;
    }
  }

  private fillRow(i: number, targetOrder: readonly number[], x: Flat, y: Flat): void {
    const { m, tree, treeWay, onto, forest, forestWay, forestOnto } = this;
    const { worth } = this.a;
    const [a0, a1] = [x.start[i], x.start[i + 1]];
    const row = i * m;
    for (let level = targetOrder.length - 1; level >= 0; level--) {
      const j = targetOrder[level];
      const at = row + j;
      const b0 = y.start[j];
      const b1 = y.start[j + 1];
      let below = 0;
      if (b0 < b1) {
        below = this.assignedWorth(i, j, x, y);
        let way = FOREST;
        let on = -1;
        for (let k = a0; k < a1; k++) {
          const w = forest[x.list[k] * m + j] - SKIP;
          if (w <= below) continue;
          below = w;
          way = SOURCE_ON;
          on = x.list[k];
        }
        for (let k = b0; k < b1; k++) {
          const w = forest[row + y.list[k]] - SKIP;
          if (w <= below) continue;
          below = w;
          way = TARGET_ON;
          on = y.list[k];
        }
        if (below > 0) {
          forest[at] = below;
          forestWay[at] = way;
          forestOnto[at] = on;
        }
      }
      // Where the bones do not pair, nothing of what lies below pairs with them: the forests alone.
      let best = below;
      let way = FOREST;
      let on = -1;
      if (worth[at] > 0) {
        best += worth[at];
        way = HERE;
      }
      for (let k = a0; k < a1; k++) {
        const w = tree[x.list[k] * m + j] - SKIP;
        if (w <= best) continue;
        best = w;
        way = SOURCE_ON;
        on = x.list[k];
      }
      for (let k = b0; k < b1; k++) {
        const w = tree[row + y.list[k]] - SKIP;
        if (w <= best) continue;
        best = w;
        way = TARGET_ON;
        on = y.list[k];
      }
      if (best <= 0) continue;
      tree[at] = best;
      treeWay[at] = way;
      onto[at] = on;
    }
  }

  private assignedWorth(i: number, j: number, x: Flat, y: Flat): number {
    const { tree, m } = this;
    const [a0, a1, b0, b1] = [x.start[i], x.start[i + 1], y.start[j], y.start[j + 1]];
    let best = 0;
    let any = 0;
    for (let k = a0; k < a1; k++) {
      const row = x.list[k] * m;
      for (let level = b0; level < b1; level++) {
        const w = tree[row + y.list[level]];
        if (w > 0) any++;
        if (w > best) best = w;
      }
    }
    if (any < 2 || a1 - a0 === 1 || b1 - b0 === 1) return best;
    let sum = 0;
    for (const [c, d] of this.assigned(this.a.source[i], this.a.target[j])) sum += tree[c * m + d];
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
    const xs = x.filter((bone) => y.some((d) => tree[bone * m + d] > 0));
    const ys = y.filter((d) => xs.some((bone) => tree[bone * m + d] > 0));
    return assignAll(xs.map((bone) => ys.map((d) => tree[bone * m + d]))).map(([i, j]) => [xs[i], ys[j]]);
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

/**
 * Least squares over the simplex: weights that are not negative and sum to one. A primal active-set method after Lawson
 * and Hanson (1974, *Solving Least Squares Problems*, chapter 23), with the sum as a Lagrange condition.
 */

/** What a multiplier may be below the others, as a share of the largest entry, before its weight is let in. */
const SLACK = 1e-12;

/** Weights below this are nothing. */
const NOTHING = 1e-12;

/** Solves for up to `most` weights at a time; its memory is used again and again. */
export class SimplexSolver {
  private readonly cholesky: Float64Array;
  private readonly a: Float64Array;
  private readonly b: Float64Array;
  private readonly trial: Float64Array;
  private readonly passive: Int32Array;
  private readonly all: Int32Array;
  private readonly rest: Int32Array;
  private readonly base: Float64Array;
  private count = 0;

  constructor(private readonly most: number) {
    this.cholesky = new Float64Array(most * most);
    this.a = new Float64Array(most);
    this.b = new Float64Array(most);
    this.trial = new Float64Array(most);
    this.passive = new Int32Array(most);
    this.rest = new Int32Array(most);
    this.base = new Float64Array(most);
    this.all = Int32Array.from({ length: most }, (_, i) => i);
  }

  /**
   * The w ≥ 0 with Σw = 1 for which wᵀQw − 2cᵀw is least.
   * @param q n × n, symmetric, positive definite
   * @param c n
   * @param w n, gets the weights
   */
  solve(q: Float64Array, c: Float64Array, n: number, w: Float64Array): void {
    this.among(q, c, n, this.all, n, w);
  }

  /**
   * The same with at most `limit` weights above nothing: the one that costs least is let go, again and again.
   */
  solveSparse(q: Float64Array, c: Float64Array, n: number, limit: number, w: Float64Array): void {
    this.solve(q, c, n, w);
    let on: number[] = [];
    for (let i = 0; i < n; i++) if (w[i] > NOTHING) on.push(i);
    const { rest, base } = this;
    while (on.length > limit) {
      base.set(w.subarray(0, n));
      let best = -1;
      let least = Infinity;
      const solveWithout = (out: number) => {
        const size = without(on, out, rest);
        this.beginWith(base, rest, size, n, w);
        this.goOn(q, c, n, rest, size, w);
      };
      for (const out of on) {
        solveWithout(out);
        const cost = costOf(q, c, n, w);
        if (cost >= least) continue;
        least = cost;
        best = out;
      }
      solveWithout(best);
      on = on.filter((i) => i !== best && w[i] > NOTHING);
    }
  }

  /** Begins with the weights that some of those had which summed to one, scaled until they do. */
  private beginWith(base: Float64Array, some: Int32Array, size: number, n: number, w: Float64Array): void {
    w.fill(0, 0, n);
    let sum = 0;
    for (let k = 0; k < size; k++) sum += base[some[k]];
    this.count = 0;
    for (let k = 0; k < size; k++) {
      w[some[k]] = base[some[k]] / sum;
      this.passive[this.count++] = some[k];
    }
  }

  /** Solves over the `size` indices of `allowed` alone; all others get nothing. */
  private among(
    q: Float64Array,
    c: Float64Array,
    n: number,
    allowed: Int32Array,
    size: number,
    w: Float64Array,
  ): void {
    w.fill(0, 0, n);
    let first = allowed[0];
    for (let k = 0; k < size; k++) {
      const i = allowed[k];
      if (q[i * n + i] - 2 * c[i] < q[first * n + first] - 2 * c[first]) first = i;
    }
    w[first] = 1;
    this.passive[0] = first;
    this.count = 1;
    this.goOn(q, c, n, allowed, size, w);
  }

  /** Lets weights in, one by one, from where the passive ones stand: those sum to one. */
  private goOn(
    q: Float64Array,
    c: Float64Array,
    n: number,
    allowed: Int32Array,
    size: number,
    w: Float64Array,
  ): void {
    let slack = 0;
    for (let k = 0; k < size; k++) slack = Math.max(slack, q[allowed[k] * n + allowed[k]]);
    slack *= SLACK;
    let entered = -1;
    for (let step = 0; step < 3 * size; step++) {
      const multiplier = this.settle(q, c, n, w);
      let next = -1;
      let least = multiplier - slack;
      for (let k = 0; k < size; k++) {
        const i = allowed[k];
        if (w[i] > 0) continue;
        let g = -c[i];
        for (let p = 0; p < this.count; p++) g += q[i * n + this.passive[p]] * w[this.passive[p]];
        if (g < least) {
          least = g;
          next = i;
        }
      }
      // What was let in and went at once would come and go for ever.
      if (next < 0 || (next === entered && w[next] === 0)) return;
      entered = next;
      this.passive[this.count++] = next;
    }
  }

  /** Brings the passive weights to their least; those that would fall below nothing leave. Returns the multiplier. */
  private settle(q: Float64Array, c: Float64Array, n: number, w: Float64Array): number {
    const { passive, trial } = this;
    for (;;) {
      const multiplier = this.solvePassive(q, c, n);
      let step = 1;
      for (let k = 0; k < this.count; k++) {
        const now = w[passive[k]];
        if (trial[k] <= NOTHING) step = Math.min(step, now / (now - trial[k] || 1));
      }
      if (step >= 1) {
        for (let k = 0; k < this.count; k++) w[passive[k]] = trial[k];
        return multiplier;
      }
      let kept = 0;
      for (let k = 0; k < this.count; k++) {
        const i = passive[k];
        const now = w[i] + step * (trial[k] - w[i]);
        if (now > NOTHING || this.count === 1) {
          w[i] = now;
          passive[kept++] = i;
        } else w[i] = 0;
      }
      this.count = kept;
    }
  }

  /** Q·x = c + λ·1 with Σx = 1 over the passive weights, by Cholesky; x into `trial`. Returns λ. */
  private solvePassive(q: Float64Array, c: Float64Array, n: number): number {
    const { cholesky: l, a, b, passive, trial, count: m } = this;
    for (let i = 0; i < m; i++) {
      for (let j = 0; j <= i; j++) {
        let sum = q[passive[i] * n + passive[j]];
        for (let k = 0; k < j; k++) sum -= l[i * m + k] * l[j * m + k];
        if (i === j) l[i * m + i] = Math.sqrt(Math.max(sum, 1e-300));
        else l[i * m + j] = sum / l[j * m + j];
      }
      let [x, y] = [c[passive[i]], 1];
      for (let k = 0; k < i; k++) {
        x -= l[i * m + k] * a[k];
        y -= l[i * m + k] * b[k];
      }
      a[i] = x / l[i * m + i];
      b[i] = y / l[i * m + i];
    }
    let [sumA, sumB] = [0, 0];
    for (let i = m - 1; i >= 0; i--) {
      let [x, y] = [a[i], b[i]];
      for (let k = i + 1; k < m; k++) {
        x -= l[k * m + i] * a[k];
        y -= l[k * m + i] * b[k];
      }
      a[i] = x / l[i * m + i];
      b[i] = y / l[i * m + i];
      sumA += a[i];
      sumB += b[i];
    }
    const lambda = (1 - sumA) / sumB;
    for (let i = 0; i < m; i++) trial[i] = a[i] + lambda * b[i];
    return lambda;
  }
}

function without(on: readonly number[], out: number, into: Int32Array): number {
  let size = 0;
  for (const i of on) if (i !== out) into[size++] = i;
  return size;
}

function costOf(q: Float64Array, c: Float64Array, n: number, w: Float64Array): number {
  let cost = 0;
  for (let i = 0; i < n; i++) {
    if (w[i] === 0) continue;
    let row = -2 * c[i];
    for (let j = 0; j < n; j++) row += q[i * n + j] * w[j];
    cost += w[i] * row;
  }
  return cost;
}

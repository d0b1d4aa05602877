/**
 * Least squares over the simplex: weights that are not negative and sum to one. A primal active-set method
 * after Lawson and Hanson (1974, *Solving Least Squares Problems*, chapter 23), with the sum as a Lagrange
 * condition.
 */

/** What a multiplier may be below the others, as a share of the largest entry, before its weight is let in. */
const SLACK = 1e-12;

/** Weights below this are nothing. */
const NOTHING = 1e-12;

/** Solves for up to `most` weights at a time; its memory is used again and again. */
export class SimplexSolver {
  /** Rows of the factor, `most` apart. */
  private readonly cholesky: Float64Array;
  /** How many of its rows hold for the passive weights as they are. */
  private factored = 0;
  /** c and 1 over the passive weights, halfway solved. */
  private readonly halfA: Float64Array;
  private readonly halfB: Float64Array;
  private readonly a: Float64Array;
  private readonly b: Float64Array;
  private readonly trial: Float64Array;
  private readonly passive: Int32Array;
  private readonly all: Int32Array;
  private readonly rest: Int32Array;
  private readonly base: Float64Array;
  private readonly column: Float64Array;
  private count = 0;

  constructor(private readonly most: number) {
    this.cholesky = new Float64Array(most * most);
    this.halfA = new Float64Array(most);
    this.halfB = new Float64Array(most);
    this.a = new Float64Array(most);
    this.b = new Float64Array(most);
    this.trial = new Float64Array(most);
    this.passive = new Int32Array(most);
    this.rest = new Int32Array(most);
    this.base = new Float64Array(most);
    this.column = new Float64Array(most);
    this.all = Int32Array.from({ length: most }, (_, i) => i);
  }

  /**
   * The w ≥ 0 with Σw = 1 for which wᵀQw − 2cᵀw is least.
   * @param q n × n, symmetric, positive definite
   * @param c n
   * @param w n, gets the weights
   */
  solve(q: Float64Array, c: Float64Array, n: number, w: Float64Array): void {
    w.fill(0, 0, n);
    let first = 0;
    for (let i = 1; i < n; i++) if (q[i * n + i] - 2 * c[i] < q[first * n + first] - 2 * c[first]) first = i;
    w[first] = 1;
    this.passive[0] = first;
    this.count = 1;
    this.factored = 0;
    this.goOn(q, c, n, this.all, n, w);
  }

  /**
   * The same with at most `limit` weights above nothing: the one without which the cost rises least is let
   * go, again and again.
   */
  solveSparse(q: Float64Array, c: Float64Array, n: number, limit: number, w: Float64Array): void {
    this.solve(q, c, n, w);
    const { passive, rest, base } = this;
    while (this.count > limit) {
      const out = this.leastMissed();
      let size = 0;
      for (let k = 0; k < this.count; k++) if (k !== out) rest[size++] = passive[k];
      base.set(w.subarray(0, n));
      this.beginWith(base, rest, size, n, w);
      this.goOn(q, c, n, rest, size, w);
    }
  }

  /**
   * Which of the passive weights the cost rises least without. Where the others are free it rises by the
   * square of the weight over its entry in the inverse of the conditions.
   */
  private leastMissed(): number {
    const { cholesky: l, b, column, most, count: m, trial } = this;
    let sum = 0;
    for (let i = 0; i < m; i++) sum += b[i];
    let best = 0;
    let least = Infinity;
    for (let i = 0; i < m; i++) {
      // The squares of a column of the factor's inverse are the entry in the inverse of Q.
      let entry = -(b[i] * b[i]) / sum;
      for (let r = i; r < m; r++) {
        let x = r === i ? 1 : 0;
        for (let k = i; k < r; k++) x -= l[r * most + k] * column[k];
        column[r] = x / l[r * most + r];
        entry += column[r] * column[r];
      }
      const rise = (trial[i] * trial[i]) / entry;
      if (rise >= least) continue;
      least = rise;
      best = i;
    }
    return best;
  }

  /** Begins with the weights that some of those had which summed to one, scaled until they do. */
  private beginWith(base: Float64Array, some: Int32Array, size: number, n: number, w: Float64Array): void {
    w.fill(0, 0, n);
    let sum = 0;
    for (let k = 0; k < size; k++) sum += base[some[k]];
    this.count = 0;
    this.factored = 0;
    for (let k = 0; k < size; k++) {
      w[some[k]] = base[some[k]] / sum;
      this.passive[this.count++] = some[k];
    }
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
    this.settle(q, c, n, w);
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
        } else {
          w[i] = 0;
          this.factored = Math.min(this.factored, kept);
        }
      }
      this.count = kept;
    }
  }

  /** Q·x = c + λ·1 with Σx = 1 over the passive weights, by Cholesky; x into `trial`. Returns λ. */
  private solvePassive(q: Float64Array, c: Float64Array, n: number): number {
    const { cholesky: l, halfA, halfB, a, b, most, trial, count: m } = this;
    // A weight that is let in stands last: the rows before its own stay.
    for (; this.factored < m; this.factored++) this.factorRow(q, c, n, this.factored);
    let sumA = 0;
    let sumB = 0;
    for (let i = m - 1; i >= 0; i--) {
      let x = halfA[i];
      let y = halfB[i];
      for (let k = i + 1; k < m; k++) {
        x -= l[k * most + i] * a[k];
        y -= l[k * most + i] * b[k];
      }
      a[i] = x / l[i * most + i];
      b[i] = y / l[i * most + i];
      sumA += a[i];
      sumB += b[i];
    }
    const lambda = (1 - sumA) / sumB;
    for (let i = 0; i < m; i++) trial[i] = a[i] + lambda * b[i];
    return lambda;
  }

  /** One row more of the factor, and of what is halfway solved by it. */
  private factorRow(q: Float64Array, c: Float64Array, n: number, i: number): void {
    const { cholesky: l, halfA, halfB, most, passive } = this;
    const row = i * most;
    let x = c[passive[i]];
    let y = 1;
    for (let j = 0; j < i; j++) {
      let sum = q[passive[i] * n + passive[j]];
      for (let k = 0; k < j; k++) sum -= l[row + k] * l[j * most + k];
      const entry = sum / l[j * most + j];
      l[row + j] = entry;
      x -= entry * halfA[j];
      y -= entry * halfB[j];
    }
    let pivot = q[passive[i] * n + passive[i]];
    for (let k = 0; k < i; k++) pivot -= l[row + k] * l[row + k];
    const root = Math.sqrt(Math.max(pivot, 1e-300));
    l[row + i] = root;
    halfA[i] = x / root;
    halfB[i] = y / root;
  }
}

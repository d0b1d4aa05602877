/**
 * How two carriers of points agree over poses: the sum over all poses of the product of where each of them
 * alone brings a point. For a pair of carriers that is a bilinear form of the points that they carry, so
 * that however many poses there are, a vertex costs sixteen products a pair.
 */

/** Numbers of a form: a matrix of four by four, for points (x, y, z, 1). */
const FORM = 16;

/**
 * The sums of pairs of carriers of two kinds, those of one point and after them those of another one. Each
 * sum is worked out when it is first asked for.
 */
export class Moments {
  private forms = new Float64Array(FORM * 1024);
  private count = 0;
  private readonly slots = new Map<number, number>();
  private readonly carriers: number;
  /** Products of the coordinates of the points at hand: of the first with itself, with the second, of the second. */
  private readonly products = [0, 1, 2].map(() => new Float64Array(FORM));

  /**
   * @param matrices what carries points: 12 a pose (three rows of four), carrier after carrier
   * @param poses how many each carrier has
   * @param first how many of the carriers carry the first point; the others carry the second
   */
  constructor(
    private readonly matrices: Float64Array,
    private readonly poses: number,
    private readonly first: number,
  ) {
    this.carriers = matrices.length / Math.max(1, poses * 12);
  }

  /** Takes the points (3 each, from the given places on) that are asked about from here on. */
  setPoints(a: Float32Array, atA: number, b: Float32Array, atB: number): void {
    const [aa, ab, bb] = this.products;
    for (let i = 0; i < 4; i++)
      for (let j = 0; j < 4; j++) {
        const [ai, aj] = [i < 3 ? a[atA + i] : 1, j < 3 ? a[atA + j] : 1];
        const [bi, bj] = [i < 3 ? b[atB + i] : 1, j < 3 ? b[atB + j] : 1];
        aa[i * 4 + j] = ai * aj;
        ab[i * 4 + j] = ai * bj;
        bb[i * 4 + j] = bi * bj;
      }
  }

  /** The sum over the poses of the product of where two carriers bring their points, metres². */
  product(i: number, j: number): number {
    const [a, b] = i < j ? [i, j] : [j, i];
    const slot = this.slotOf(a, b);
    const point = this.products[(a < this.first ? 0 : 1) + (b < this.first ? 0 : 1)];
    const { forms } = this;
    let sum = 0;
    for (let k = 0; k < FORM; k++) sum += forms[slot + k] * point[k];
    return sum;
  }

  /**
   * Adds, `share` times, what two carriers of the first point say of where that point should be at rest: the product of
   * their turning parts to `normal` (3 × 3, by rows), and what the shift of the second leaves to do to `right` (3).
   */
  addToRest(i: number, j: number, share: number, normal: Float64Array, right: Float64Array): void {
    const swapped = i > j;
    const slot = this.slotOf(i, j);
    const { forms } = this;
    for (let row = 0; row < 3; row++) {
      for (let corner = 0; corner < 3; corner++)
        normal[row * 3 + corner] += share * forms[slot + (swapped ? corner * 4 + row : row * 4 + corner)];
      right[row] -= share * forms[slot + (swapped ? 12 + row : row * 4 + 3)];
    }
  }

  /** Adds, `share` times, where a carrier of the second point brings it, seen by one of the first, to `right` (3). */
  addGoalToRest(
    i: number,
    goal: number,
    share: number,
    place: Float32Array,
    at: number,
    right: Float64Array,
  ): void {
    const slot = this.slotOf(i, goal);
    const { forms } = this;
    for (let blockRow = 0; blockRow < 3; blockRow++) {
      const row = slot + blockRow * 4;
      right[blockRow] +=
        share *
        (forms[row] * place[at] +
          forms[row + 1] * place[at + 1] +
          forms[row + 2] * place[at + 2] +
          forms[row + 3]);
    }
  }

  private slotOf(i: number, j: number): number {
    const [a, b] = i < j ? [i, j] : [j, i];
    return this.slots.get(a * this.carriers + b) ?? this.add(a, b);
  }

  private add(a: number, b: number): number {
    const slot = FORM * this.count++;
    if (slot + FORM > this.forms.length) {
      const larger = new Float64Array(this.forms.length * 2);
      larger.set(this.forms);
      this.forms = larger;
    }
    this.slots.set(a * this.carriers + b, slot);
    addForm(this.matrices, a * this.poses * 12, b * this.poses * 12, this.poses * 3, this.forms, slot);
    return slot;
  }
}

/** Adds up the products of the rows (four each) of two carriers. */
function addForm(
  matrix: Float64Array,
  a: number,
  b: number,
  rows: number,
  out: Float64Array,
  at: number,
): void {
  for (let row = 0; row < rows; row++)
    for (let i = 0; i < 4; i++)
      for (let j = 0; j < 4; j++) out[at + i * 4 + j] += matrix[a + row * 4 + i] * matrix[b + row * 4 + j];
}

/**
 * A k-d tree over points, for what lies near a place: the nearest, and all within a radius (Bentley 1975,
 * *Multidimensional Binary Search Trees*). Points are sorted in place about the median of the axis in which their box is
 * longest, down to leaves of a few, so that any distribution is served: a stray point far off costs one step more.
 * Building takes n·log n, a query log n and what it finds.
 */

/** Points in a leaf. */
const LEAF = 12;

/** Halves that may wait in a query: one a level, and no more levels than bits. */
const DEEPEST = 64;

/** Calls `visit` with a point and the square of its distance. */
export type VisitPoint = (point: number, squared: number) => void;

export class PointTree {
  /** Points in the order of the tree, those that are not finite left out, and their places in that order. */
  private readonly order: Uint32Array;
  private readonly places: Float64Array;
  /** Axis of the cut of every span, by its middle. */
  private readonly axes: Uint8Array;
  private readonly from = new Int32Array(DEEPEST);
  private readonly to = new Int32Array(DEEPEST);
  /** Square of the least distance from the place asked for to a waiting half. */
  private readonly gap = new Float64Array(DEEPEST);
  private lot = 1;

  /** @param points 3 per point, any unit; places that are not finite are never found */
  constructor(points: ArrayLike<number>) {
    const count = Math.floor(points.length / 3);
    const order = new Uint32Array(count);
    const places = new Float64Array(count * 3);
    let finite = 0;
    for (let p = 0; p < count; p++) {
      const [x, y, z] = [points[p * 3], points[p * 3 + 1], points[p * 3 + 2]];
      if (!Number.isFinite(x + y + z)) continue;
      order[finite] = p;
      places[finite * 3] = x;
      places[finite * 3 + 1] = y;
      places[finite * 3 + 2] = z;
      finite++;
    }
    this.order = order.subarray(0, finite);
    this.places = places.subarray(0, finite * 3);
    this.axes = new Uint8Array(finite);
    this.cut();
  }

  private cut(): void {
    const waiting = [0, this.order.length];
    while (waiting.length > 0) {
      const to = waiting.pop() as number;
      const from = waiting.pop() as number;
      if (to - from <= LEAF) continue;
      const middle = (from + to) >> 1;
      const axis = this.longestAxis(from, to);
      this.axes[middle] = axis;
      this.select(from, to - 1, middle, axis);
      waiting.push(from, middle, middle + 1, to);
    }
  }

  private longestAxis(from: number, to: number): number {
    const { places } = this;
    let longest = -1;
    let best = 0;
    for (let k = 0; k < 3; k++) {
      let low = Infinity;
      let high = -Infinity;
      for (let i = from; i < to; i++) {
        const x = places[i * 3 + k];
        if (x < low) low = x;
        if (x > high) high = x;
      }
      if (high - low <= longest) continue;
      longest = high - low;
      best = k;
    }
    return best;
  }

  /**
   * Hoare's selection: the point that belongs at `k` comes there, lower ones before it, higher ones behind. The pivot is the
   * middle one of three drawn by lot: of three fixed places, points in order with one stray in front take n² steps.
   */
  private select(from: number, to: number, k: number, axis: number): void {
    const { places } = this;
    let left = from;
    let right = to;
    while (left < right) {
      const count = right - left + 1;
      const pivot = median(
        places[(left + this.draw(count)) * 3 + axis],
        places[(left + this.draw(count)) * 3 + axis],
        places[(left + this.draw(count)) * 3 + axis],
      );
      let i = left;
      let j = right;
      while (i <= j) {
        while (places[i * 3 + axis] < pivot) i++;
        while (places[j * 3 + axis] > pivot) j--;
        if (i <= j) this.swap(i++, j--);
      }
      if (k <= j) right = j;
      else if (k >= i) left = i;
      else return;
    }
  }

  /** The next of a fixed series of lots, 0 … below − 1: the linear congruential generator of Numerical Recipes. */
  private draw(below: number): number {
    this.lot = (Math.imul(this.lot, 1664525) + 1013904223) >>> 0;
    return Math.floor((this.lot / 2 ** 32) * below);
  }

  private swap(i: number, j: number): void {
    if (i === j) return;
    const { order, places } = this;
    const point = order[i];
    order[i] = order[j];
    order[j] = point;
    for (let k = 0; k < 3; k++) {
      const x = places[i * 3 + k];
      places[i * 3 + k] = places[j * 3 + k];
      places[j * 3 + k] = x;
    }
  }

  /** Visits every point within `radius` of a place, in no particular order. */
  within(x: number, y: number, z: number, radius: number, visit: VisitPoint): void {
    if (!(radius >= 0)) return;
    const limit = radius * radius;
    this.walk(x, y, z, limit, (point, squared) => {
      visit(point, squared);
      return limit;
    });
  }

  /** The nearest point within `radius` of a place, the lowest of those that are equally near; −1 where there is none. */
  nearest(x: number, y: number, z: number, radius = Infinity): number {
    if (!(radius >= 0)) return -1;
    let found = -1;
    let best = radius * radius;
    this.walk(x, y, z, best, (point, squared) => {
      if (squared < best || found < 0 || point < found) {
        found = point;
        best = squared;
      }
      return best;
    });
    return found;
  }

  /** Tells of every point no farther than the square root of `limit`, which what is told may lower. */
  private walk(
    x: number,
    y: number,
    z: number,
    limit: number,
    tell: (point: number, squared: number) => number,
  ): void {
    const { order, places, axes, from, to, gap } = this;
    const place = [x, y, z];
    let most = limit;
    let waiting = 0;
    from[0] = 0;
    to[0] = order.length;
    gap[0] = 0;
    const look = (i: number) => {
      const dx = places[i * 3] - x;
      const dy = places[i * 3 + 1] - y;
      const dz = places[i * 3 + 2] - z;
      const squared = dx * dx + dy * dy + dz * dz;
      if (squared <= most) most = tell(order[i], squared);
    };
    while (waiting >= 0) {
      let start = from[waiting];
      let end = to[waiting];
      const least = gap[waiting--];
      if (least > most) continue;
      while (end - start > LEAF) {
        const middle = (start + end) >> 1;
        const axis = axes[middle];
        const beyond = place[axis] - places[middle * 3 + axis];
        look(middle);
        // The half on the other side of the cut waits, with how far off it is at least.
        waiting++;
        gap[waiting] = Math.max(least, beyond * beyond);
        if (beyond <= 0) {
          from[waiting] = middle + 1;
          to[waiting] = end;
          end = middle;
        } else {
          from[waiting] = start;
          to[waiting] = middle;
          start = middle + 1;
        }
      }
      for (let i = start; i < end; i++) look(i);
    }
  }
}

function median(a: number, b: number, c: number): number {
  return Math.max(Math.min(a, b), Math.min(Math.max(a, b), c));
}

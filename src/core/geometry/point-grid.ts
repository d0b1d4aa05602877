/**
 * A grid of cells over points, for what lies within one small distance of a place: the cells are a hash table, so that the extent
 * costs nothing (Teschner et al. 2003, *Optimized Spatial Hashing for Collision Detection of Deformable Objects*).
 */

/** Cells are at most so many times wider than the distance: most points then lie well inside one and ask that one alone. */
const WIDEST = 16;

/** And at least so many times, so that a place asks eight cells at most. */
const NARROWEST = 2;

/** Points that a cell holds about, of a surface as large as the box round them; a figure is smaller, its cells fuller. */
const FILL = 1;

export class PointGrid {
  /** Points in the order of their cells: those of cell `slot` are order[starts[slot]] … order[starts[slot + 1] − 1], ascending. */
  private readonly starts: Uint32Array;
  readonly order: Uint32Array;
  /** Places in that order. */
  private readonly places: Float32Array;
  private readonly mask: number;
  /** Cells in a unit of length. */
  private readonly per: number;
  private readonly asked = new Int32Array(8);

  /**
   * @param positions Float32Array, 3 per point
   * @param distance of what is to be found, in the same unit, above 0
   */
  constructor(
    positions: Float32Array,
    private readonly distance: number,
  ) {
    const count = positions.length / 3;
    let size = 16;
    while (size < count * 2) size *= 2;
    this.mask = size - 1;
    const wide = Math.min(distance * WIDEST, Math.sqrt((FILL * boxArea(positions)) / count) || Infinity);
    this.per = 1 / Math.max(wide, distance * NARROWEST);
    const slots = new Uint32Array(count);
    this.starts = new Uint32Array(size + 1);
    for (let point = 0; point < count; point++) {
      const x = Math.floor(positions[point * 3] * this.per);
      const y = Math.floor(positions[point * 3 + 1] * this.per);
      slots[point] = slotOf(x, y, Math.floor(positions[point * 3 + 2] * this.per), this.mask);
      this.starts[slots[point] + 1]++;
    }
    for (let slot = 0; slot < size; slot++) this.starts[slot + 1] += this.starts[slot];
    this.order = new Uint32Array(count);
    this.places = new Float32Array(count * 3);
    const next = this.starts.slice(0, size);
    for (let point = 0; point < count; point++) {
      const at = next[slots[point]]++;
      this.order[at] = point;
      for (let k = 0; k < 3; k++) this.places[at * 3 + k] = positions[point * 3 + k];
    }
  }

  /** Visits every point within the distance of a place, with the square of how far it is. */
  near(x: number, y: number, z: number, visit: (point: number, squared: number) => void): void {
    this.visitAround(x, y, z, visit, -1);
  }

  /** Visits every pair of points within the distance of each other once, the lower first. */
  pairs(visit: (lower: number, higher: number) => void): void {
    const { places, order, starts, distance } = this;
    const limit = distance * distance;
    let at = 0;
    const tell = (point: number) => {
      if (point < at) visit(point, at);
    };
    for (let slot = 0; slot + 1 < starts.length; slot++) {
      const end = starts[slot + 1];
      for (let i = starts[slot]; i < end; i++) {
        const x = places[i * 3];
        const y = places[i * 3 + 1];
        const z = places[i * 3 + 2];
        // Within a cell they stand in their order: each meets those after it.
        for (let j = i + 1; j < end; j++) {
          const ex = places[j * 3] - x;
          const ey = places[j * 3 + 1] - y;
          const ez = places[j * 3 + 2] - z;
          if (ex * ex + ey * ey + ez * ez <= limit) visit(order[i], order[j]);
        }
        at = order[i];
        this.visitAround(x, y, z, tell, slot);
      }
    }
  }

  /** @param except a cell that is left out */
  private visitAround(
    x: number,
    y: number,
    z: number,
    visit: (point: number, squared: number) => void,
    except: number,
  ): void {
    const { places, order, starts, distance, per, asked, mask } = this;
    const limit = distance * distance;
    const x0 = Math.floor((x - distance) * per);
    const y0 = Math.floor((y - distance) * per);
    const z0 = Math.floor((z - distance) * per);
    // Counted, not stepped: far from the origin a cell's number may be too large to be stepped by one.
    const nx = Math.min(1, Math.floor((x + distance) * per) - x0);
    const ny = Math.min(1, Math.floor((y + distance) * per) - y0);
    const nz = Math.min(1, Math.floor((z + distance) * per) - z0);
    if (except >= 0 && nx + ny + nz === 0) return;
    let count = 0;
    for (let a = 0; a <= nx; a++)
      for (let b = 0; b <= ny; b++)
        for (let c = 0; c <= nz; c++) {
          const slot = slotOf(x0 + a, y0 + b, z0 + c, mask);
          let isAsked = slot === except;
          for (let k = 0; k < count; k++) if (asked[k] === slot) isAsked = true;
          if (isAsked) continue;
          asked[count++] = slot;
          for (let i = starts[slot]; i < starts[slot + 1]; i++) {
            const ex = places[i * 3] - x;
            const ey = places[i * 3 + 1] - y;
            const ez = places[i * 3 + 2] - z;
            const squared = ex * ex + ey * ey + ez * ez;
            if (squared <= limit) visit(order[i], squared);
          }
        }
  }
}

/** Cells in a row along x follow each other, so that those round a place lie together in memory; rows are scattered. */
const slotOf = (x: number, y: number, z: number, mask: number): number => {
  const row = Math.imul(y, 19_349_663) ^ Math.imul(z, 83_492_791);
  return (x + (row ^ (row >>> 13))) & mask;
};

/** The area of the box round the points. */
function boxArea(positions: Float32Array): number {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < positions.length; i += 3)
    for (let k = 0; k < 3; k++) {
      const x = positions[i + k];
      if (x < low[k]) low[k] = x;
      if (x > high[k]) high[k] = x;
    }
  const [a, b, c] = low.map((least, k) => high[k] - least);
  return 2 * (a * b + b * c + c * a);
}

/**
 * Visits every pair of different points closer than `distance`, each once.
 * @param positions Float32Array, 3 per point
 */
export function forClosePairs(
  positions: Float32Array,
  distance: number,
  visit: (a: number, b: number) => void,
): void {
  if (positions.length === 0 || !(distance > 0)) return;
  new PointGrid(positions, distance).pairs(visit);
}

/**
 * How far each place is from the nearest of some points; Infinity where none is within `distance`.
 * @param points Float32Array, 3 per point
 * @param places Float32Array, 3 per place, in the same space
 */
export function nearestWithin(points: Float32Array, places: Float32Array, distance: number): Float32Array {
  const out = new Float32Array(places.length / 3).fill(Infinity);
  if (points.length === 0 || !(distance > 0)) return out;
  const grid = new PointGrid(points, distance);
  let least = Infinity;
  const keep = (_: number, squared: number) => {
    if (squared < least) least = squared;
  };
  for (let i = 0; i < out.length; i++) {
    least = Infinity;
    grid.near(places[i * 3], places[i * 3 + 1], places[i * 3 + 2], keep);
    out[i] = Math.sqrt(least);
  }
  return out;
}

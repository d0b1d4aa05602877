/** Vertices gathered to the points they share. */
export interface Weld {
  readonly pointOfVertex: Uint32Array;
  readonly pointCount: number;
  /** One vertex of every point. */ readonly vertexOfPoint: Uint32Array;
}

/**
 * Gathers the vertices that stand at exactly the same place into points: a file splits one point into several
 * vertices wherever a texture seam, a hard edge or a material border runs. Topology works on points.
 * @param positions Float32Array, 3 per vertex
 */
export function weldExact(positions: Float32Array): Weld {
  const n = positions.length / 3;
  let size = 16;
  while (size < n * 2) size *= 2;
  const table = new Int32Array(size).fill(-1);
  const plain = new Float32Array(positions.length);
  for (let i = 0; i < plain.length; i++) plain[i] = positions[i] + 0; // x + 0 turns −0 into 0
  const bits = new Int32Array(plain.buffer);
  const pointOfVertex = new Uint32Array(n);
  const vertexOfPoint = new Uint32Array(n);
  let pointCount = 0;
  for (let v = 0; v < n; v++) {
    const i = v * 3;
    const a = bits[i];
    const b = bits[i + 1];
    const c = bits[i + 2];
    let h = Math.imul(a, 73856093) ^ Math.imul(b, 19349663) ^ Math.imul(c, 83492791);
    h = (h ^ (h >>> 15)) & (size - 1);
    for (;;) {
      const point = table[h];
      if (point < 0) {
        table[h] = pointCount;
        vertexOfPoint[pointCount] = v;
        pointOfVertex[v] = pointCount++;
        break;
      }
      const j = vertexOfPoint[point] * 3;
      if (bits[j] === a && bits[j + 1] === b && bits[j + 2] === c) {
        pointOfVertex[v] = point;
        break;
      }
      h = (h + 1) & (size - 1);
    }
  }
  return { pointOfVertex, pointCount, vertexOfPoint: vertexOfPoint.slice(0, pointCount) };
}

/**
 * Cells are so many times wider than the distance asked for: most points then lie well inside one and ask
 * that one alone.
 */
const CELL = 16;

/**
 * Visits every pair of different points closer than `distance`, each once, through a grid of cells.
 * @param positions Float32Array, 3 per point
 */
export function forClosePairs(
  positions: Float32Array,
  distance: number,
  visit: (a: number, b: number) => void,
): void {
  const n = positions.length / 3;
  if (n === 0 || !(distance > 0)) return;
  let size = 16;
  while (size < n * 2) size *= 2;
  const head = new Int32Array(size).fill(-1);
  const next = new Int32Array(n).fill(-1);
  const per = 1 / (distance * CELL);
  const mask = size - 1;
  const limit = distance * distance;
  const seen = new Int32Array(8);
  for (let p = 0; p < n; p++) {
    const x = positions[p * 3];
    const y = positions[p * 3 + 1];
    const z = positions[p * 3 + 2];
    const x0 = Math.floor((x - distance) * per);
    const x1 = Math.floor((x + distance) * per);
    const y0 = Math.floor((y - distance) * per);
    const y1 = Math.floor((y + distance) * per);
    const z0 = Math.floor((z - distance) * per);
    const z1 = Math.floor((z + distance) * per);
    // Counted, not stepped: far from the origin a cell's number may be too large to be stepped by one.
    const nx = Math.min(1, x1 - x0);
    const ny = Math.min(1, y1 - y0);
    const nz = Math.min(1, z1 - z0);
    let visited = 0;
    for (let a = 0; a <= nx; a++) {
      for (let b = 0; b <= ny; b++) {
        for (let c = 0; c <= nz; c++) {
          const s = slotOf(x0 + a, y0 + b, z0 + c, mask);
          let known = false;
          for (let k = 0; k < visited; k++) if (seen[k] === s) known = true;
          if (known) continue;
          seen[visited++] = s;
          for (let q = head[s]; q >= 0; q = next[q]) {
            const ex = positions[q * 3] - x;
            const ey = positions[q * 3 + 1] - y;
            const ez = positions[q * 3 + 2] - z;
            if (ex * ex + ey * ey + ez * ez <= limit) visit(q, p);
          }
        }
      }
    }
    const s = slotOf(Math.floor(x * per), Math.floor(y * per), Math.floor(z * per), mask);
    next[p] = head[s];
    head[s] = p;
  }
}

const slotOf = (x: number, y: number, z: number, mask: number): number => {
  const h = Math.imul(x, 73_856_093) ^ Math.imul(y, 19_349_663) ^ Math.imul(z, 83_492_791);
  return (h ^ (h >>> 13)) & mask;
};

/** Union-find over n items: `find` gives the smallest member of an item's group. */
export class Groups {
  private readonly parent: Uint32Array;
  constructor(n: number) {
    this.parent = Uint32Array.from({ length: n }, (_, i) => i);
  }
  find(a: number): number {
    const p = this.parent;
    while (p[a] !== a) {
      p[a] = p[p[a]];
      a = p[a];
    }
    return a;
  }
  join(a: number, b: number): void {
    const x = this.find(a);
    const y = this.find(b);
    if (x < y) this.parent[y] = x;
    else this.parent[x] = y;
  }
}

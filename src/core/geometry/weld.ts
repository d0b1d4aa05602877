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

/** Union-find over n items: `find` gives the smallest member of an item's group. */
export class Groups {
  private readonly parent: Uint32Array;
  constructor(n: number) {
    this.parent = new Uint32Array(n).map((_, i) => i);
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

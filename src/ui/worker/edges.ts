/** Beyond this angle between its two faces an edge is sharp. */
const SHARP = Math.cos((50 * Math.PI) / 180);

/** Edges between points, each once, in flat arrays: a mesh of a million vertices has two million of them. */
export class EdgeTable {
  private readonly mask: number;
  private readonly table: Int32Array;
  private readonly ends: Uint32Array;
  private readonly drawn: Uint32Array;
  /** Polygon of an edge that has been met once, −1 of a smooth one, −2 of a sharp one. */
  private readonly state: Int32Array;
  private count = 0;

  /** @param facing unit normals of the polygons, 3 each */
  constructor(
    most: number,
    private readonly facing: Float32Array,
  ) {
    let size = 16;
    while (size < most * 1.6) size *= 2;
    this.mask = size - 1;
    this.table = new Int32Array(size).fill(-1);
    this.ends = new Uint32Array(most * 2);
    this.drawn = new Uint32Array(most * 2);
    this.state = new Int32Array(most);
  }

  /** An edge of a polygon between the points `pa` and `pb`, drawn between the vertices `v` and `w`. */
  add(pa: number, pb: number, value: number, weight: number, polygon: number): void {
    const a = pa < pb ? pa : pb;
    const b = pa < pb ? pb : pa;
    let h = Math.imul(a, 73_856_093) ^ Math.imul(b, 19_349_663);
    h = (h ^ (h >>> 15)) & this.mask;
    for (;;) {
      const e = this.table[h];
      if (e < 0) {
        this.keep(h, a, b, value, weight, polygon);
        return;
      }
      if (this.ends[e * 2] === a && this.ends[e * 2 + 1] === b) {
        if (this.state[e] >= 0) this.state[e] = this.isSharp(polygon, this.state[e]) ? -2 : -1;
        return;
      }
      h = (h + 1) & this.mask;
    }
  }

  private keep(h: number, a: number, b: number, value: number, weight: number, polygon: number): void {
    const at = this.count++;
    this.table[h] = at;
    this.ends[at * 2] = a;
    this.ends[at * 2 + 1] = b;
    this.drawn[at * 2] = value;
    this.drawn[at * 2 + 1] = weight;
    this.state[at] = polygon;
  }

  private isSharp(p: number, q: number): boolean {
    const facing = this.facing;
    return (
      facing[p * 3] * facing[q * 3] +
        facing[p * 3 + 1] * facing[q * 3 + 1] +
        facing[p * 3 + 2] * facing[q * 3 + 2] <
      SHARP
    );
  }

  /** All edges, those that are sharp or have one face only first. */
  edges(): { edges: Uint32Array; creases: number } {
    const edges = new Uint32Array(this.count * 2);
    let first = 0;
    let last = this.count;
    for (let entry = 0; entry < this.count; entry++) {
      const at = this.state[entry] === -1 ? --last : first++;
      edges[at * 2] = this.drawn[entry * 2];
      edges[at * 2 + 1] = this.drawn[entry * 2 + 1];
    }
    return { edges, creases: first };
  }
}

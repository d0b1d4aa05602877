/**
 * Control cages: quads with skin weights at every corner, smoothed together with the shape by Catmull–Clark
 * subdivision.
 */

export type Point = readonly [number, number, number];
export type Weights = Readonly<Record<string, number>>;

export interface Cage {
  readonly points: Point[];
  readonly weights: Weights[];
  /** Corners counter-clockwise from outside, with the name of the material. */
  readonly faces: { readonly corners: readonly number[]; readonly material: string }[];
}

export class CageBuilder implements Cage {
  readonly points: Point[] = [];
  readonly weights: Weights[] = [];
  readonly faces: { corners: number[]; material: string }[] = [];

  point(p: Point, weights: Weights): number {
    this.weights.push(weights);
    return this.points.push(p) - 1;
  }

  face(corners: number[], material: string): void {
    this.faces.push({ corners, material });
  }

  /**
   * Quads between two rings of the same size; closed runs all the way round. `skip` leaves out the quads
   * between columns k and k + 1.
   */
  bridge(
    lower: readonly number[],
    upper: readonly number[],
    material: string,
    closed = true,
    skip: (k: number) => boolean = () => false,
  ): void {
    const n = lower.length;
    for (let k = 0; k < (closed ? n : n - 1); k++) {
      if (skip(k)) continue;
      const l = (k + 1) % n;
      this.face([lower[k], lower[l], upper[l], upper[k]], material);
    }
  }

  /**
   * Fills a ring of 2·(w + h) points with w × h quads; the points inside are made by `inside(u, v)`, 0 … 1.
   */
  fill(
    ring: readonly number[],
    w: number,
    h: number,
    material: string,
    inside: (u: number, v: number) => Point,
    weights: Weights,
    outward: boolean,
  ): void {
    const grid: number[][] = Array.from({ length: h + 1 }, () => new Array<number>(w + 1).fill(-1));
    let k = 0;
    for (let i = 0; i <= w; i++) grid[0][i] = ring[k++];
    for (let j = 1; j <= h; j++) grid[j][w] = ring[k++];
    for (let i = w - 1; i >= 0; i--) grid[h][i] = ring[k++];
    for (let j = h - 1; j >= 1; j--) grid[j][0] = ring[k++];
    for (let j = 1; j < h; j++)
      for (let i = 1; i < w; i++) grid[j][i] = this.point(inside(i / w, j / h), weights);
    for (let j = 0; j < h; j++) {
      for (let i = 0; i < w; i++) {
        const q = [grid[j][i], grid[j][i + 1], grid[j + 1][i + 1], grid[j + 1][i]];
        this.face(outward ? q : q.reverse(), material);
      }
    }
  }
}

/** The cage and its mirror image at x = 0, joined along the middle. Sides in bone names are exchanged. */
export function mirror(cage: Cage, other: (bone: string) => string): Cage {
  const out = new CageBuilder();
  cage.points.forEach((p, i) => out.point(Math.abs(p[0]) < 1e-9 ? [0, p[1], p[2]] : p, cage.weights[i]));
  const twin = cage.points.map((p, i) => {
    const flipped = Object.fromEntries(Object.entries(cage.weights[i]).map(([b, w]) => [other(b), w]));
    if (Math.abs(p[0]) < 1e-9) {
      out.weights[i] = halve(cage.weights[i], flipped);
      return i;
    }
    return out.point([-p[0], p[1], p[2]], flipped);
  });
  for (const f of cage.faces) {
    out.face([...f.corners], f.material);
    out.face(f.corners.map((c) => twin[c]).reverse(), f.material);
  }
  return out;
}

function halve(a: Weights, b: Weights): Weights {
  const out: Record<string, number> = {};
  for (const w of [a, b]) for (const [k, x] of Object.entries(w)) out[k] = (out[k] ?? 0) + x / 2;
  return out;
}

/** Two cages in one. */
export function joinCharacters(cages: readonly Cage[]): Cage {
  const out = new CageBuilder();
  for (const c of cages) {
    const start = out.points.length;
    c.points.forEach((p, i) => out.point(p, c.weights[i]));
    for (const f of c.faces)
      out.face(
        f.corners.map((k) => k + start),
        f.material,
      );
  }
  return out;
}

/**
 * One step of Catmull–Clark subdivision (1978) with the usual rules for open borders; weights follow the same
 * masks as places, so that a half-and-half ring spreads evenly over a joint.
 */
export function subdivide(cage: Cage): Cage {
  const bones = [...new Set(cage.weights.flatMap((w) => Object.keys(w)))];
  const old = cage.points.map((p, i) =>
    Float64Array.from([...p, ...bones.map((b) => cage.weights[i][b] ?? 0)]),
  );
  const width = 3 + bones.length;
  const rows: Float64Array[] = old.map(() => new Float64Array(width));
  const faceRow = cage.faces.map((f) => {
    const r = new Float64Array(width);
    for (const c of f.corners) add(r, old[c], 1 / f.corners.length);
    return r;
  });
  const faceIndex = faceRow.map((r) => rows.push(r) - 1);
  const edges = edgesOf(cage);
  for (const e of edges.values()) {
    const r = new Float64Array(width);
    const isBorder = e.faces.length !== 2;
    add(r, old[e.a], isBorder ? 0.5 : 0.25);
    add(r, old[e.b], isBorder ? 0.5 : 0.25);
    if (!isBorder) for (const f of e.faces) add(r, faceRow[f], 0.25);
    e.index = rows.push(r) - 1;
  }
  moveOldPoints(cage, old, faceRow, edges, rows);
  const faces = cage.faces.flatMap((f, fi) =>
    f.corners.map((c, k) => {
      const m = f.corners.length;
      const edge = (other: number) => (edges.get(keyOf(c, f.corners[other % m], old.length)) as Edge).index;
      return { corners: [c, edge(k + 1), faceIndex[fi], edge(k + m - 1)], material: f.material };
    }),
  );
  return {
    points: rows.map((r) => [r[0], r[1], r[2]] as const),
    weights: rows.map((r) =>
      Object.fromEntries(bones.flatMap((b, k) => (r[3 + k] > 1e-5 ? [[b, r[3 + k]]] : []))),
    ),
    faces,
  };
}

function add(to: Float64Array, from: Float64Array, f: number): void {
  for (let k = 0; k < to.length; k++) to[k] += from[k] * f;
}

interface Edge {
  readonly a: number;
  readonly b: number;
  readonly faces: number[];
  /** The row of the point that stands in its middle. */
  index: number;
}

function edgesOf(cage: Cage): Map<number, Edge> {
  const edges = new Map<number, Edge>();
  cage.faces.forEach((f, fi) =>
    f.corners.forEach((a, k) => {
      const b = f.corners[(k + 1) % f.corners.length];
      const key = keyOf(a, b, cage.points.length);
      const e = edges.get(key);
      if (e) e.faces.push(fi);
      else edges.set(key, { a, b, faces: [fi], index: -1 });
    }),
  );
  return edges;
}

/** The points that were there, by the masks of faces, edges and, on an open border, of the border alone. */
function moveOldPoints(
  cage: Cage,
  old: readonly Float64Array[],
  faceRow: readonly Float64Array[],
  edges: ReadonlyMap<number, Edge>,
  rows: readonly Float64Array[],
): void {
  const width = rows[0]?.length ?? 0;
  const valence = new Uint16Array(old.length);
  const rim = new Uint8Array(old.length);
  const sums = old.map(() => ({
    faces: new Float64Array(width),
    edges: new Float64Array(width),
    border: new Float64Array(width),
    faceCount: 0,
  }));
  for (const e of edges.values()) {
    for (const [v, w] of [
      [e.a, e.b],
      [e.b, e.a],
    ]) {
      valence[v]++;
      add(sums[v].edges, old[v], 0.5);
      add(sums[v].edges, old[w], 0.5);
      if (e.faces.length === 2) continue;
      rim[v]++;
      add(sums[v].border, old[w], 1);
    }
  }
  cage.faces.forEach((f, fi) =>
    f.corners.forEach((c) => {
      add(sums[c].faces, faceRow[fi], 1);
      sums[c].faceCount++;
    }),
  );
  for (let v = 0; v < old.length; v++) {
    if (rim[v] >= 2) {
      add(rows[v], old[v], 0.75);
      add(rows[v], sums[v].border, 0.25 / rim[v]);
      continue;
    }
    const k = valence[v] || 1;
    add(rows[v], sums[v].faces, 1 / (k * (sums[v].faceCount || 1)));
    add(rows[v], sums[v].edges, 2 / (k * k));
    add(rows[v], old[v], (k - 3) / k);
  }
}

const keyOf = (a: number, b: number, n: number) => Math.min(a, b) * n + Math.max(a, b);

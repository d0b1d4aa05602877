/** Control cages: quads with skin weights at every corner, smoothed together with the shape by Catmull–Clark subdivision. */

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

  /** Quads between two rings of the same size; closed runs all the way round. `skip` leaves out the quads between columns k and k + 1. */
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

  /** Fills a ring of 2·(w + h) points with w × h quads; the points inside are made by `inside(u, v)`, 0 … 1. */
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
export function mirrored(cage: Cage, other: (bone: string) => string): Cage {
  const out = new CageBuilder();
  cage.points.forEach((p, i) => out.point(Math.abs(p[0]) < 1e-9 ? [0, p[1], p[2]] : p, cage.weights[i]));
  const twin = cage.points.map((p, i) => {
    const flipped = Object.fromEntries(Object.entries(cage.weights[i]).map(([b, w]) => [other(b), w]));
    if (Math.abs(p[0]) < 1e-9) {
      out.weights[i] = halved(cage.weights[i], flipped);
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

function halved(a: Weights, b: Weights): Weights {
  const out: Record<string, number> = {};
  for (const w of [a, b]) for (const [k, x] of Object.entries(w)) out[k] = (out[k] ?? 0) + x / 2;
  return out;
}

/** Two cages in one. */
export function joined(cages: readonly Cage[]): Cage {
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
 * One step of Catmull–Clark subdivision (1978) with the usual rules for open borders; weights follow the same masks as
 * places, so that a half-and-half ring spreads evenly over a joint.
 */
export function subdivided(cage: Cage): Cage {
  const bones = [...new Set(cage.weights.flatMap((w) => Object.keys(w)))];
  const width = 3 + bones.length;
  const row = (i: number) => {
    const r = new Float64Array(width);
    r.set(cage.points[i]);
    bones.forEach((b, k) => {
      r[3 + k] = cage.weights[i][b] ?? 0;
    });
    return r;
  };
  const old = cage.points.map((_, i) => row(i));
  const n = old.length;
  const rows: Float64Array[] = old.map(() => new Float64Array(width));
  const add = (to: Float64Array, from: Float64Array, f: number) => {
    for (let k = 0; k < width; k++) to[k] += from[k] * f;
  };
  const faceRow = cage.faces.map((f) => {
    const r = new Float64Array(width);
    for (const c of f.corners) add(r, old[c], 1 / f.corners.length);
    return r;
  });
  const edges = new Map<number, { a: number; b: number; faces: number[]; index: number }>();
  cage.faces.forEach((f, fi) =>
    f.corners.forEach((a, k) => {
      const b = f.corners[(k + 1) % f.corners.length];
      const key = Math.min(a, b) * n + Math.max(a, b);
      const e = edges.get(key);
      if (e) e.faces.push(fi);
      else edges.set(key, { a, b, faces: [fi], index: -1 });
    }),
  );
  const faceIndex = faceRow.map((r) => rows.push(r) - 1);
  const valence = new Uint16Array(n);
  const rim = new Uint8Array(n);
  const sums = old.map(() => ({
    faces: new Float64Array(width),
    edges: new Float64Array(width),
    border: new Float64Array(width),
    faceCount: 0,
  }));
  for (const e of edges.values()) {
    const r = new Float64Array(width);
    if (e.faces.length === 2) {
      add(r, old[e.a], 0.25);
      add(r, old[e.b], 0.25);
      add(r, faceRow[e.faces[0]], 0.25);
      add(r, faceRow[e.faces[1]], 0.25);
    } else {
      add(r, old[e.a], 0.5);
      add(r, old[e.b], 0.5);
    }
    e.index = rows.push(r) - 1;
    for (const [v, w] of [
      [e.a, e.b],
      [e.b, e.a],
    ]) {
      valence[v]++;
      add(sums[v].edges, old[v], 0.5);
      add(sums[v].edges, old[w], 0.5);
      if (e.faces.length !== 2) {
        rim[v]++;
        add(sums[v].border, old[w], 1);
      }
    }
  }
  cage.faces.forEach((f, fi) =>
    f.corners.forEach((c) => {
      add(sums[c].faces, faceRow[fi], 1);
      sums[c].faceCount++;
    }),
  );
  for (let v = 0; v < n; v++) {
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
  const faces: { corners: number[]; material: string }[] = [];
  cage.faces.forEach((f, fi) =>
    f.corners.forEach((c, k) => {
      const m = f.corners.length;
      const next = edges.get(keyOf(c, f.corners[(k + 1) % m], n))!.index;
      const last = edges.get(keyOf(c, f.corners[(k + m - 1) % m], n))!.index;
      faces.push({ corners: [c, next, faceIndex[fi], last], material: f.material });
    }),
  );
  return {
    points: rows.map((r) => [r[0], r[1], r[2]] as const),
    weights: rows.map((r) => {
      const w: Record<string, number> = {};
      bones.forEach((b, k) => {
        if (r[3 + k] > 1e-5) w[b] = r[3 + k];
      });
      return w;
    }),
    faces,
  };
}

const keyOf = (a: number, b: number, n: number) => Math.min(a, b) * n + Math.max(a, b);

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
    const count = lower.length;
    for (let k = 0; k < (closed ? count : count - 1); k++) {
      if (skip(k)) continue;
      const l = (k + 1) % count;
      this.face([lower[k], lower[l], upper[l], upper[k]], material);
    }
  }

  /**
   * Fills a ring of 2·(w + h) points with w × h quads; the points inside are made by `inside(u, v)`, 0 … 1.
   */
  fill(
    ring: readonly number[],
    weight: number,
    h: number,
    material: string,
    inside: (share: number, vertex: number) => Point,
    weights: Weights,
    outward: boolean,
  ): void {
    const grid: number[][] = Array.from({ length: h + 1 }, () => new Array<number>(weight + 1).fill(-1));
    let k = 0;
    for (let i = 0; i <= weight; i++) grid[0][i] = ring[k++];
    for (let j = 1; j <= h; j++) grid[j][weight] = ring[k++];
    for (let i = weight - 1; i >= 0; i--) grid[h][i] = ring[k++];
    for (let j = h - 1; j >= 1; j--) grid[j][0] = ring[k++];
    for (let j = 1; j < h; j++)
      for (let i = 1; i < weight; i++) grid[j][i] = this.point(inside(i / weight, j / h), weights);
    for (let j = 0; j < h; j++) {
      for (let i = 0; i < weight; i++) {
        const rotation = [grid[j][i], grid[j][i + 1], grid[j + 1][i + 1], grid[j + 1][i]];
        this.face(outward ? rotation : rotation.reverse(), material);
      }
    }
  }
}

/** The cage and its mirror image at x = 0, joined along the middle. Sides in bone names are exchanged. */
export function mirror(cage: Cage, other: (bone: string) => string): Cage {
  const out = new CageBuilder();
  cage.points.forEach((point, i) =>
    out.point(Math.abs(point[0]) < 1e-9 ? [0, point[1], point[2]] : point, cage.weights[i]),
  );
  const twin = cage.points.map((point, i) => {
    const flipped = Object.fromEntries(
      Object.entries(cage.weights[i]).map(([key, weight]) => [other(key), weight]),
    );
    if (Math.abs(point[0]) < 1e-9) {
      out.weights[i] = halve(cage.weights[i], flipped);
      return i;
    }
    return out.point([-point[0], point[1], point[2]], flipped);
  });
  for (const face of cage.faces) {
    out.face([...face.corners], face.material);
    out.face(face.corners.map((corner) => twin[corner]).reverse(), face.material);
  }
  return out;
}

function halve(a: Weights, b: Weights): Weights {
  const out: Record<string, number> = {};
  for (const w of [a, b]) for (const [key, x] of Object.entries(w)) out[key] = (out[key] ?? 0) + x / 2;
  return out;
}

/** Two cages in one. */
export function joinCharacters(cages: readonly Cage[]): Cage {
  const out = new CageBuilder();
  for (const cage of cages) {
    const start = out.points.length;
    cage.points.forEach((point, i) => out.point(point, cage.weights[i]));
    for (const face of cage.faces)
      out.face(
        face.corners.map((k) => k + start),
        face.material,
      );
  }
  return out;
}

/**
 * One step of Catmull–Clark subdivision (1978) with the usual rules for open borders; weights follow the same
 * masks as places, so that a half-and-half ring spreads evenly over a joint.
 */
export function subdivide(cage: Cage): Cage {
  const bones = [...new Set(cage.weights.flatMap((weight) => Object.keys(weight)))];
  const old = cage.points.map((point, i) =>
    Float64Array.from([...point, ...bones.map((bone) => cage.weights[i][bone] ?? 0)]),
  );
  const width = 3 + bones.length;
  const rows: Float64Array[] = old.map(() => new Float64Array(width));
  const faceRow = cage.faces.map((face) => {
    const row = new Float64Array(width);
    for (const corner of face.corners) add(row, old[corner], 1 / face.corners.length);
    return row;
  });
  const faceIndex = faceRow.map((row) => rows.push(row) - 1);
  const edges = edgesOf(cage);
  for (const edge of edges.values()) {
    const row = new Float64Array(width);
    const isBorder = edge.faces.length !== 2;
    add(row, old[edge.a], isBorder ? 0.5 : 0.25);
    add(row, old[edge.b], isBorder ? 0.5 : 0.25);
    if (!isBorder) for (const face of edge.faces) add(row, faceRow[face], 0.25);
    edge.index = rows.push(row) - 1;
  }
  moveOldPoints(cage, old, faceRow, edges, rows);
  const faces = cage.faces.flatMap((face, fi) =>
    face.corners.map((corner, k) => {
      const count = face.corners.length;
      const edge = (other: number) =>
        (edges.get(keyOf(corner, face.corners[other % count], old.length)) as Edge).index;
      return { corners: [corner, edge(k + 1), faceIndex[fi], edge(k + count - 1)], material: face.material };
    }),
  );
  return {
    points: rows.map((row) => [row[0], row[1], row[2]] as const),
    weights: rows.map((row) =>
      Object.fromEntries(bones.flatMap((bone, k) => (row[3 + k] > 1e-5 ? [[bone, row[3 + k]]] : []))),
    ),
    faces,
  };
}

function add(to: Float64Array, from: Float64Array, factor: number): void {
  for (let k = 0; k < to.length; k++) to[k] += from[k] * factor;
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
  cage.faces.forEach((face, fi) =>
    face.corners.forEach((corner, k) => {
      const b = face.corners[(k + 1) % face.corners.length];
      const key = keyOf(corner, b, cage.points.length);
      const edge = edges.get(key);
      if (edge) edge.faces.push(fi);
      else edges.set(key, { a: corner, b, faces: [fi], index: -1 });
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
  for (const edge of edges.values()) {
    for (const [v, w] of [
      [edge.a, edge.b],
      [edge.b, edge.a],
    ]) {
      valence[v]++;
      add(sums[v].edges, old[v], 0.5);
      add(sums[v].edges, old[w], 0.5);
      if (edge.faces.length === 2) continue;
      rim[v]++;
      add(sums[v].border, old[w], 1);
    }
  }
  cage.faces.forEach((face, fi) =>
    face.corners.forEach((corner) => {
      add(sums[corner].faces, faceRow[fi], 1);
      sums[corner].faceCount++;
    }),
  );
  for (let vertex = 0; vertex < old.length; vertex++) {
    if (rim[vertex] >= 2) {
      add(rows[vertex], old[vertex], 0.75);
      add(rows[vertex], sums[vertex].border, 0.25 / rim[vertex]);
      continue;
    }
    const k = valence[vertex] || 1;
    add(rows[vertex], sums[vertex].faces, 1 / (k * (sums[vertex].faceCount || 1)));
    add(rows[vertex], sums[vertex].edges, 2 / (k * k));
    add(rows[vertex], old[vertex], (k - 3) / k);
  }
}

const keyOf = (a: number, b: number, n: number) => Math.min(a, b) * n + Math.max(a, b);

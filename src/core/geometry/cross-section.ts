/** Where a plane cuts a mesh of polygons: closed loops, their areas and their middles. */

/** A closed loop of a cut. */
export interface Loop {
  /** 3 per point, in order round the loop, in the space of the mesh's points. */
  readonly points: Float64Array;
  /** Middle of its area, 3 numbers. */
  readonly middle: readonly [number, number, number];
  readonly area: number;
}

/**
 * The closed loops in which the plane through `origin` across `normal` cuts the polygons. Open ends (the mesh
 * has a hole there) give no loop.
 * @param points Float32Array, 3 per vertex
 * @param offsets polygon p has the corners offsets[p] … offsets[p + 1]
 * @param pointOfVertex the welded point of every vertex, so that a seam does not open a loop
 */
export function cutByPlane(
  points: Float32Array,
  offsets: Uint32Array,
  corners: Uint32Array,
  pointOfVertex: Uint32Array,
  origin: ArrayLike<number>,
  normal: ArrayLike<number>,
): Loop[] {
  const [ox, oy, oz] = [origin[0], origin[1], origin[2]];
  const [nx, ny, nz] = [normal[0], normal[1], normal[2]];
  const heightOf = (v: number) =>
    (points[v * 3] - ox) * nx + (points[v * 3 + 1] - oy) * ny + (points[v * 3 + 2] - oz) * nz;
  const crossings = new Map<string, number[]>();
  const next = new Map<string, string[]>();
  const link = (a: string, b: string) => next.set(a, [...(next.get(a) ?? []), b]);
  for (let p = 0; p + 1 < offsets.length; p++) {
    const end = offsets[p + 1];
    let cut: string[] | null = null;
    let to = offsets[p] < end ? heightOf(corners[offsets[p]]) : 0;
    for (let k = offsets[p]; k < end; k++) {
      const v = corners[k];
      const w = corners[k + 1 === end ? offsets[p] : k + 1];
      const from = to;
      to = heightOf(w);
      if (from < 0 === to < 0) continue;
      cut ??= [];
      const key = edgeKey(pointOfVertex[v], pointOfVertex[w]);
      if (!crossings.has(key)) crossings.set(key, between(points, v, w, from / (from - to)));
      cut.push(key);
    }
    if (!cut) continue;
    // A polygon that is not convex may be cut more than once; its cuts pair up in order.
    for (let i = 0; i + 1 < cut.length; i += 2) {
      link(cut[i], cut[i + 1]);
      link(cut[i + 1], cut[i]);
    }
  }
  return closedLoops(next).map((keys) =>
    measureLoop(
      keys.map((k) => crossings.get(k) as number[]),
      normal,
    ),
  );
}

const edgeKey = (a: number, b: number) => (a < b ? `${a} ${b}` : `${b} ${a}`);

const between = (points: Float32Array, v: number, w: number, t: number): number[] =>
  [0, 1, 2].map((k) => points[v * 3 + k] + (points[w * 3 + k] - points[v * 3 + k]) * t);

/** Follows links round until they close. */
function closedLoops(next: ReadonlyMap<string, readonly string[]>): string[][] {
  const seen = new Set<string>();
  const loops: string[][] = [];
  for (const start of next.keys()) {
    if (seen.has(start)) continue;
    const loop: string[] = [];
    let at: string | undefined = start;
    while (at !== undefined && !seen.has(at)) {
      seen.add(at);
      loop.push(at);
      at = next.get(at)?.find((k) => !seen.has(k));
    }
    const last = loop[loop.length - 1];
    if (loop.length >= 3 && next.get(last)?.includes(start)) loops.push(loop);
  }
  return loops;
}

/** Area and middle of a plane loop, by the triangles that it spans with its first point. */
function measureLoop(loop: readonly (readonly number[])[], normal: ArrayLike<number>): Loop {
  const [o] = loop;
  let area = 0;
  const moment = [0, 0, 0];
  for (let i = 1; i + 1 < loop.length; i++) {
    const a = loop[i].map((x, k) => x - o[k]);
    const b = loop[i + 1].map((x, k) => x - o[k]);
    const twice =
      (a[1] * b[2] - a[2] * b[1]) * normal[0] +
      (a[2] * b[0] - a[0] * b[2]) * normal[1] +
      (a[0] * b[1] - a[1] * b[0]) * normal[2];
    area += twice / 2;
    for (let k = 0; k < 3; k++) moment[k] += (twice / 2) * (o[k] + (a[k] + b[k]) / 3);
  }
  const middle = moment.map((m, k) => (Math.abs(area) < 1e-18 ? o[k] : m / area));
  return {
    points: Float64Array.from(loop.flat()),
    middle: middle as [number, number, number],
    area: Math.abs(area),
  };
}

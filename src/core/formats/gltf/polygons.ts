/**
 * Polygons from triangle lists: the n-gon encoding (FB_ngon_encoding), and quads recovered from triangle
 * pairs.
 */

/** Polygons over vertices: the corners of polygon p stand from `offsets[p]` to before `offsets[p + 1]`. */
export interface Polygons {
  readonly offsets: Uint32Array;
  readonly corners: Uint32Array;
}

/** Each triangle as it is. `triangles`: 3 vertex indices a triangle. */
export function trianglesAsPolygons(triangles: Uint32Array): Polygons {
  const count = triangles.length / 3;
  return {
    offsets: Uint32Array.from({ length: count + 1 }, (_, i) => i * 3),
    corners: triangles.slice(0, count * 3),
  };
}

/** Runs of triangles that share their first vertex are one polygon; a new first vertex starts the next. */
export function decodeNgons(triangles: Uint32Array): Polygons {
  const offsets = [0];
  const corners: number[] = [];
  for (let triangle = 0; triangle < triangles.length; triangle += 3) {
    const follows =
      triangle > 0 &&
      triangles[triangle] === triangles[triangle - 3] &&
      triangles[triangle + 1] === corners[corners.length - 1];
    if (follows) {
      corners.push(triangles[triangle + 2]);
      offsets[offsets.length - 1] = corners.length;
    } else {
      corners.push(triangles[triangle], triangles[triangle + 1], triangles[triangle + 2]);
      offsets.push(corners.length);
    }
  }
  return { offsets: Uint32Array.from(offsets), corners: Uint32Array.from(corners) };
}

/**
 * Fans out polygons so that {@link decodeNgons} finds them again: a polygon that would start at the first
 * vertex of its predecessor is turned. A quad turns by two corners, which keeps its diagonal.
 */
export function encodeNgons(
  offsets: Uint32Array,
  corners: Uint32Array,
  from: number,
  count: number,
): Uint32Array {
  let size = 0;
  for (let point = from; point < from + count; point++) size += offsets[point + 1] - offsets[point] - 2;
  const out = new Uint32Array(size * 3);
  let o = 0;
  let last = -1;
  for (let point = from; point < from + count; point++) {
    const start = offsets[point];
    const n = offsets[point + 1] - start;
    let turn = 0;
    if (corners[start] === last) turn = n === 4 ? 2 : 1;
    const corner = (k: number) => corners[start + ((k + turn) % n)];
    last = corner(0);
    for (let k = 1; k < n - 1; k++) {
      out[o++] = last;
      out[o++] = corner(k);
      out[o++] = corner(k + 1);
    }
  }
  return out;
}

/**
 * Puts pairs of triangles back together into quads. A pair qualifies when it shares an edge, is convex, and
 * bends by less than 45° over the edge; pairs that stand next to each other in the file come first, since
 * exporters cut quads in place, then the squarest. Every quad starts at an end of its diagonal, so that
 * fanning it out gives the same two triangles.
 * @param positions Float32Array, 3 per vertex
 */
export function recoverQuads(triangles: Uint32Array, positions: Float32Array): Polygons & { quads: number } {
  const count = triangles.length / 3;
  const normals = new Float32Array(count * 3);
  for (let triangle = 0; triangle < count; triangle++)
    unitNormal(
      positions,
      triangles[triangle * 3],
      triangles[triangle * 3 + 1],
      triangles[triangle * 3 + 2],
      normals,
      triangle * 3,
    );
  const edges = new Map<number, number>();
  const stride = positions.length / 3;
  const candidates: { a: number; b: number; edge: number; score: number }[] = [];
  for (let triangle = 0; triangle < count; triangle++) {
    for (let eb = 0; eb < 3; eb++) {
      const v = triangles[triangle * 3 + eb];
      const w = triangles[triangle * 3 + ((eb + 1) % 3)];
      const twin = edges.get(w * stride + v);
      if (twin !== undefined) {
        const other = Math.floor(twin / 3);
        const score = pairScore(positions, triangles, normals, other, twin % 3, triangle, eb);
        if (score > 0)
          candidates.push({
            a: other,
            b: triangle,
            edge: twin % 3,
            score: score + (triangle - other === 1 ? 1 : 0),
          });
      }
      edges.set(v * stride + w, triangle * 3 + eb);
    }
  }
  candidates.sort((x, y) => y.score - x.score || x.a - y.a);
  const sourceNodeOf = new Int32Array(count).fill(-1);
  const edgeOf = new Int8Array(count);
  let quads = 0;
  for (const candidate of candidates) {
    if (sourceNodeOf[candidate.a] >= 0 || sourceNodeOf[candidate.b] >= 0) continue;
    sourceNodeOf[candidate.a] = candidate.b;
    sourceNodeOf[candidate.b] = candidate.a;
    edgeOf[candidate.a] = candidate.edge;
    quads++;
  }
  const offsets = new Uint32Array(count - quads + 1);
  const corners = new Uint32Array(count * 3 - quads * 2);
  let p = 0;
  let o = 0;
  for (let triangle = 0; triangle < count; triangle++) {
    if (sourceNodeOf[triangle] >= 0 && sourceNodeOf[triangle] < triangle) continue;
    if (sourceNodeOf[triangle] < 0) {
      for (let k = 0; k < 3; k++) corners[o++] = triangles[triangle * 3 + k];
    } else {
      // The shared edge runs from `end` to `start`; the quad is start, apex, end, other apex.
      const e = edgeOf[triangle];
      const end = triangles[triangle * 3 + e];
      const start = triangles[triangle * 3 + ((e + 1) % 3)];
      const apex = triangles[triangle * 3 + ((e + 2) % 3)];
      corners[o++] = start;
      corners[o++] = apex;
      corners[o++] = end;
      corners[o++] = thirdOf(triangles, sourceNodeOf[triangle], start, end);
    }
    offsets[++p] = o;
  }
  return { offsets, corners, quads };
}

function thirdOf(triangles: Uint32Array, triangle: number, a: number, b: number): number {
  for (let k = 0; k < 3; k++)
    if (triangles[triangle * 3 + k] !== a && triangles[triangle * 3 + k] !== b)
      return triangles[triangle * 3 + k];
  return a;
}

function unitNormal(
  points: Float32Array,
  a: number,
  b: number,
  bone: number,
  out: Float32Array,
  o: number,
): void {
  const ux = points[b * 3] - points[a * 3];
  const uy = points[b * 3 + 1] - points[a * 3 + 1];
  const uz = points[b * 3 + 2] - points[a * 3 + 2];
  const vx = points[bone * 3] - points[a * 3];
  const vy = points[bone * 3 + 1] - points[a * 3 + 1];
  const vz = points[bone * 3 + 2] - points[a * 3 + 2];
  const x = uy * vz - uz * vy;
  const y = uz * vx - ux * vz;
  const z = ux * vy - uy * vx;
  const length = Math.hypot(x, y, z) || 1;
  out[o] = x / length;
  out[o + 1] = y / length;
  out[o + 2] = z / length;
}

/** 0 for a pair that makes no decent quad, otherwise up to 1 for a flat rectangle. */
function pairScore(
  points: Float32Array,
  tri: Uint32Array,
  normals: Float32Array,
  a: number,
  ea: number,
  b: number,
  eb: number,
): number {
  const flat =
    normals[a * 3] * normals[b * 3] +
    normals[a * 3 + 1] * normals[b * 3 + 1] +
    normals[a * 3 + 2] * normals[b * 3 + 2];
  if (flat < 0.7071) return 0;
  const quad = [
    tri[a * 3 + ((ea + 1) % 3)],
    tri[a * 3 + ((ea + 2) % 3)],
    tri[a * 3 + ea],
    tri[b * 3 + ((eb + 2) % 3)],
  ];
  if (quad[1] === quad[3]) return 0;
  let worst = 0;
  for (let k = 0; k < 4; k++) {
    const o = quad[k] * 3;
    const q = quad[(k + 3) % 4] * 3;
    const r = quad[(k + 1) % 4] * 3;
    const ux = points[r] - points[o];
    const uy = points[r + 1] - points[o + 1];
    const uz = points[r + 2] - points[o + 2];
    const vx = points[q] - points[o];
    const vy = points[q + 1] - points[o + 1];
    const vz = points[q + 2] - points[o + 2];
    const lengths = Math.hypot(ux, uy, uz) * Math.hypot(vx, vy, vz);
    if (lengths === 0) return 0;
    const facing =
      normals[a * 3] * (uy * vz - uz * vy) +
      normals[a * 3 + 1] * (uz * vx - ux * vz) +
      normals[a * 3 + 2] * (ux * vy - uy * vx);
    if (facing <= 1e-3 * lengths) return 0;
    worst = Math.max(worst, Math.abs(ux * vx + uy * vy + uz * vz) / lengths);
  }
  return worst > 0.94 ? 0 : flat * (1 - worst);
}

/**
 * Normals and tangents of vertices from polygons. A point's faces are shaded as one across its smooth edges; across hard ones each
 * side has a normal of its own, and so vertices of its own.
 */
import type { HalfEdges } from './half-edges';
import { areaNormals, unitRows } from './normals';

/** Corners that are shaded as one. */
export interface SmoothGroups {
  readonly count: number;
  /** By corner. */
  readonly groupOf: Uint32Array;
}

/**
 * The corners at each point joined over smooth edges: those of two faces that run along them opposite ways.
 * @param isHard by half-edge; it is enough that one of the two says so
 * @param corners where given, the vertex of every corner: those of one vertex are shaded as one whatever lies between
 */
export function smoothGroups(
  { next, twin }: Pick<HalfEdges, 'next' | 'twin'>,
  isHard: (half: number) => boolean,
  corners?: Uint32Array,
): SmoothGroups {
  const parent = new Uint32Array(next.length).map((_, i) => i);
  const find = (corner: number): number => {
    let root = corner;
    while (parent[root] !== root) {
      parent[root] = parent[parent[root]];
      root = parent[root];
    }
    return root;
  };
  for (let half = 0; half < next.length; half++) {
    const other = twin[half];
    if (other < half || isHard(half) || isHard(other)) continue;
    // The corner that one begins at is the one that the other ends at.
    parent[find(half)] = find(next[other]);
    parent[find(other)] = find(next[half]);
  }
  const first = new Map<number, number>();
  corners?.forEach((vertex, corner) => {
    const other = first.get(vertex);
    if (other === undefined) first.set(vertex, corner);
    else parent[find(corner)] = find(other);
  });
  const names = new Int32Array(next.length).fill(-1);
  const groupOf = new Uint32Array(next.length);
  let count = 0;
  for (let corner = 0; corner < next.length; corner++) {
    const root = find(corner);
    if (names[root] < 0) names[root] = count++;
    groupOf[corner] = names[root];
  }
  return { count, groupOf };
}

/**
 * The unit normal of every group: the normals of its faces, each by the angle that the face has there (Thürmer & Wüthrich 1998,
 * *Computing Vertex Normals from Polygonal Facets*), so that how a surface is cut into faces shows as little as it can.
 * @param points 3 per vertex
 * @returns 3 per group; zero where all faces of one have no area
 */
export function normalsOfGroups(
  { count, groupOf }: SmoothGroups,
  points: ArrayLike<number>,
  offsets: Uint32Array,
  corners: Uint32Array,
): Float32Array {
  const faces = unitRows(areaNormals(points, offsets, corners));
  const out = new Float32Array(count * 3);
  for (let face = 0; face + 1 < offsets.length; face++)
    for (let k = offsets[face]; k < offsets[face + 1]; k++) {
      const angle = angleAt(points, corners, offsets[face], offsets[face + 1], k);
      for (let axis = 0; axis < 3; axis++) out[groupOf[k] * 3 + axis] += angle * faces[face * 3 + axis];
    }
  return unitRows(out);
}

/** The angle of a face at one of its corners, radians; 0 where an edge there has no length. */
function angleAt(
  points: ArrayLike<number>,
  corners: Uint32Array,
  from: number,
  to: number,
  at: number,
): number {
  const here = corners[at] * 3;
  const before = corners[at === from ? to - 1 : at - 1] * 3;
  const after = corners[at + 1 === to ? from : at + 1] * 3;
  const [ax, ay, az] = [0, 1, 2].map((k) => points[before + k] - points[here + k]);
  const [bx, by, bz] = [0, 1, 2].map((k) => points[after + k] - points[here + k]);
  const across = Math.hypot(ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx);
  return across === 0 ? 0 : Math.atan2(across, ax * bx + ay * by + az * bz);
}

/** What tangents are made of: per vertex 3 numbers of place and normal, 2 of texture place. */
export interface TangentSources {
  readonly points: ArrayLike<number>;
  readonly normals: ArrayLike<number>;
  readonly uvs: ArrayLike<number>;
  /** Triangles, 3 vertices each. */
  readonly triangles: ArrayLike<number>;
}

/**
 * Tangents of vertices: the way in which u grows over the triangles round each, weighted by their angles there, at right angles to
 * the normal; w says which way v grows (Lengyel 2001; conventions of glTF 2.0, 3.7.2.1, and of its default algorithm).
 * @returns 4 per vertex; where the texture says nothing, some direction across the normal
 */
export function tangentsOf({ points, normals, uvs, triangles }: TangentSources): Float32Array {
  const count = normals.length / 3;
  const sums = new Float64Array(count * 3);
  const turns = new Float64Array(count);
  for (let i = 0; i < triangles.length; i += 3) {
    const ring = [triangles[i], triangles[i + 1], triangles[i + 2]];
    const [a, b, c] = ring;
    const [du1, dv1] = [uvs[b * 2] - uvs[a * 2], uvs[b * 2 + 1] - uvs[a * 2 + 1]];
    const [du2, dv2] = [uvs[c * 2] - uvs[a * 2], uvs[c * 2 + 1] - uvs[a * 2 + 1]];
    const area = du1 * dv2 - du2 * dv1;
    if (area === 0) continue;
    const way = [0, 1, 2].map((k) => {
      const [e1, e2] = [points[b * 3 + k] - points[a * 3 + k], points[c * 3 + k] - points[a * 3 + k]];
      return Math.sign(area) * (e1 * dv2 - e2 * dv1);
    });
    ring.forEach((vertex, at) => {
      const flat = across(way, normals, vertex);
      const angle = angleAcross(points, normals, ring, at);
      for (let k = 0; k < 3; k++) sums[vertex * 3 + k] += angle * flat[k];
      turns[vertex] += Math.sign(area) * angle;
    });
  }
  const out = new Float32Array(count * 4);
  for (let vertex = 0; vertex < count; vertex++) {
    const sum = [sums[vertex * 3], sums[vertex * 3 + 1], sums[vertex * 3 + 2]];
    const flat = across(sum, normals, vertex);
    const tangent = Math.hypot(...flat) > 0.5 ? flat : anyAcross(normals, vertex);
    out.set(tangent, vertex * 4);
    // glTF's v grows downward: the bitangent is normal × tangent · w, towards growing v.
    out[vertex * 4 + 3] = turns[vertex] < 0 ? 1 : -1;
  }
  return out;
}

/** A direction laid across the normal of a vertex, unit length; zero where nothing is left of it. */
function across(way: readonly number[], normals: ArrayLike<number>, vertex: number): number[] {
  const normal = [normals[vertex * 3], normals[vertex * 3 + 1], normals[vertex * 3 + 2]];
  const along = way[0] * normal[0] + way[1] * normal[1] + way[2] * normal[2];
  const flat = way.map((x, k) => x - along * normal[k]);
  const length = Math.hypot(...flat);
  return length > 1e-12 * Math.hypot(...way) && length > 0 ? flat.map((x) => x / length) : [0, 0, 0];
}

function anyAcross(normals: ArrayLike<number>, vertex: number): number[] {
  return across(Math.abs(normals[vertex * 3]) < 0.7 ? [1, 0, 0] : [0, 1, 0], normals, vertex);
}

/** The angle of a triangle at one of its corners as seen along the normal there, radians. */
function angleAcross(
  points: ArrayLike<number>,
  normals: ArrayLike<number>,
  ring: readonly number[],
  at: number,
): number {
  const vertex = ring[at];
  const [one, other] = [ring[(at + 1) % 3], ring[(at + 2) % 3]].map((end) =>
    across(
      [0, 1, 2].map((k) => points[end * 3 + k] - points[vertex * 3 + k]),
      normals,
      vertex,
    ),
  );
  const cosine = one[0] * other[0] + one[1] * other[1] + one[2] * other[2];
  return Math.acos(Math.max(-1, Math.min(1, cosine)));
}

/**
 * A piece cut out of a surface and closed by caps, whose volume can be told in every pose: triangles are clipped at rest where
 * a number per vertex passes zero, new corners keep their share of the edge that they lie on, and every open border is
 * closed by a fan about its middle. The volume is the sum of signed tetrahedra (Mirtich 1996), which for a tube cut by two
 * planes is just what lies between the two cross-sections.
 */
import type { Vec3 } from './matrix';
import { Groups } from './weld';

/** A piece of a surface, cut at rest. */
export interface CappedRegion {
  /** 2 per corner: the vertices whose edge it lies on; twice the same where it is a vertex itself. */
  readonly ends: Uint32Array;
  /** How far from the first of them to the second each corner lies. */
  readonly share: Float32Array;
  /** 3 corners per triangle. */
  readonly triangles: Uint32Array;
  /** Borders one after the other: 2 corners per edge, in the order that closes them. */
  readonly borderEdges: Uint32Array;
  /** Where the edges of each border begin in `borderEdges`, counted in edges; one more than there are borders. */
  readonly borderOffsets: Uint32Array;
}

/** Corners made while a surface is cut. */
class Corners {
  readonly ends: number[] = [];
  readonly share: number[] = [];
  private readonly known = new Map<number, number>();

  constructor(
    private readonly field: ArrayLike<number>,
    private readonly pointOfVertex: ArrayLike<number>,
    private readonly vertexCount: number,
  ) {}

  /** The corner at a vertex; vertices that a seam splits are one. */
  at(vertex: number): number {
    return this.corner(vertex, vertex, this.pointOfVertex[vertex]);
  }

  /** The corner where an edge passes zero: the same from either side. */
  between(one: number, other: number): number {
    const [p, q] = [this.pointOfVertex[one], this.pointOfVertex[other]];
    return p < q ? this.cut(one, other, p, q) : this.cut(other, one, q, p);
  }

  private cut(from: number, to: number, p: number, q: number): number {
    return this.corner(from, to, (p + 1) * this.vertexCount + q);
  }

  private corner(from: number, to: number, key: number): number {
    const known = this.known.get(key);
    if (known !== undefined) return known;
    const made = this.share.length;
    this.known.set(key, made);
    this.ends.push(from, to);
    this.share.push(from === to ? 0 : this.field[from] / (this.field[from] - this.field[to]));
    return made;
  }
}

/**
 * Cuts what lies below zero out of a surface.
 * @param triangles 3 vertices per triangle; those that do not take part are left out by the caller
 * @param field a number per vertex, below zero within
 * @param pointOfVertex the point of every vertex, so that seams do not count as borders
 */
export function cutRegion(
  triangles: ArrayLike<number>,
  field: ArrayLike<number>,
  pointOfVertex: ArrayLike<number>,
): CappedRegion {
  const corners = new Corners(field, pointOfVertex, pointOfVertex.length);
  const out: number[] = [];
  for (let triangle = 0; triangle < triangles.length; triangle += 3) {
    const outline: number[] = [];
    for (let side = 0; side < 3; side++) {
      const from = triangles[triangle + side];
      const to = triangles[triangle + ((side + 1) % 3)];
      if (field[from] < 0) outline.push(corners.at(from));
      if (field[from] < 0 !== field[to] < 0) outline.push(corners.between(from, to));
    }
    for (let k = 2; k < outline.length; k++) out.push(outline[0], outline[k - 1], outline[k]);
  }
  const cut = { ends: Uint32Array.from(corners.ends), share: Float32Array.from(corners.share) };
  return { ...cut, triangles: Uint32Array.from(out), ...bordersOf(out, corners.share.length) };
}

/** The edges that only one triangle has, by the borders that they make. */
function bordersOf(
  triangles: readonly number[],
  cornerCount: number,
): Pick<CappedRegion, 'borderEdges' | 'borderOffsets'> {
  const open = new Map<number, [number, number]>();
  for (let triangle = 0; triangle < triangles.length; triangle += 3)
    for (let side = 0; side < 3; side++) {
      const from = triangles[triangle + side];
      const to = triangles[triangle + ((side + 1) % 3)];
      if (!open.delete(to * cornerCount + from)) open.set(from * cornerCount + to, [from, to]);
    }
  const groups = new Groups(cornerCount);
  for (const [from, to] of open.values()) groups.join(from, to);
  const borders = new Map<number, number[]>();
  for (const [from, to] of open.values()) {
    const border = borders.get(groups.find(from)) ?? [];
    // The other way round, so that the cap closes what it borders.
    border.push(to, from);
    borders.set(groups.find(from), border);
  }
  const lists = [...borders.values()];
  const borderOffsets = new Uint32Array(lists.length + 1);
  lists.forEach((list, i) => (borderOffsets[i + 1] = borderOffsets[i] + list.length / 2));
  return { borderEdges: Uint32Array.from(lists.flat()), borderOffsets };
}

/**
 * The places of the corners of a region in a pose.
 * @param points 3 per vertex
 * @param out 3 per corner
 */
export function cornerPlaces(
  { ends, share }: CappedRegion,
  points: ArrayLike<number>,
  out: Float64Array,
): void {
  for (let corner = 0; corner < share.length; corner++) {
    const from = ends[corner * 2] * 3;
    const to = ends[corner * 2 + 1] * 3;
    for (let k = 0; k < 3; k++)
      out[corner * 3 + k] = points[from + k] + share[corner] * (points[to + k] - points[from + k]);
  }
}

/**
 * Volume of a region with its caps, in the cube of the unit of its places; what is turned inside out counts against it.
 * @param places 3 per corner
 */
export function volumeOfRegion(region: CappedRegion, places: ArrayLike<number>): number {
  const { triangles, borderEdges, borderOffsets } = region;
  if (triangles.length === 0) return 0;
  // About a place of its own, so that nothing is lost far from the origin.
  const first = triangles[0] * 3;
  const origin: Vec3 = [places[first], places[first + 1], places[first + 2]];
  let sum = 0;
  for (let i = 0; i < triangles.length; i += 3) {
    const apex = triangles[i] * 3;
    const [x, y, z] = [places[apex] - origin[0], places[apex + 1] - origin[1], places[apex + 2] - origin[2]];
    sum += sixfold(places, origin, triangles[i + 1] * 3, triangles[i + 2] * 3, x, y, z);
  }
  for (let border = 0; border + 1 < borderOffsets.length; border++) {
    const [start, end] = [borderOffsets[border], borderOffsets[border + 1]];
    const middle = [0, 0, 0];
    for (let edge = start; edge < end; edge++)
      for (let k = 0; k < 3; k++)
        middle[k] += (places[borderEdges[edge * 2] * 3 + k] - origin[k]) / (end - start);
    const [x, y, z] = middle;
    for (let edge = start; edge < end; edge++)
      sum += sixfold(places, origin, borderEdges[edge * 2] * 3, borderEdges[edge * 2 + 1] * 3, x, y, z);
  }
  return sum / 6;
}

/** Six times the volume of the tetrahedron from an origin over an apex (x, y, z seen from there) and the places that begin at i and j. */
function sixfold(
  places: ArrayLike<number>,
  [ox, oy, oz]: Vec3,
  i: number,
  j: number,
  x: number,
  y: number,
  z: number,
): number {
  const ax = places[i] - ox;
  const ay = places[i + 1] - oy;
  const az = places[i + 2] - oz;
  const bx = places[j] - ox;
  const by = places[j + 1] - oy;
  const bz = places[j + 2] - oz;
  return x * (ay * bz - az * by) + y * (az * bx - ax * bz) + z * (ax * by - ay * bx);
}

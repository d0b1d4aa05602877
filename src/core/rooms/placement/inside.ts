import { islandsOfMesh } from '../../character/islands';
import type { Placed } from '../../character/measure';
import { volumesOfIslands } from '../../geometry/islands';

/** Where a place lies against a body. */
export interface Lie {
  readonly inside: boolean;
  /** Distance to the nearest vertex, metres; 0 inside. */
  readonly outside: number;
}

/**
 * Whether places lie inside the union of meshes. Six rays a place, along the axes; a ray counts the faces it
 * leaves through minus those it enters through, so that shells within shells and small holes do no harm; the
 * majority says. A piece that is wound inside out counts the other way round: it is a body still.
 * @param places 3 per place, world space
 * @returns Uint8Array, 1 per place: 1 inside, 0 outside
 */
export function insideOf(places: ArrayLike<number>, meshes: readonly Placed[]): Uint8Array {
  const at = Float64Array.from(places);
  const votes = new Uint8Array(at.length / 3);
  const signs = meshes.map(signsOfIslands);
  for (let axis = 0; axis < 3; axis++) {
    const rays = new Rays(at, axis);
    meshes.forEach((placed, k) => rays.crossMesh(placed, signs[k]));
    rays.vote(votes);
  }
  return votes.map((x) => (x >= 3 ? 1 : 0));
}

/** 1 for every island that is wound outward, −1 for one that is inside out. */
function signsOfIslands({ points, mesh }: Placed): Int8Array {
  const { polygonOffsets, corners } = mesh;
  const volumes = volumesOfIslands(islandsOfMesh(mesh), polygonOffsets, corners, points);
  return Int8Array.from(volumes, (volume) => (volume < 0 ? -1 : 1));
}

/** Strips that the places are sorted into: most triangles of a body lie in strips without any. */
const STRIPS = 512;

/** The two rays along one axis from every place, and what they have crossed. */
class Rays {
  private readonly u: number;
  private readonly v: number;
  /** Places in the order of their first coordinate across the axis, and those coordinates. */
  private readonly order: Uint32Array;
  private readonly us: Float64Array;
  /** Where in the order every strip begins; one more than there are strips. */
  private readonly begins = new Uint32Array(STRIPS + 1);
  private readonly perUnit: number;
  /** Faces left minus faces entered, by place. */
  private readonly ahead: Int32Array;
  private readonly behind: Int32Array;

  constructor(
    private readonly places: Float64Array,
    private readonly axis: number,
  ) {
    const share = (axis + 1) % 3;
    this.u = share;
    this.v = (axis + 2) % 3;
    const count = places.length / 3;
    this.order = Uint32Array.from({ length: count }, (_, i) => i).sort(
      (a, b) => places[a * 3 + share] - places[b * 3 + share],
    );
    this.us = Float64Array.from(this.order, (i) => places[i * 3 + share]);
    const width = count > 0 ? this.us[count - 1] - this.us[0] : 0;
    this.perUnit = width > 0 ? STRIPS / width : 0;
    let at = 0;
    for (let step = 0; step <= STRIPS; step++) {
      while (at < count && this.stripOf(this.us[at]) < step) at++;
      this.begins[step] = step === STRIPS ? count : at;
    }
    this.ahead = new Int32Array(count);
    this.behind = new Int32Array(count);
  }

  private stripOf(x: number): number {
    return Math.max(0, Math.min(STRIPS - 1, Math.floor((x - this.us[0]) * this.perUnit)));
  }

  /** Counts the triangles of a mesh, its polygons cut into fans. */
  crossMesh({ points, mesh }: Placed, signs: Int8Array): void {
    const { polygonOffsets: offsets, corners } = mesh;
    const { islandOf } = islandsOfMesh(mesh);
    const { us, u: share, begins } = this;
    if (us.length === 0) return;
    const least = us[0];
    const most = us[us.length - 1];
    for (let point = 0; point + 1 < offsets.length; point++) {
      const a = corners[offsets[point]] * 3;
      const end = offsets[point + 1] - 1;
      for (let k = offsets[point] + 1; k < end; k++) {
        const b = corners[k] * 3;
        const c = corners[k + 1] * 3;
        const low = Math.min(points[a + share], points[b + share], points[c + share]);
        const high = Math.max(points[a + share], points[b + share], points[c + share]);
        if (low > most || high < least) continue;
        const from = begins[this.stripOf(low)];
        const to = begins[this.stripOf(high) + 1];
        if (from < to) this.crossTriangle(points, a, b, c, from, to, signs[islandOf[point]]);
      }
    }
  }

  /**
   * Counts one triangle for the places from `from` to before `to` in the order. `a`, `b`, `c`: where its
   * corners begin in `points`. `sign`: −1 where its piece is wound inside out.
   */
  private crossTriangle(
    points: ArrayLike<number>,
    a: number,
    b: number,
    bone: number,
    from: number,
    to: number,
    sign: number,
  ): void {
    const { u: share, v: vertex, axis, places, order, ahead, behind } = this;
    const au = points[a + share];
    const av = points[a + vertex];
    const bu = points[b + share] - au;
    const bv = points[b + vertex] - av;
    const cu = points[bone + share] - au;
    const cv = points[bone + vertex] - av;
    const area = bu * cv - bv * cu;
    if (area === 0) return;
    for (let polygon = from; polygon < to; polygon++) {
      const place = order[polygon] * 3;
      const x = places[place + share] - au;
      const y = places[place + vertex] - av;
      const w1 = (x * cv - y * cu) / area;
      const w2 = (bu * y - bv * x) / area;
      if (w1 < 0 || w2 < 0 || w1 + w2 > 1) continue;
      const start = points[a + axis];
      const at = start + w1 * (points[b + axis] - start) + w2 * (points[bone + axis] - start);
      if (at >= places[place + axis]) ahead[order[polygon]] += area > 0 ? sign : -sign;
      else behind[order[polygon]] += area > 0 ? -sign : sign;
    }
  }

  /** Adds a vote for every ray that leaves more than it enters. */
  vote(votes: Uint8Array): void {
    for (let i = 0; i < votes.length; i++)
      votes[i] += (this.ahead[i] > 0 ? 1 : 0) + (this.behind[i] > 0 ? 1 : 0);
  }
}

/** The same, and how far what lies outside is from the body. */
export function lieInside(places: ArrayLike<number>, meshes: readonly Placed[]): Lie[] {
  return Array.from(insideOf(places, meshes), (inside, i) => {
    if (inside) return { inside: true, outside: 0 };
    const [x, y, z] = [places[i * 3], places[i * 3 + 1], places[i * 3 + 2]];
    const nearest = meshes.map(({ points }) => nearestSquare(points, x, y, z));
    return { inside: false, outside: Math.sqrt(Math.min(Infinity, ...nearest)) };
  });
}

/** Squared distance from a place to the nearest of points (3 each); infinite where there are none. */
function nearestSquare(points: Float32Array, x: number, y: number, z: number): number {
  let best = Infinity;
  for (let k = 0; k < points.length; k += 3) {
    const dx = points[k] - x;
    const dy = points[k + 1] - y;
    const dz = points[k + 2] - z;
    const d = dx * dx + dy * dy + dz * dz;
    if (d < best) best = d;
  }
  return best;
}

/**
 * Quads from triangles: which pairs of triangles were one polygon before they were cut. A pair is judged by its shape and by what it
 * leaves at its points, since on a mesh of quads four edges meet at nearly every point. The pairs that together cost least, no
 * two of which share a triangle, are a matching in the dual graph: greedy by shape at first, then made better along alternating
 * paths from triangles that were left alone (augmenting paths of Edmonds 1965, without blossoms and of bounded length), so
 * that whole rows of pairs give way. The weights are our own, tried on meshes of quads that others made and cut.
 */
import FlatQueue from 'flatqueue';
import { type HalfEdges, halfEdgesOf } from './half-edges';
import { putAreaNormal } from './normals';

/** Polygons over vertices: the corners of polygon p stand from `offsets[p]` to before `offsets[p + 1]`. */
export interface RecoveredQuads {
  readonly offsets: Uint32Array;
  readonly corners: Uint32Array;
  /** How many of them are quads. */
  readonly quads: number;
  /** Whether the whole looks as if it had been quads: most triangles pair, well shaped, and about four edges meet at most points. */
  readonly isQuadMesh: boolean;
}

/** Pairs of triangles that share an edge and could be a quad: the dual graph. */
interface Pairs {
  readonly count: number;
  /** The triangles on both sides, the lower first. */
  readonly first: Uint32Array;
  readonly second: Uint32Array;
  /** The corner of the first triangle where the edge begins, 0 … 2. */
  readonly corner: Uint8Array;
  /** What it costs as a quad by its shape, about 0 for a rectangle. */
  readonly cost: Float64Array;
  /** How far its worst corner is off the right angle, degrees. */
  readonly skew: Float64Array;
  /** The points at both ends of the edge. */
  readonly from: Uint32Array;
  readonly to: Uint32Array;
  /** 3 per triangle: the pair over each of its edges, −1 for none. */
  readonly ofTriangle: Int32Array;
}

/** Pairs that bend more over the edge between them are none: a cosine, 73°. */
const LEAST_FLAT = 0.3;

/** Pairs with a corner nearer to straight, or to nothing, are none: a cosine, 8°. */
const SHARPEST = 0.99;

/** Corners off the right angle up to about so many degrees are as good as others: modellers shear. */
const SHEARED = 45;
const SHEARED_WIDTH = 6;

/** Corners more than so many degrees off, and bends beyond this cosine, are asked for only where the points gain by it. */
const UGLY = 65;
const BENT = 0.7;

/** A shape may cost so much beside an edge too many at a point. */
const SHAPE = 0.4;

/** One edge too many or too few at a point. */
const VALENCE = 0.8;

/** A triangle that stays alone. */
const ALONE = 0.6;

/** A point where more edges meet is a fan that is meant: four edges, and a cut through each of four quads, are eight. */
const MOST_EDGES = 9;

/** From a triangle that was left alone, paths are followed over so many triangles. */
const MOST_STEPS = 100;

const MOST_PASSES = 4;

/**
 * Triangles pair in nearly every mesh. It was one of quads where so many of them do, so many inner points are met by about four edges,
 * and the corner farthest off the right angle is, in the middle of all quads, not farther off: even triangles make 28° and more,
 * meshes that people modelled in quads 17° at most (tried on those of the cast, and of others).
 */
const LEAST_PAIRED = 0.5;
const LEAST_REGULAR = 0.8;
const MOST_SKEW = 23;

/**
 * Puts pairs of triangles back together into quads. Every quad starts at an end of its diagonal, so that fanning it out gives the
 * same two triangles. Where a seam runs along an edge no quad goes across: a quad has one vertex at each corner.
 * @param triangles 3 vertices per triangle
 * @param positions 3 per vertex
 * @param pointOfVertex welds the vertices that seams split
 */
export function recoverQuads(
  triangles: Uint32Array,
  positions: Float32Array,
  pointOfVertex: Uint32Array,
  pointCount: number,
): RecoveredQuads {
  const count = Math.floor(triangles.length / 3);
  const offsets = new Uint32Array(count + 1).map((_, i) => i * 3);
  // Looked through in an order of its own, so that whatever order they came in gives the same quads.
  const order = orderedByVertices(triangles, count, positions.length / 3);
  const list = new Uint32Array(count * 3);
  order.forEach((triangle, i) => putFromLowest(triangles, triangle, list, i * 3));
  const halfEdges = halfEdgesOf(offsets, list, pointOfVertex, pointCount);
  const pairs = pairsOf(list, positions, halfEdges);
  const matching = new Matching(pairs, count, wantedCuts(list, positions, halfEdges, pointCount));
  matching.startGreedily();
  for (let pass = 0; pass < MOST_PASSES; pass++) if (!matching.improve()) break;
  return quadsOf(list, matching, pairs, order);
}

/** Writes a triangle, turned so that its lowest vertex comes first. */
function putFromLowest(triangles: Uint32Array, triangle: number, out: Uint32Array, at: number): void {
  const start = triangle * 3;
  let lowest = 0;
  for (let k = 1; k < 3; k++) if (triangles[start + k] < triangles[start + lowest]) lowest = k;
  for (let k = 0; k < 3; k++) out[at + k] = triangles[start + ((lowest + k) % 3)];
}

/** The triangles by their lowest vertex and then by the other two: a counting sort, then one within each vertex. */
function orderedByVertices(triangles: Uint32Array, count: number, vertexCount: number): Uint32Array {
  const turned = new Uint32Array(count * 3);
  for (let triangle = 0; triangle < count; triangle++)
    putFromLowest(triangles, triangle, turned, triangle * 3);
  const at = new Uint32Array(vertexCount + 1);
  for (let i = 0; i < turned.length; i += 3) at[turned[i] + 1]++;
  for (let vertex = 0; vertex < vertexCount; vertex++) at[vertex + 1] += at[vertex];
  const end = at.slice();
  const order = new Uint32Array(count);
  for (let triangle = 0; triangle < count; triangle++) order[end[turned[triangle * 3]]++] = triangle;
  const compare = (a: number, b: number) =>
    turned[a * 3 + 1] - turned[b * 3 + 1] || turned[a * 3 + 2] - turned[b * 3 + 2];
  for (let vertex = 0; vertex < vertexCount; vertex++)
    if (end[vertex] - at[vertex] > 1) order.subarray(at[vertex], end[vertex]).sort(compare);
  return order;
}

function pairsOf(triangles: Uint32Array, positions: Float32Array, { twin, next, origin }: HalfEdges): Pairs {
  const total = triangles.length;
  const normals = new Float64Array(total);
  for (let at = 0; at < total; at += 3) putUnitNormal(positions, triangles, at, normals);
  const half = new Uint32Array(total / 2);
  const skews = new Float64Array(total / 2);
  const costs = new Float64Array(total / 2);
  const ofTriangle = new Int32Array(total).fill(-1);
  let count = 0;
  for (let h = 0; h < total; h++) {
    const other = twin[h];
    if (other < h) continue;
    if (triangles[h] !== triangles[next[other]] || triangles[next[h]] !== triangles[other]) continue;
    const worst = worstCorner(positions, triangles, normals, h, other);
    if (worst > SHARPEST) continue;
    ofTriangle[h] = count;
    ofTriangle[other] = count;
    half[count] = h;
    skews[count] = (Math.asin(worst) * 180) / Math.PI;
    costs[count] = costOfShape(skews[count], flatness(normals, h, other));
    count++;
  }
  const begins = half.subarray(0, count);
  return {
    count,
    first: begins.map((h) => h / 3),
    second: begins.map((h) => twin[h] / 3),
    corner: Uint8Array.from(begins, (h) => h % 3),
    skew: skews.subarray(0, count),
    cost: costs.subarray(0, count),
    from: begins.map((h) => origin[h]),
    to: begins.map((h) => origin[next[h]]),
    ofTriangle,
  };
}

/** What is wanted at points. */
interface WantedCuts {
  /** By point how many of its edges are cuts if the surface is one of quads. */
  readonly cuts: Float64Array;
  /** By point how many edges meet there, cuts among them; and whether no border goes through it. */
  readonly degrees: Uint32Array;
  readonly isInner: Uint8Array;
}

/**
 * All edges beyond the four of an inner point are cuts, and beyond what the angle at a border asks for; at a fan none is.
 */
function wantedCuts(
  triangles: Uint32Array,
  positions: Float32Array,
  { ends, faces, origin }: HalfEdges,
  pointCount: number,
): WantedCuts {
  const degrees = new Uint32Array(pointCount);
  const isInner = new Uint8Array(pointCount).fill(1);
  for (let i = 0; i < ends.length; i++) {
    degrees[ends[i]]++;
    if (faces[i >> 1] !== 2) isInner[ends[i]] = 0;
  }
  const angles = new Float64Array(pointCount);
  for (let h = 0; h < triangles.length; h++)
    if (!isInner[origin[h]]) angles[origin[h]] += cornerAngle(positions, triangles, h);
  const cuts = Float64Array.from(degrees, (degree, point) => {
    if (degree > MOST_EDGES) return 0;
    const kept = isInner[point] ? 4 : Math.max(2, 1 + Math.round(angles[point] / (Math.PI / 2)));
    return Math.max(0, degree - kept);
  });
  return { cuts, degrees, isInner };
}

/** Half the square of what a point has too much or too little, and straight on beyond one. */
function strain(off: number): number {
  const size = Math.abs(off);
  return size > 1 ? size - 0.5 : (size * size) / 2;
}

/** Pairs of which no two share a triangle, and what they cost together. */
class Matching {
  /** By triangle its pair, −1 for none. */
  readonly pairOf: Int32Array;
  private readonly cuts: Int32Array;
  // One search: by triangle what the path to it costs, from which triangle and over which pair it came.
  private readonly searchOf: Int32Array;
  private readonly pathCost: Float64Array;
  private readonly cameFrom: Int32Array;
  private readonly cameOver: Int32Array;
  private readonly queue = new FlatQueue<number>();
  private search = 0;
  // Points on the path that is looked at, and by how much the number of cuts there changes along it.
  private readonly changedPoints: number[] = [];
  private readonly changes: number[] = [];

  constructor(
    private readonly pairs: Pairs,
    triangleCount: number,
    readonly wanted: WantedCuts,
  ) {
    this.pairOf = new Int32Array(triangleCount).fill(-1);
    this.cuts = new Int32Array(wanted.cuts.length);
    this.searchOf = new Int32Array(triangleCount).fill(-1);
    this.pathCost = new Float64Array(triangleCount);
    this.cameFrom = new Int32Array(triangleCount).fill(-1);
    this.cameOver = new Int32Array(triangleCount).fill(-1);
  }

  /** Of the inner points the share that is met by three to five edges once the cuts are gone. */
  regularShare(): number {
    const { degrees, isInner } = this.wanted;
    let inner = 0;
    let regular = 0;
    degrees.forEach((degree, point) => {
      if (degree === 0 || !isInner[point]) return;
      inner++;
      if (Math.abs(degree - this.cuts[point] - 4) <= 1) regular++;
    });
    return inner > 0 ? regular / inner : 1;
  }

  /** Takes the pairs of the best shapes as they come. */
  startGreedily(): void {
    const { first, second, cost } = this.pairs;
    for (const pair of sortedByCost(cost))
      if (this.pairOf[first[pair]] < 0 && this.pairOf[second[pair]] < 0) this.put(pair);
  }

  /** Looks for a path from every triangle that is alone. False where none makes anything better. */
  improve(): boolean {
    let isBetter = false;
    for (let start = 0; start < this.pairOf.length; start++)
      if (this.pairOf[start] < 0 && this.improveFrom(start)) isBetter = true;
    return isBetter;
  }

  private other(pair: number, triangle: number): number {
    const { first, second } = this.pairs;
    return first[pair] === triangle ? second[pair] : first[pair];
  }

  private put(pair: number): void {
    const { first, second, from, to } = this.pairs;
    this.pairOf[first[pair]] = pair;
    this.pairOf[second[pair]] = pair;
    this.cuts[from[pair]]++;
    this.cuts[to[pair]]++;
  }

  private take(pair: number): void {
    const { first, second, from, to } = this.pairs;
    this.pairOf[first[pair]] = -1;
    this.pairOf[second[pair]] = -1;
    this.cuts[from[pair]]--;
    this.cuts[to[pair]]--;
  }

  /**
   * Best first over triangles that could be alone instead of the first: over a new pair into a neighbour, and over that one's old
   * pair, which goes, to the next. A path ends at another triangle that is alone, or leaves its last one so.
   */
  private improveFrom(start: number): boolean {
    const { ofTriangle } = this.pairs;
    const { queue, pathCost, cameFrom, cameOver, searchOf, pairOf } = this;
    this.search++;
    queue.clear();
    queue.push(start, 0);
    pathCost[start] = 0;
    cameFrom[start] = -1;
    searchOf[start] = this.search;
    let least = -1e-6;
    let end = -1;
    let last = -1;
    for (let step = 0; step < MOST_STEPS; step++) {
      const triangle = queue.pop();
      if (triangle === undefined) break;
      for (let k = 0; k < 3; k++) {
        const pair = ofTriangle[triangle * 3 + k];
        if (pair < 0 || pair === pairOf[triangle]) continue;
        const neighbour = this.other(pair, triangle);
        if (neighbour === start || !this.follow(triangle, neighbour)) continue;
        const cost = pathCost[triangle] + this.change(pair, 1);
        const old = pairOf[neighbour];
        if (old < 0) {
          if (cost - 2 * ALONE < least) [least, end, last] = [cost - 2 * ALONE, triangle, pair];
          continue;
        }
        const beyond = this.other(old, neighbour);
        if (beyond === start || searchOf[beyond] === this.search) continue;
        searchOf[beyond] = this.search;
        pathCost[beyond] = cost + this.change(old, -1);
        cameFrom[beyond] = triangle;
        cameOver[beyond] = pair;
        queue.push(beyond, pathCost[beyond]);
        if (pathCost[beyond] < least) [least, end, last] = [pathCost[beyond], beyond, -1];
      }
    }
    if (end < 0) return false;
    this.apply(end, last);
    return true;
  }

  /** Counts what the path to a triangle changes at its points; false where the path has been at the neighbour before. */
  private follow(triangle: number, neighbour: number): boolean {
    this.changedPoints.length = 0;
    this.changes.length = 0;
    const { from, to } = this.pairs;
    const old = this.pairOf[neighbour];
    for (let at = triangle; this.cameFrom[at] >= 0; at = this.cameFrom[at]) {
      const gone = this.pairOf[at];
      if (gone === old) return false;
      const added = this.cameOver[at];
      this.note(from[added], 1);
      this.note(to[added], 1);
      this.note(from[gone], -1);
      this.note(to[gone], -1);
    }
    return true;
  }

  private note(point: number, by: number): void {
    const at = this.changedPoints.indexOf(point);
    if (at >= 0) this.changes[at] += by;
    else {
      this.changedPoints.push(point);
      this.changes.push(by);
    }
  }

  /** What a pair costs that comes (1) or goes (−1), after all that was noted; and notes it. */
  private change(pair: number, by: 1 | -1): number {
    const { from, to, cost } = this.pairs;
    let sum = by * cost[pair];
    for (const point of [from[pair], to[pair]]) {
      const at = this.changedPoints.indexOf(point);
      const off = this.cuts[point] + (at >= 0 ? this.changes[at] : 0) - this.wanted.cuts[point];
      sum += VALENCE * (strain(off + by) - strain(off));
      this.note(point, by);
    }
    return sum;
  }

  private apply(end: number, last: number): void {
    const path: number[] = [];
    for (let at = end; this.cameFrom[at] >= 0; at = this.cameFrom[at]) path.push(at);
    for (const triangle of path) this.take(this.pairOf[triangle]);
    for (const triangle of path) this.put(this.cameOver[triangle]);
    if (last >= 0) this.put(last);
  }
}

const STEPS = 4096;

/** Those that cost no more than a sheared shape, the best first: a counting sort in fine steps, in their own order within one. */
function sortedByCost(cost: Float64Array): Uint32Array {
  const stepOf = (value: number) => Math.floor((value / SHAPE) * STEPS);
  const at = new Uint32Array(STEPS + 2);
  for (const value of cost) if (value <= SHAPE) at[stepOf(value) + 1]++;
  for (let i = 0; i <= STEPS; i++) at[i + 1] += at[i];
  const order = new Uint32Array(at[STEPS + 1]);
  cost.forEach((value, pair) => {
    if (value <= SHAPE) order[at[stepOf(value)]++] = pair;
  });
  return order;
}

/** In the order in which the triangles came, a quad at the place of its first one. */
function quadsOf(
  triangles: Uint32Array,
  matching: Matching,
  pairs: Pairs,
  order: Uint32Array,
): RecoveredQuads {
  const { first, second, corner } = pairs;
  const { pairOf } = matching;
  const placeOf = new Uint32Array(order.length);
  order.forEach((came, triangle) => {
    placeOf[came] = triangle;
  });
  let quads = 0;
  for (let triangle = 0; triangle < pairOf.length; triangle++)
    if (pairOf[triangle] >= 0 && first[pairOf[triangle]] === triangle) quads++;
  const offsets = new Uint32Array(pairOf.length - quads + 1);
  const corners = new Uint32Array(pairOf.length * 3 - quads * 2);
  let polygon = 0;
  let at = 0;
  for (let came = 0; came < placeOf.length; came++) {
    const triangle = placeOf[came];
    const pair = pairOf[triangle];
    if (pair < 0) for (let k = 0; k < 3; k++) corners[at++] = triangles[triangle * 3 + k];
    else {
      if (order[first[pair] === triangle ? second[pair] : first[pair]] < came) continue;
      // The shared edge runs from `end` to `start`; the quad is start, apex, end, other apex.
      const from = first[pair] * 3;
      const end = triangles[from + corner[pair]];
      const start = triangles[from + ((corner[pair] + 1) % 3)];
      corners[at++] = start;
      corners[at++] = triangles[from + ((corner[pair] + 2) % 3)];
      corners[at++] = end;
      corners[at++] = thirdOf(triangles, second[pair], start, end);
    }
    offsets[++polygon] = at;
  }
  return { offsets, corners, quads, isQuadMesh: looksLikeQuads(matching, pairs, quads) };
}

function looksLikeQuads(matching: Matching, { first, skew }: Pairs, quads: number): boolean {
  const { pairOf } = matching;
  if (quads === 0 || quads * 2 < pairOf.length * LEAST_PAIRED) return false;
  const skews: number[] = [];
  pairOf.forEach((pair, triangle) => {
    if (pair >= 0 && first[pair] === triangle) skews.push(skew[pair]);
  });
  const middle = Float64Array.from(skews).sort()[quads >> 1];
  return middle <= MOST_SKEW && matching.regularShare() >= LEAST_REGULAR;
}

function thirdOf(triangles: Uint32Array, triangle: number, a: number, b: number): number {
  for (let k = 0; k < 3; k++) {
    const vertex = triangles[triangle * 3 + k];
    if (vertex !== a && vertex !== b) return vertex;
  }
  return a;
}

/** The angle at a corner of a triangle, radians; 0 where it has no sides. */
function cornerAngle(positions: Float32Array, triangles: Uint32Array, h: number): number {
  const base = h - (h % 3);
  const at = triangles[h] * 3;
  const one = triangles[base + ((h + 1) % 3)] * 3;
  const two = triangles[base + ((h + 2) % 3)] * 3;
  let along = 0;
  let a = 0;
  let b = 0;
  for (let k = 0; k < 3; k++) {
    const u = positions[one + k] - positions[at + k];
    const v = positions[two + k] - positions[at + k];
    along += u * v;
    a += u * u;
    b += v * v;
  }
  return a * b > 0 ? Math.acos(Math.max(-1, Math.min(1, along / Math.sqrt(a * b)))) : 0;
}

function putUnitNormal(positions: Float32Array, triangles: Uint32Array, at: number, out: Float64Array): void {
  const normal = [0, 0, 0];
  putAreaNormal(positions, triangles, at, at + 3, normal);
  const length = Math.hypot(normal[0], normal[1], normal[2]) || 1;
  for (let k = 0; k < 3; k++) out[at + k] = normal[k] / length;
}

/** How level two triangles are, as the cosine between their normals; `h`, `other`: half-edges of theirs. */
function flatness(normals: Float64Array, h: number, other: number): number {
  const a = h - (h % 3);
  const b = other - (other % 3);
  return normals[a] * normals[b] + normals[a + 1] * normals[b + 1] + normals[a + 2] * normals[b + 2];
}

/** What a quad costs by its worst corner, degrees off the right angle, and by the cosine of its bend. */
function costOfShape(off: number, flat: number): number {
  const good = flat / (1 + Math.exp((off - SHEARED) / SHEARED_WIDTH));
  const ugly = Math.max(0, (off - UGLY) / 20) + Math.max(0, (BENT - flat) / 0.4);
  return SHAPE * (1 - good + 3 * ugly);
}

/**
 * Of the quad that the triangles at two half-edges make the corner farthest off the right angle, as a cosine, 0 … 1; Infinity where
 * they make no convex quad.
 */
function worstCorner(
  positions: Float32Array,
  triangles: Uint32Array,
  normals: Float64Array,
  h: number,
  other: number,
): number {
  if (!(flatness(normals, h, other) >= LEAST_FLAT)) return Infinity;
  const a = h - (h % 3);
  const b = other - (other % 3);
  const quad = [
    triangles[a + ((h + 1) % 3)],
    triangles[a + ((h + 2) % 3)],
    triangles[h],
    triangles[b + ((other + 2) % 3)],
  ];
  if (quad[1] === quad[3]) return Infinity;
  let worst = 0;
  for (let k = 0; k < 4; k++) {
    const at = quad[k] * 3;
    const before = quad[(k + 3) % 4] * 3;
    const after = quad[(k + 1) % 4] * 3;
    const ux = positions[after] - positions[at];
    const uy = positions[after + 1] - positions[at + 1];
    const uz = positions[after + 2] - positions[at + 2];
    const vx = positions[before] - positions[at];
    const vy = positions[before + 1] - positions[at + 1];
    const vz = positions[before + 2] - positions[at + 2];
    const lengths = Math.sqrt((ux * ux + uy * uy + uz * uz) * (vx * vx + vy * vy + vz * vz));
    const facing =
      normals[a] * (uy * vz - uz * vy) +
      normals[a + 1] * (uz * vx - ux * vz) +
      normals[a + 2] * (ux * vy - uy * vx);
    // A corner that turns the other way: the pair is an arrowhead.
    if (!(facing > 1e-3 * lengths)) return Infinity;
    worst = Math.max(worst, Math.abs(ux * vx + uy * vy + uz * vz) / lengths);
  }
  return worst;
}

/**
 * A tree of boxes over triangles: the closest point of a surface, the nearest hit of a ray, and all triangles within a
 * radius. Triangles are parted about the middle of the longest axis of their middles (Wald & Havran 2006 weigh such cuts
 * against dearer ones; for closest points and single rays the plain cut serves); nodes lie depth first in flat arrays, so
 * that the left child follows its parent and a refit is one walk from the end. Boxes hold the points of single precision
 * exactly. Building takes n·log n, a query log n on a surface.
 */

/** A tree as plain arrays, which can be handed from thread to thread. */
export interface TriangleBoxes {
  /** 6 per node: lower corner, upper corner. */
  readonly bounds: Float32Array;
  /** Right child of every node; −1 for a leaf. The left one is the next. */
  readonly right: Int32Array;
  /** Where the triangles of every node begin in `order`, and how many they are. */
  readonly start: Uint32Array;
  readonly count: Uint32Array;
  /** Triangles in the order of the tree. */
  readonly order: Uint32Array;
}

/** The place of a surface that is closest to another, or that a ray meets. */
export interface SurfacePlace {
  readonly triangle: number;
  readonly point: readonly [number, number, number];
  /** Weights of the triangle's three corners there; they sum to 1. */
  readonly corners: readonly [number, number, number];
  /** Metres, or whatever the points are in; for a ray in lengths of its direction. */
  readonly distance: number;
}

const LEAF = 4;

/** A triangle is a line where the square of the sine at its corner is below this. */
const SLIVER = 1e-13;

/** A share along an edge, by how far along it a place lies and by the square of its length. */
const clamped = (along: number, squared: number): number =>
  squared > 0 ? Math.min(1, Math.max(0, along / squared)) : 0;

/** So deep down cuts go through the middle of the boxes; below that they halve the triangles, whatever they look like. */
const BY_PLACE = 96;

/** Nodes that may wait in a query: one a level. */
const DEEPEST = BY_PLACE + 34;

/**
 * Builds the boxes.
 * @param points 3 per vertex
 * @param triangles 3 vertices per triangle
 */
export function triangleBoxes(points: ArrayLike<number>, triangles: Uint32Array): TriangleBoxes {
  const total = Math.floor(triangles.length / 3);
  const middles = middlesOf(points, triangles);
  const order = new Uint32Array(total);
  for (let t = 0; t < total; t++) order[t] = t;
  const most = Math.max(1, 2 * total);
  const right = new Int32Array(most).fill(-1);
  const start = new Uint32Array(most);
  const count = new Uint32Array(most);
  let nodes = 0;
  // A right half waits with the node that it is to be the right child of; −1 for a left half, which follows at once.
  const waiting = [0, total, 0, -1];
  while (waiting.length > 0) {
    const parent = waiting.pop() as number;
    const depth = waiting.pop() as number;
    const to = waiting.pop() as number;
    const from = waiting.pop() as number;
    const node = nodes++;
    if (parent >= 0) right[parent] = node;
    start[node] = from;
    count[node] = to - from;
    if (to - from <= LEAF) continue;
    const middle = depth < BY_PLACE ? parted(order, middles, from, to) : (from + to) >> 1;
    waiting.push(middle, to, depth + 1, node, from, middle, depth + 1, -1);
    right[node] = 0;
  }
  const boxes = {
    bounds: new Float32Array(nodes * 6),
    right: right.slice(0, nodes),
    start: start.slice(0, nodes),
    count: count.slice(0, nodes),
    order,
  };
  refitBoxes(boxes, points, triangles);
  return boxes;
}

function middlesOf(points: ArrayLike<number>, triangles: Uint32Array): Float32Array {
  const out = new Float32Array(triangles.length);
  for (let t = 0; t + 2 < triangles.length; t += 3)
    for (let k = 0; k < 3; k++) {
      const a = points[triangles[t] * 3 + k];
      const b = points[triangles[t + 1] * 3 + k];
      const c = points[triangles[t + 2] * 3 + k];
      out[t + k] = Math.min(a, b, c) / 2 + Math.max(a, b, c) / 2;
    }
  return out;
}

/**
 * Parts a run of triangles; gives where the second half begins. Never an empty half.
 * @param middles 3 per triangle, in the order of `order`, and kept so
 */
function parted(order: Uint32Array, middles: Float32Array, from: number, to: number): number {
  let lowX = Infinity;
  let lowY = Infinity;
  let lowZ = Infinity;
  let highX = -Infinity;
  let highY = -Infinity;
  let highZ = -Infinity;
  for (let i = from * 3; i < to * 3; i += 3) {
    const x = middles[i];
    const y = middles[i + 1];
    const z = middles[i + 2];
    if (x < lowX) lowX = x;
    if (x > highX) highX = x;
    if (y < lowY) lowY = y;
    if (y > highY) highY = y;
    if (z < lowZ) lowZ = z;
    if (z > highZ) highZ = z;
  }
  let axis = 0;
  let low = lowX;
  let longest = highX - lowX;
  if (highY - lowY > longest) {
    axis = 1;
    low = lowY;
    longest = highY - lowY;
  }
  if (highZ - lowZ > longest) {
    axis = 2;
    low = lowZ;
    longest = highZ - lowZ;
  }
  const cut = low + longest / 2;
  let left = from;
  let last = to - 1;
  for (;;) {
    while (left <= last && middles[left * 3 + axis] < cut) left++;
    while (left <= last && !(middles[last * 3 + axis] < cut)) last--;
    if (left >= last) break;
    swap(order, middles, left++, last--);
  }
  // All at one place, or too near to be told apart, or not finite.
  return left > from && left < to ? left : (from + to) >> 1;
}

function swap(order: Uint32Array, middles: Float32Array, a: number, b: number): void {
  const triangle = order[a];
  order[a] = order[b];
  order[b] = triangle;
  for (let k = 0; k < 3; k++) {
    const x = middles[a * 3 + k];
    middles[a * 3 + k] = middles[b * 3 + k];
    middles[b * 3 + k] = x;
  }
}

/** Fits the boxes to points that have moved. One walk over triangles and nodes. */
export function refitBoxes(
  { bounds, right, start, count, order }: TriangleBoxes,
  points: ArrayLike<number>,
  triangles: Uint32Array,
): void {
  for (let node = right.length - 1; node >= 0; node--) {
    const at = node * 6;
    if (right[node] >= 0) {
      const a = (node + 1) * 6;
      const b = right[node] * 6;
      for (let k = 0; k < 3; k++) {
        bounds[at + k] = Math.min(bounds[a + k], bounds[b + k]);
        bounds[at + 3 + k] = Math.max(bounds[a + 3 + k], bounds[b + 3 + k]);
      }
      continue;
    }
    let lowX = Infinity;
    let lowY = Infinity;
    let lowZ = Infinity;
    let highX = -Infinity;
    let highY = -Infinity;
    let highZ = -Infinity;
    for (let i = start[node]; i < start[node] + count[node]; i++)
      for (let corner = order[i] * 3; corner < order[i] * 3 + 3; corner++) {
        const vertex = triangles[corner] * 3;
        const x = points[vertex];
        const y = points[vertex + 1];
        const z = points[vertex + 2];
        if (x < lowX) lowX = x;
        if (x > highX) highX = x;
        if (y < lowY) lowY = y;
        if (y > highY) highY = y;
        if (z < lowZ) lowZ = z;
        if (z > highZ) highZ = z;
      }
    bounds[at] = lowX;
    bounds[at + 1] = lowY;
    bounds[at + 2] = lowZ;
    bounds[at + 3] = highX;
    bounds[at + 4] = highY;
    bounds[at + 5] = highZ;
  }
}

/** Searches a surface. It reads the points that it was given as they are; after they have moved, `refit`. */
export class TriangleTree {
  readonly boxes: TriangleBoxes;
  private readonly waiting = new Int32Array(DEEPEST);
  private readonly gaps = new Float64Array(DEEPEST);
  private readonly closest = new Float64Array(7);
  /** Vertices of the triangles in the order of the tree, so that those of a leaf lie beside each other. */
  private readonly inOrder: Uint32Array;
  private readonly origin = new Float64Array(3);
  private readonly direction = new Float64Array(3);

  /**
   * @param points 3 per vertex
   * @param triangles 3 vertices per triangle
   * @param boxes those that were built for them elsewhere; built here by itself
   */
  constructor(
    readonly points: ArrayLike<number>,
    readonly triangles: Uint32Array,
    boxes?: TriangleBoxes,
  ) {
    this.boxes = boxes ?? triangleBoxes(points, triangles);
    const { order } = this.boxes;
    this.inOrder = new Uint32Array(order.length * 3);
    for (let i = 0; i < order.length; i++)
      for (let k = 0; k < 3; k++) this.inOrder[i * 3 + k] = triangles[order[i] * 3 + k];
  }

  refit(): void {
    refitBoxes(this.boxes, this.points, this.triangles);
  }

  /** The place of the surface closest to another, within a distance; null where there is none. */
  closestPoint(x: number, y: number, z: number, within = Infinity): SurfacePlace | null {
    const { bounds, right, start, count, order } = this.boxes;
    const { waiting, gaps, closest } = this;
    let best = within * within;
    let found = -1;
    let px = 0;
    let py = 0;
    let pz = 0;
    let u = 0;
    let v = 0;
    let w = 0;
    let top = 0;
    waiting[0] = 0;
    gaps[0] = gapTo(bounds, 0, x, y, z);
    while (top >= 0) {
      let node = waiting[top];
      if (!(gaps[top--] <= best)) continue;
      // Down to a leaf by the nearer child; the other one waits.
      while (right[node] >= 0) {
        const a = node + 1;
        const b = right[node];
        const toA = gapTo(bounds, a, x, y, z);
        const toB = gapTo(bounds, b, x, y, z);
        const isANear = toA <= toB;
        const far = isANear ? toB : toA;
        if (far <= best) {
          waiting[++top] = isANear ? b : a;
          gaps[top] = far;
        }
        node = isANear ? a : b;
      }
      for (let i = start[node]; i < start[node] + count[node]; i++) {
        this.closestOn(i, x, y, z);
        if (!(closest[6] < best || (closest[6] === best && found < 0))) continue;
        best = closest[6];
        found = order[i];
        px = closest[0];
        py = closest[1];
        pz = closest[2];
        u = closest[3];
        v = closest[4];
        w = closest[5];
      }
    }
    if (found < 0) return null;
    return { triangle: found, point: [px, py, pz], corners: [u, v, w], distance: Math.sqrt(best) };
  }

  /** Visits every triangle that comes as near as `radius` to a place, with the square of its distance. */
  within(
    x: number,
    y: number,
    z: number,
    radius: number,
    visit: (triangle: number, squared: number) => void,
  ): void {
    const limit = radius * radius;
    const { order } = this.boxes;
    this.walkNear(x, y, z, limit, (i) => {
      this.closestOn(i, x, y, z);
      if (this.closest[6] <= limit) visit(order[i], this.closest[6]);
      return limit;
    });
  }

  /** Visits every triangle whose box's leaf comes as near as `radius` to a place: all that are as near, and some others. */
  near(x: number, y: number, z: number, radius: number, visit: (triangle: number) => void): void {
    const limit = radius * radius;
    const { order } = this.boxes;
    this.walkNear(x, y, z, limit, (i) => {
      visit(order[i]);
      return limit;
    });
  }

  /** Tells of triangles, by their places in the order, in boxes no farther than the square root of `limit`, near ones first; what is told may lower it. */
  private walkNear(x: number, y: number, z: number, limit: number, tell: (place: number) => number): void {
    const { bounds, right, start, count } = this.boxes;
    const { waiting, gaps } = this;
    let most = limit;
    let top = 0;
    waiting[0] = 0;
    gaps[0] = gapTo(bounds, 0, x, y, z);
    while (top >= 0) {
      const node = waiting[top];
      if (!(gaps[top--] <= most)) continue;
      if (right[node] < 0) {
        for (let i = start[node]; i < start[node] + count[node]; i++) most = tell(i);
        continue;
      }
      const a = node + 1;
      const b = right[node];
      const toA = gapTo(bounds, a, x, y, z);
      const toB = gapTo(bounds, b, x, y, z);
      const isANear = toA <= toB;
      waiting[++top] = isANear ? b : a;
      gaps[top] = isANear ? toB : toA;
      waiting[++top] = isANear ? a : b;
      gaps[top] = isANear ? toA : toB;
    }
  }

  /**
   * The closest point of the triangle at a place of the order (Ericson, *Real-Time Collision Detection*, 5.1.5) into `closest`: the place, the
   * weights of the corners, the square of the distance.
   */
  private closestOn(place: number, x: number, y: number, z: number): void {
    const { points, inOrder, closest } = this;
    const a = inOrder[place * 3] * 3;
    const b = inOrder[place * 3 + 1] * 3;
    const c = inOrder[place * 3 + 2] * 3;
    const ax = points[a];
    const ay = points[a + 1];
    const az = points[a + 2];
    const abx = points[b] - ax;
    const aby = points[b + 1] - ay;
    const abz = points[b + 2] - az;
    const acx = points[c] - ax;
    const acy = points[c + 1] - ay;
    const acz = points[c + 2] - az;
    const d1 = abx * (x - ax) + aby * (y - ay) + abz * (z - az);
    const d2 = acx * (x - ax) + acy * (y - ay) + acz * (z - az);
    const abab = abx * abx + aby * aby + abz * abz;
    const abac = abx * acx + aby * acy + abz * acz;
    const acac = acx * acx + acy * acy + acz * acz;
    let v = 0;
    let w = 0;
    // Against B and C: d3 = ab·bp, d4 = ac·bp, d5 = ab·cp, d6 = ac·cp.
    const d3 = d1 - abab;
    const d4 = d2 - abac;
    const d5 = d1 - abac;
    const d6 = d2 - acac;
    const vc = d1 * d4 - d3 * d2;
    const vb = d5 * d2 - d1 * d6;
    const va = d3 * d6 - d5 * d4;
    if (abab * acac - abac * abac <= SLIVER * abab * acac) {
      // Too thin for its plane to be told: it is its longest edge.
      const bcbc = abab - 2 * abac + acac;
      if (abab >= acac && abab >= bcbc) v = clamped(d1, abab);
      else if (acac >= bcbc) w = clamped(d2, acac);
      else {
        w = clamped(d4 - d3, bcbc);
        v = 1 - w;
      }
    } else if (d1 <= 0 && d2 <= 0) v = 0;
    else if (d3 >= 0 && d4 <= d3) v = 1;
    else if (d6 >= 0 && d5 <= d6) w = 1;
    else if (vc <= 0 && d1 >= 0 && d3 <= 0) v = d1 / (d1 - d3);
    else if (vb <= 0 && d2 >= 0 && d6 <= 0) w = d2 / (d2 - d6);
    else if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
      w = (d4 - d3) / (d4 - d3 + (d5 - d6));
      v = 1 - w;
    } else {
      v = vb / (va + vb + vc);
      w = vc / (va + vb + vc);
    }
    const px = ax + v * abx + w * acx;
    const py = ay + v * aby + w * acy;
    const pz = az + v * abz + w * acz;
    closest[0] = px;
    closest[1] = py;
    closest[2] = pz;
    closest[3] = 1 - v - w;
    closest[4] = v;
    closest[5] = w;
    closest[6] = (px - x) ** 2 + (py - y) ** 2 + (pz - z) ** 2;
  }

  /**
   * Where a ray first meets the surface, from either side (Möller & Trumbore 1997); null where it does not.
   * @param isTried leaves triangles out that are not to be met
   */
  firstHit(
    origin: ArrayLike<number>,
    direction: ArrayLike<number>,
    isTried: (triangle: number) => boolean = () => true,
  ): SurfacePlace | null {
    let best: SurfacePlace | null = null;
    this.walkRay(origin, direction, (triangle) => {
      const hit = isTried(triangle) ? this.meet(triangle) : null;
      if (hit && (!best || hit.distance < best.distance)) best = hit;
      return best?.distance ?? Infinity;
    });
    return best;
  }

  /** Every place where a ray meets the surface, near ones first. */
  allHits(origin: ArrayLike<number>, direction: ArrayLike<number>): SurfacePlace[] {
    const hits: SurfacePlace[] = [];
    this.walkRay(origin, direction, (triangle) => {
      const hit = this.meet(triangle);
      if (hit) hits.push(hit);
      return Infinity;
    });
    return hits.sort((a, b) => a.distance - b.distance);
  }

  private walkRay(
    origin: ArrayLike<number>,
    direction: ArrayLike<number>,
    tell: (triangle: number) => number,
  ): void {
    const { bounds, right, start, count, order } = this.boxes;
    const { waiting, gaps } = this;
    for (let k = 0; k < 3; k++) {
      this.origin[k] = origin[k];
      this.direction[k] = direction[k];
    }
    let most = Infinity;
    let top = 0;
    waiting[0] = 0;
    gaps[0] = this.entry(bounds, 0);
    while (top >= 0) {
      const node = waiting[top];
      const enters = gaps[top--];
      if (!(enters < Infinity) || enters > most) continue;
      if (right[node] < 0) {
        for (let i = start[node]; i < start[node] + count[node]; i++) most = tell(order[i]);
        continue;
      }
      const a = node + 1;
      const b = right[node];
      const intoA = this.entry(bounds, a);
      const intoB = this.entry(bounds, b);
      const isANear = intoA <= intoB;
      waiting[++top] = isANear ? b : a;
      gaps[top] = isANear ? intoB : intoA;
      waiting[++top] = isANear ? a : b;
      gaps[top] = isANear ? intoA : intoB;
    }
  }

  /** Where the ray enters a box; Infinity where it misses. */
  private entry(bounds: Float32Array, node: number): number {
    let from = 0;
    let to = Infinity;
    for (let k = 0; k < 3; k++) {
      const low = bounds[node * 6 + k] - this.origin[k];
      const high = bounds[node * 6 + 3 + k] - this.origin[k];
      const along = this.direction[k];
      if (along === 0) {
        if (low > 0 || high < 0) return Infinity;
        continue;
      }
      const one = low / along;
      const other = high / along;
      from = Math.max(from, Math.min(one, other));
      to = Math.min(to, Math.max(one, other));
    }
    // A flat box is entered where it is left, give or take the last digit.
    return from <= to * (1 + 1e-7) + 1e-12 ? from : Infinity;
  }

  private meet(triangle: number): SurfacePlace | null {
    const { points, triangles, origin, direction } = this;
    const a = triangles[triangle * 3] * 3;
    const b = triangles[triangle * 3 + 1] * 3;
    const c = triangles[triangle * 3 + 2] * 3;
    const ux = points[b] - points[a];
    const uy = points[b + 1] - points[a + 1];
    const uz = points[b + 2] - points[a + 2];
    const vx = points[c] - points[a];
    const vy = points[c + 1] - points[a + 1];
    const vz = points[c + 2] - points[a + 2];
    const [dx, dy, dz] = direction;
    const px = dy * vz - dz * vy;
    const py = dz * vx - dx * vz;
    const pz = dx * vy - dy * vx;
    const determinant = ux * px + uy * py + uz * pz;
    if (determinant === 0) return null;
    const tx = origin[0] - points[a];
    const ty = origin[1] - points[a + 1];
    const tz = origin[2] - points[a + 2];
    const v = (tx * px + ty * py + tz * pz) / determinant;
    if (!(v >= 0 && v <= 1)) return null;
    const qx = ty * uz - tz * uy;
    const qy = tz * ux - tx * uz;
    const qz = tx * uy - ty * ux;
    const w = (dx * qx + dy * qy + dz * qz) / determinant;
    if (!(w >= 0 && v + w <= 1)) return null;
    const distance = (vx * qx + vy * qy + vz * qz) / determinant;
    if (!(distance >= 0)) return null;
    return {
      triangle,
      point: [origin[0] + dx * distance, origin[1] + dy * distance, origin[2] + dz * distance],
      corners: [1 - v - w, v, w],
      distance,
    };
  }
}

/** Square of the distance from a place to a box; 0 inside. */
function gapTo(bounds: Float32Array, node: number, x: number, y: number, z: number): number {
  const at = node * 6;
  let sum = 0;
  let gap = bounds[at] - x;
  if (gap < 0) gap = x - bounds[at + 3];
  if (gap > 0) sum = gap * gap;
  gap = bounds[at + 1] - y;
  if (gap < 0) gap = y - bounds[at + 4];
  if (gap > 0) sum += gap * gap;
  gap = bounds[at + 2] - z;
  if (gap < 0) gap = z - bounds[at + 5];
  if (gap > 0) sum += gap * gap;
  return sum;
}

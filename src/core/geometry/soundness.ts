/**
 * Where polygons do not make a sound surface: borders, edges of more than two faces, fans that meet in one point, faces
 * without area, faces that are there twice, and a winding that changes from one face to the next. Over welded points; what
 * merely touches, each with vertices of its own, is not joined. Linear in corners but for small sorts.
 */
import { UNPAIRED, type HalfEdges } from './half-edges';
import { Groups } from './weld';

/** WeldedPolygons over vertices: polygon p has the corners offsets[p] … offsets[p + 1]; a point is one or several vertices. */
export interface WeldedPolygons {
  readonly offsets: Uint32Array;
  readonly corners: Uint32Array;
  readonly pointOfVertex: Uint32Array;
  readonly pointCount: number;
}

/**
 * The border half-edges of a mesh, loop by loop, each loop in the order of its faces' winding. From the end of one the next
 * is found by turning round the faces at that point, so that two borders that touch in a point stay two. A border that runs
 * into an edge of more than two faces makes no loop.
 */
export function borderLoops({ origin, next, twin }: HalfEdges): Uint32Array[] {
  const seen = new Uint8Array(origin.length);
  const loops: Uint32Array[] = [];
  for (let start = 0; start < origin.length; start++) {
    if (twin[start] !== -1 || seen[start]) continue;
    const loop: number[] = [];
    let at = start;
    while (at >= 0 && !seen[at]) {
      seen[at] = 1;
      loop.push(at);
      at = nextOnBorder(next, twin, at);
    }
    if (at === start) loops.push(Uint32Array.from(loop));
  }
  return loops;
}

function nextOnBorder(next: Uint32Array, twin: Int32Array, from: number): number {
  let at = next[from];
  while (twin[at] >= 0) at = next[twin[at]];
  return twin[at] === -1 ? at : -1;
}

/** Faces that have all their points in common with another one. */
export interface DoubledFaces {
  /** Those that are wound as the one before: drawn twice in one place. Ascending. */
  readonly same: Uint32Array;
  /** Those that are wound the other way: the back of a face that is seen from both sides. Ascending. */
  readonly backs: Uint32Array;
}

/** The faces that are there more than once, but for the first of each. A face of fewer than three points is none. */
export function doubledFaces(polygons: WeldedPolygons): DoubledFaces {
  const { offsets, corners, pointOfVertex } = polygons;
  const faceCount = Math.max(0, offsets.length - 1);
  const keys = new Uint32Array(faceCount);
  for (let face = 0; face < faceCount; face++) keys[face] = keyOf(polygons, face);
  // Faces by the remainder of their key: the newest of each, and for every face the one before it.
  const mask = 2 ** Math.ceil(Math.log2(faceCount + 2)) * 2 - 1;
  const newest = new Int32Array(mask + 1).fill(-1);
  const before = new Int32Array(faceCount);
  const ringOf = (face: number) =>
    Array.from(corners.subarray(offsets[face], offsets[face + 1]), (vertex) => pointOfVertex[vertex]);
  const same: number[] = [];
  const backs: number[] = [];
  for (let face = 0; face < faceCount; face++) {
    const slot = keys[face] & mask;
    let ways = 0;
    for (let other = newest[slot]; other >= 0 && ways !== 1; other = before[other])
      if (keys[other] === keys[face]) ways = wayRound(ringOf(face), ringOf(other)) || ways;
    before[face] = newest[slot];
    newest[slot] = face;
    if (ways === 1) same.push(face);
    else if (ways === -1) backs.push(face);
  }
  return { same: Uint32Array.from(same), backs: Uint32Array.from(backs) };
}

/** A whole number that is the same for every order of the same points. */
function keyOf({ offsets, corners, pointOfVertex }: WeldedPolygons, face: number): number {
  let sum = 0;
  let mixed = 0;
  for (let k = offsets[face]; k < offsets[face + 1]; k++) {
    const point = pointOfVertex[corners[k]];
    sum = (sum + point) | 0;
    mixed ^= Math.imul(point + 1, 0x9e3779b1);
  }
  return (Math.imul(sum, 0x85ebca6b) ^ mixed ^ (mixed >>> 15)) >>> 0;
}

/** 1 where two rings hold the same points the same way round, −1 the other way round, 0 where they do not. */
function wayRound(ring: readonly number[], other: readonly number[]): -1 | 0 | 1 {
  const count = ring.length;
  const begin = other.indexOf(ring[0]);
  if (count < 3 || other.length !== count || begin < 0) return 0;
  if (ring.every((point, k) => other[(begin + k) % count] === point)) return 1;
  return ring.every((point, k) => other[(begin - k + count) % count] === point) ? -1 : 0;
}

/**
 * Half-edges of edges that more than two faces share, as one sheet that splits in two would. Faces count as sharing an edge
 * where they have a vertex of it in common, not where they only touch there.
 * @param isLeftOut 1 per face that does not count: the back of another one, or one without area
 */
export function crowdedEdges(
  { corners }: WeldedPolygons,
  { next, polygon, edge, twin, faces }: HalfEdges,
  isLeftOut: ArrayLike<number>,
): number[][] {
  const byEdge = new Map<number, number[]>();
  for (let half = 0; half < corners.length; half++) {
    if (twin[half] !== UNPAIRED || faces[edge[half]] < 3 || isLeftOut[polygon[half]]) continue;
    const list = byEdge.get(edge[half]);
    if (list) list.push(half);
    else byEdge.set(edge[half], [half]);
  }
  return [...byEdge.values()].flatMap((halves) =>
    joinedBy(halves, (half) => [corners[half], corners[next[half]]]).filter((group) => group.length > 2),
  );
}

/** Groups of items that have something in common, directly or through others. */
function joinedBy(items: readonly number[], thingsOf: (item: number) => readonly number[]): number[][] {
  const groups = new Groups(items.length);
  const first = new Map<number, number>();
  items.forEach((item, i) => {
    for (const thing of thingsOf(item)) {
      const known = first.get(thing);
      if (known === undefined) first.set(thing, i);
      else groups.join(known, i);
    }
  });
  const byRoot = new Map<number, number[]>();
  items.forEach((item, i) => {
    const root = groups.find(i);
    byRoot.set(root, [...(byRoot.get(root) ?? []), item]);
  });
  return [...byRoot.values()];
}

/**
 * Vertices in which fans of faces meet that have no edge in common, as two cones at their tips: by vertex the corners of each
 * fan but the largest.
 * @param joined of an edge of more than two faces the half-edges that count as joined by it; all of them where it is not in it
 */
export function pinchedVertices(
  { corners }: WeldedPolygons,
  { next, twin, edge, faces, origin }: HalfEdges,
  joined: ReadonlyMap<number, readonly number[]> = new Map(),
): Map<number, number[][]> {
  const fanOf = fansOf(next, twin);
  const groups = new Map<number, number>();
  const rootOf = (fan: number): number => {
    let root = fan;
    for (let above = groups.get(root); above !== undefined; above = groups.get(root)) root = above;
    return root;
  };
  const join = (one: number, other: number) => {
    const [low, high] = [rootOf(fanOf[one]), rootOf(fanOf[other])];
    if (low !== high) groups.set(Math.max(low, high), Math.min(low, high));
  };
  const first = new Map<number, number>();
  for (let half = 0; half < corners.length; half++) {
    if (twin[half] !== UNPAIRED || faces[edge[half]] < 2) continue;
    if (joined.get(edge[half])?.includes(half) === false) continue;
    const other = first.get(edge[half]);
    if (other === undefined) {
      first.set(edge[half], half);
      continue;
    }
    // The corners at either end of the edge, whichever way round the two run along it.
    const isAlike = origin[half] === origin[other];
    join(half, isAlike ? other : next[other]);
    join(next[half], isAlike ? next[other] : other);
  }
  return fansByVertex(corners, groups.size > 0 ? fanOf.map(rootOf) : fanOf);
}

/** For every corner the fan that it is in, by one of the corners of it: those that are reached by turning round their point. */
function fansOf(next: Uint32Array, twin: Int32Array): Int32Array {
  const fanOf = new Int32Array(next.length).fill(-1);
  const way: number[] = [];
  for (let start = 0; start < next.length; start++) {
    if (fanOf[start] >= 0) continue;
    let at = start;
    let fan = -1;
    while (fan < 0) {
      way.push(at);
      const other = twin[at];
      if (other < 0 || next[other] === start) fan = start;
      else {
        at = next[other];
        // Where an open fan was begun further on already.
        fan = fanOf[at];
      }
    }
    for (const corner of way) fanOf[corner] = fan;
    way.length = 0;
  }
  return fanOf;
}

/** Of vertices with more than one fan the corners of each but the largest. */
function fansByVertex(corners: Uint32Array, fanOf: Int32Array): Map<number, number[][]> {
  const vertexCount = corners.reduce((most, vertex) => Math.max(most, vertex), -1) + 1;
  const firstFan = new Int32Array(vertexCount).fill(-1);
  const byVertex = new Map<number, Map<number, number[]>>();
  for (let corner = 0; corner < corners.length; corner++) {
    const fan = fanOf[corner];
    const known = firstFan[corners[corner]];
    if (known < 0) firstFan[corners[corner]] = fan;
    else if (known !== fan) byVertex.set(corners[corner], new Map());
  }
  for (let corner = 0; byVertex.size > 0 && corner < corners.length; corner++) {
    const found = byVertex.get(corners[corner]);
    if (!found) continue;
    const fan = fanOf[corner];
    const list = found.get(fan);
    if (list) list.push(corner);
    else found.set(fan, [corner]);
  }
  return new Map(
    [...byVertex].map(([vertex, found]) => {
      const bySize = [...found.values()].sort((one, other) => other.length - one.length);
      return [vertex, bySize.slice(1)];
    }),
  );
}

/** A face with less area than this share of the square of its outline has none. */
const NO_AREA = 1e-8;

/**
 * Faces without area: all their points on a line, or in one place.
 * @param positions 3 per vertex
 */
export function facesWithoutArea(
  { offsets, corners }: WeldedPolygons,
  positions: ArrayLike<number>,
): Uint32Array {
  const out: number[] = [];
  for (let face = 0; face + 1 < offsets.length; face++) {
    const [from, to] = [offsets[face], offsets[face + 1]];
    const origin = corners[from] * 3;
    let around = 0;
    let nx = 0;
    let ny = 0;
    let nz = 0;
    // About its own first corner, so that far places lose no digits.
    let ax = 0;
    let ay = 0;
    let az = 0;
    for (let k = from + 1; k <= to; k++) {
      const at = corners[k === to ? from : k] * 3;
      const bx = positions[at] - positions[origin];
      const by = positions[at + 1] - positions[origin + 1];
      const bz = positions[at + 2] - positions[origin + 2];
      around += Math.sqrt((bx - ax) * (bx - ax) + (by - ay) * (by - ay) + (bz - az) * (bz - az));
      nx += ay * bz - az * by;
      ny += az * bx - ax * bz;
      nz += ax * by - ay * bx;
      ax = bx;
      ay = by;
      az = bz;
    }
    if (Math.hypot(nx, ny, nz) / 2 <= NO_AREA * around * around) out.push(face);
  }
  return Uint32Array.from(out);
}

/**
 * How the faces of each connected piece agree: faces across an edge should run along it opposite ways. Each piece is put
 * into two camps, so that all agree once one camp is turned round.
 * @returns 1 per face: 0 or 1, its camp, or −1 in a piece that cannot agree (a band with one side)
 */
export function windingCamps(offsets: Uint32Array, half: HalfEdges): Int8Array {
  const faceCount = Math.max(0, offsets.length - 1);
  const camp = new Int8Array(faceCount).fill(-2);
  const across = acrossEdges(half);
  const { origin, polygon } = half;
  // The faces in the order in which they are come to: those of a piece follow each other.
  const order = new Uint32Array(faceCount);
  let end = 0;
  for (let start = 0; start < faceCount; start++) {
    if (camp[start] !== -2) continue;
    const begin = end;
    let agrees = true;
    camp[start] = 0;
    order[end++] = start;
    for (let i = begin; i < end; i++) {
      const face = order[i];
      for (let h = offsets[face]; h < offsets[face + 1]; h++) {
        const other = across[h];
        if (other < 0) continue;
        const wanted = origin[h] === origin[other] ? 1 - camp[face] : camp[face];
        const neighbour = polygon[other];
        if (camp[neighbour] === -2) {
          camp[neighbour] = wanted;
          order[end++] = neighbour;
        } else if (camp[neighbour] !== wanted) agrees = false;
      }
    }
    if (!agrees) for (let i = begin; i < end; i++) camp[order[i]] = -1;
  }
  return camp;
}

/** The half-edge on the other side of every edge of two faces, whichever way round it runs; −1 for none. */
function acrossEdges({ edge, faces, twin }: HalfEdges): Int32Array {
  if (!twin.includes(UNPAIRED)) return twin;
  const first = new Int32Array(faces.length).fill(-1);
  const across = twin.map((other) => Math.max(-1, other));
  for (let half = 0; half < edge.length; half++) {
    if (twin[half] !== UNPAIRED || faces[edge[half]] !== 2) continue;
    const other = first[edge[half]];
    if (other < 0) first[edge[half]] = half;
    else [across[half], across[other]] = [other, half];
  }
  return across;
}

/** Vertices − edges + faces of one closed surface, and how many handles that makes. */
export interface EulerNumbers {
  readonly vertices: number;
  readonly edges: number;
  readonly faces: number;
  readonly borders: number;
  /** (2 − borders − vertices + edges − faces) / 2; null where the surface is not sound enough for it to be whole. */
  readonly genus: number | null;
}

/**
 * Euler's numbers of each connected piece, over points.
 * @param pieceOf by face
 * @param loops of the border, as {@link borderLoops} has them
 */
export function eulerNumbers(
  { offsets, corners, pointOfVertex, pointCount }: WeldedPolygons,
  half: HalfEdges,
  { count, islandOf }: { readonly count: number; readonly islandOf: ArrayLike<number> },
  loops: readonly Uint32Array[],
): EulerNumbers[] {
  const tally = Array.from({ length: count }, () => ({ vertices: 0, edges: 0, faces: 0, borders: 0 }));
  const seenPoint = new Uint8Array(pointCount);
  const seenEdge = new Uint8Array(half.faces.length);
  for (let face = 0; face + 1 < offsets.length; face++) {
    const own = tally[islandOf[face]];
    if (!own) continue;
    own.faces++;
    for (let h = offsets[face]; h < offsets[face + 1]; h++) {
      const point = pointOfVertex[corners[h]];
      if (!seenPoint[point]) {
        seenPoint[point] = 1;
        own.vertices++;
      }
      if (!seenEdge[half.edge[h]]) {
        seenEdge[half.edge[h]] = 1;
        own.edges++;
      }
    }
  }
  for (const loop of loops) tally[islandOf[half.polygon[loop[0]]]].borders++;
  return tally.map((own) => {
    const handles = (2 - own.borders - own.vertices + own.edges - own.faces) / 2;
    return { ...own, genus: Number.isInteger(handles) && handles >= 0 ? handles : null };
  });
}

/**
 * Half-edges and neighbours of a mesh of any polygons, over points that vertices were welded to. Half-edge `h` is corner
 * `h` of the polygons: it runs from the point of that corner to the point of the next corner of its polygon. Edges are
 * found by a counting sort over their lower point and a short walk within it, so that the cost is linear in corners and
 * nothing is hashed.
 */

/** Half-edges of polygons over points. */
export interface HalfEdges {
  /** Point where every half-edge begins. */
  readonly origin: Uint32Array;
  /** The half-edge after it round its polygon. */
  readonly next: Uint32Array;
  /** Its polygon. */
  readonly polygon: Uint32Array;
  /** Its edge. */
  readonly edge: Uint32Array;
  /**
   * The half-edge that runs the other way along the same edge; −1 on a border, −2 where more than two polygons share the
   * edge or both run along it the same way round.
   */
  readonly twin: Int32Array;
  /** 2 points per edge, the lower first. */
  readonly ends: Uint32Array;
  /** How many polygons run along every edge. */
  readonly faces: Uint32Array;
}

/** Half-edges at a point beyond which they are sorted and not walked through for each: a fan of a whole file stays quick. */
const MANY = 64;

/** The corner in which a border half-edge has no twin, and that of an edge that has no single one. */
export const BORDER = -1;
export const UNPAIRED = -2;

/**
 * Builds the half-edges. A polygon that has a point twice in a row gives an edge from that point to itself.
 * @param offsets polygon p has the corners offsets[p] … offsets[p + 1]
 * @param corners vertex of every corner
 * @param pointOfVertex welds the vertices that seams split
 */
export function halfEdgesOf(
  offsets: Uint32Array,
  corners: Uint32Array,
  pointOfVertex: Uint32Array,
  pointCount: number,
): HalfEdges {
  const count = corners.length;
  const origin = new Uint32Array(count);
  const next = new Uint32Array(count);
  const polygon = new Uint32Array(count);
  for (let p = 0; p + 1 < offsets.length; p++) {
    const start = offsets[p];
    const end = offsets[p + 1];
    for (let h = start; h < end; h++) {
      origin[h] = pointOfVertex[corners[h]];
      next[h] = h + 1 === end ? start : h + 1;
      polygon[h] = p;
    }
  }
  const { starts, order, higher } = sortedByLowerPoint(origin, next, pointCount);
  const edge = new Uint32Array(count);
  const twin = new Int32Array(count).fill(BORDER);
  const ends = new Uint32Array(count * 2);
  const faces = new Uint32Array(count);
  // The half-edge that an edge was met with first.
  const first = new Uint32Array(count);
  let edgeCount = 0;
  for (let low = 0; low < pointCount; low++) {
    const begin = edgeCount;
    const end = starts[low + 1];
    const isSorted = end - starts[low] > MANY;
    if (isSorted) sortByHigherPoint(order, higher, starts[low], end);
    for (let i = starts[low]; i < end; i++) {
      const h = order[i];
      const high = higher[i];
      let e = isSorted ? Math.max(begin, edgeCount - 1) : begin;
      while (e < edgeCount && ends[e * 2 + 1] !== high) e++;
      if (e === edgeCount) {
        ends[e * 2] = low;
        ends[e * 2 + 1] = high;
        first[e] = h;
        edgeCount++;
      }
      edge[h] = e;
      faces[e]++;
      pair(h, first[e], faces[e], origin, twin);
    }
  }
  // The first of a crowded edge was paired before the third came.
  for (let h = 0; h < count; h++) if (faces[edge[h]] > 2) twin[h] = UNPAIRED;
  return {
    origin,
    next,
    polygon,
    edge,
    twin,
    ends: ends.slice(0, edgeCount * 2),
    faces: faces.slice(0, edgeCount),
  };
}

function pair(h: number, other: number, faces: number, origin: Uint32Array, twin: Int32Array): void {
  if (faces !== 2) return;
  const isOpposite = origin[h] !== origin[other];
  twin[h] = isOpposite ? other : UNPAIRED;
  twin[other] = isOpposite ? h : UNPAIRED;
}

/** Half-edges in some order, each with the higher of its two points at hand: looked up one by one they lie all over memory. */
interface ByLowerPoint {
  /** Those of point p are order[starts[p]] … order[starts[p + 1] − 1]. */
  readonly starts: Uint32Array;
  readonly order: Uint32Array;
  readonly higher: Uint32Array;
}

/** The half-edges in the order of the lower of their two points; within a point in their own order. */
function sortedByLowerPoint(origin: Uint32Array, next: Uint32Array, pointCount: number): ByLowerPoint {
  const count = origin.length;
  const starts = new Uint32Array(pointCount + 1);
  for (let h = 0; h < count; h++) starts[Math.min(origin[h], origin[next[h]]) + 1]++;
  for (let p = 0; p < pointCount; p++) starts[p + 1] += starts[p];
  const at = starts.slice(0, pointCount);
  const order = new Uint32Array(count);
  const higher = new Uint32Array(count);
  for (let h = 0; h < count; h++) {
    const from = origin[h];
    const to = origin[next[h]];
    const place = at[Math.min(from, to)]++;
    order[place] = h;
    higher[place] = Math.max(from, to);
  }
  return { starts, order, higher };
}

/** Sorts a part of the order by the higher point, within that as it stands. */
function sortByHigherPoint(order: Uint32Array, higher: Uint32Array, from: number, to: number): void {
  const rows = Array.from({ length: to - from }, (_, i) => [higher[from + i], order[from + i]] as const);
  rows.sort((one, other) => one[0] - other[0] || one[1] - other[1]);
  rows.forEach(([high, half], i) => {
    higher[from + i] = high;
    order[from + i] = half;
  });
}

/** Neighbours of points along edges: point p has neighbours[offsets[p]] … neighbours[offsets[p + 1] − 1], ascending. */
export interface PointNeighbours {
  readonly offsets: Uint32Array;
  readonly neighbours: Uint32Array;
}

/** The neighbours of every point along edges, each once. Linear in edges but for the sorting of each point's few. */
export function neighboursOf({ ends }: Pick<HalfEdges, 'ends'>, pointCount: number): PointNeighbours {
  const offsets = new Uint32Array(pointCount + 1);
  for (let i = 0; i < ends.length; i += 2) {
    if (ends[i] === ends[i + 1]) continue;
    offsets[ends[i] + 1]++;
    offsets[ends[i + 1] + 1]++;
  }
  for (let p = 0; p < pointCount; p++) offsets[p + 1] += offsets[p];
  const at = offsets.slice(0, pointCount);
  const neighbours = new Uint32Array(offsets[pointCount]);
  for (let i = 0; i < ends.length; i += 2) {
    if (ends[i] === ends[i + 1]) continue;
    neighbours[at[ends[i]]++] = ends[i + 1];
    neighbours[at[ends[i + 1]]++] = ends[i];
  }
  for (let p = 0; p < pointCount; p++) sortRow(neighbours, offsets[p], offsets[p + 1]);
  return { offsets, neighbours };
}

/** Sorts row[from] … row[to − 1]: by insertion where they are few, as they nearly always are. */
function sortRow(row: Uint32Array, from: number, to: number): void {
  if (to - from > MANY) {
    row.subarray(from, to).sort();
    return;
  }
  for (let i = from + 1; i < to; i++) {
    const one = row[i];
    let at = i;
    for (; at > from && row[at - 1] > one; at--) row[at] = row[at - 1];
    row[at] = one;
  }
}

/** The polygons round every point: point p has polygons[offsets[p]] … polygons[offsets[p + 1] − 1], ascending, each once. */
export interface PointPolygons {
  readonly offsets: Uint32Array;
  readonly polygons: Uint32Array;
}

/** The polygons that have a point among their corners. Linear in corners. */
export function polygonsOfPoints(
  offsets: Uint32Array,
  corners: Uint32Array,
  pointOfVertex: Uint32Array,
  pointCount: number,
): PointPolygons {
  const starts = new Uint32Array(pointCount + 1);
  // The polygon that a point was met in last: one that has it twice counts once.
  const last = new Int32Array(pointCount).fill(-1);
  const each = (tell: (point: number, polygon: number) => void) => {
    last.fill(-1);
    for (let p = 0; p + 1 < offsets.length; p++)
      for (let k = offsets[p]; k < offsets[p + 1]; k++) {
        const point = pointOfVertex[corners[k]];
        if (last[point] === p) continue;
        last[point] = p;
        tell(point, p);
      }
  };
  each((point) => starts[point + 1]++);
  for (let p = 0; p < pointCount; p++) starts[p + 1] += starts[p];
  const at = starts.slice(0, pointCount);
  const polygons = new Uint32Array(starts[pointCount]);
  each((point, polygon) => {
    polygons[at[point]++] = polygon;
  });
  return { offsets: starts, polygons };
}

/** Elements of meshes near a place of the surface, and which of some are seen. */
import type { DrawnMesh } from '../layers/drawn-mesh';
import type { Stage } from '../stage';
import type { Hit, Marks } from '../view';

/** The vertices of every point of a mesh: point p has vertices[offsets[p]] … vertices[offsets[p + 1] − 1]. */
interface VerticesOfPoints {
  readonly offsets: Uint32Array;
  readonly vertices: Uint32Array;
}

const known = new WeakMap<Uint32Array, VerticesOfPoints>();

function verticesOfPoints(pointOfVertex: Uint32Array): VerticesOfPoints {
  const before = known.get(pointOfVertex);
  if (before) return before;
  let count = 0;
  for (const point of pointOfVertex) if (point >= count) count = point + 1;
  const offsets = new Uint32Array(count + 1);
  for (const point of pointOfVertex) offsets[point + 1]++;
  for (let point = 0; point < count; point++) offsets[point + 1] += offsets[point];
  const at = offsets.slice(0, count);
  const vertices = new Uint32Array(pointOfVertex.length);
  pointOfVertex.forEach((point, vertex) => {
    vertices[at[point]++] = vertex;
  });
  const made = { offsets, vertices };
  known.set(pointOfVertex, made);
  return made;
}

const meshOf = (stage: Stage, node: number): DrawnMesh | undefined =>
  stage.openMeshes.find((mesh) => mesh.figure.node === node);

/** Vertices with all those that a seam split their points into. By node. */
export function seamTwins(
  stage: Stage,
  chosen: ReadonlyMap<number, Uint32Array>,
): ReadonlyMap<number, Uint32Array> {
  return new Map(
    [...chosen].map(([node, ids]) => {
      const pointOfVertex = meshOf(stage, node)?.figure.pointOfVertex;
      if (!pointOfVertex) return [node, ids];
      const { offsets, vertices } = verticesOfPoints(pointOfVertex);
      const all = new Set<number>();
      for (const id of ids) {
        const point = pointOfVertex[id];
        for (let k = offsets[point]; k < offsets[point + 1]; k++) all.add(vertices[k]);
      }
      return [node, Uint32Array.from(all)];
    }),
  );
}

/**
 * Tells of all points, edges or polygons within a radius of a place, in every mesh that is shown.
 * @param from the direction in which one looks: what faces away from it is left out; null for all
 * @param tell the node, then the vertex or polygon; of an edge both its vertices
 */
export function elementsNear(
  stage: Stage,
  of: 'points' | 'edges' | 'polygons',
  place: readonly number[],
  radius: number,
  from: readonly number[] | null,
  tell: (node: number, id: number, other?: number) => void,
): void {
  for (const mesh of stage.openMeshes) {
    const { node, polygonOf } = mesh.figure;
    const isNear = (vertex: number) => mesh.distanceTo(vertex, place) <= radius;
    const edgesSeen = new Set<number>();
    mesh.eachTriangleNear(place, radius, (triangle) => {
      if (from && !mesh.faces(triangle, from)) return;
      if (of === 'polygons') tell(node, polygonOf[triangle]);
      else if (of === 'points') {
        for (const vertex of mesh.verticesOf(triangle)) if (isNear(vertex)) tell(node, vertex);
      } else if (!edgesSeen.has(polygonOf[triangle])) {
        edgesSeen.add(polygonOf[triangle]);
        const outline = mesh.outlineOf(triangle);
        for (let i = 0; i < outline.length; i += 2)
          if (isNear(outline[i]) && isNear(outline[i + 1])) tell(node, outline[i], outline[i + 1]);
      }
    });
  }
}

/** Of the polygon that was hit the edge nearest to the place: its two vertices. */
export function nearestEdge(stage: Stage, { node, triangle, place }: Hit): Uint32Array | null {
  const mesh = meshOf(stage, node);
  if (!mesh || triangle === undefined || !place) return null;
  const outline = mesh.outlineOf(triangle);
  let best: Uint32Array | null = null;
  let least = Infinity;
  for (let i = 0; i < outline.length; i += 2) {
    const away = mesh.distanceToEdge(outline[i], outline[i + 1], place);
    if (away >= least) continue;
    least = away;
    best = outline.slice(i, i + 2);
  }
  return best;
}

/** So long at a time the page looks which elements are seen, milliseconds. */
const SLICE = 5;

let latest = 0;

/**
 * Of some elements those that nothing lies before. In slices, so that the page goes on; null where it was asked anew meanwhile.
 */
export async function onlySeen(stage: Stage, found: Marks): Promise<Marks | null> {
  const turn = ++latest;
  let began = performance.now();
  const rest = async () => {
    if (performance.now() - began < SLICE) return true;
    await new Promise((done) => setTimeout(done));
    began = performance.now();
    return turn === latest;
  };
  const vertices = new Map<number, Uint32Array>();
  const polygons = new Map<number, Uint32Array>();
  const edges = new Map<number, Uint32Array>();
  for (const mesh of stage.openMeshes) {
    const { node } = mesh.figure;
    const seen: number[] = [];
    const ends = found.edges?.get(node) ?? new Uint32Array();
    for (let i = 0; i < ends.length; i += 2) {
      if (stage.isSeen(mesh.middleOf(ends.subarray(i, i + 2)))) seen.push(ends[i], ends[i + 1]);
      if (!(await rest())) return null;
    }
    if (seen.length > 0) edges.set(node, Uint32Array.from(seen));
    const points = ends.length > 0 ? seen : [];
    if (ends.length === 0)
      for (const id of found.vertices.get(node) ?? []) {
        if (stage.isSeen(mesh.middleOf([id]))) points.push(id);
        if (!(await rest())) return null;
      }
    if (points.length > 0) vertices.set(node, Uint32Array.from(new Set(points)));
    const own: number[] = [];
    for (const polygon of found.polygons.get(node) ?? []) {
      if (stage.isSeen(mesh.middleOfPolygon(polygon))) own.push(polygon);
      if (!(await rest())) return null;
    }
    if (own.length > 0) polygons.set(node, Uint32Array.from(own));
  }
  return { vertices: seamTwins(stage, vertices), polygons, edges, bones: found.bones };
}

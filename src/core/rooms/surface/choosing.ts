/** From what is chosen of meshes to more of it, less of it, or what goes with it. Seams never part a choice. */
import { islandsOfMesh } from '../../character/islands';
import { type Character, type ElementsOf, type Mesh, positionsOf } from '../../character/model';
import { pointsOf } from '../../character/points';
import { topologyOf } from '../../character/topology';
import { edgeLoopThrough } from '../../geometry/edge-loops';
import { mirrorTwins } from '../../geometry/mirror';
import { edgeRingThrough, grown, shortestWay, shrunk } from '../../geometry/surface-walk';
import { planeOfSymmetry } from '../../geometry/symmetry';

/** What can be made of a choice, with what is said of each. */
export const CHOICE_STEPS = {
  grow: { title: 'Grow', hint: 'and all that is next to it' },
  shrink: { title: 'Shrink', hint: 'without its rim' },
  invert: { title: 'Invert', hint: 'all else of these meshes' },
  part: { title: 'Part', hint: 'the whole connected pieces' },
  loop: { title: 'Loop', hint: 'on along the row of edges, or of quads, that two neighbours begin' },
  ring: { title: 'Ring', hint: 'the edges side by side with the one between two chosen points' },
  way: { title: 'Shortest way', hint: 'along edges between two chosen points' },
  twins: { title: 'Both sides', hint: 'and the same on the other side' },
  points: { title: 'Its points', hint: 'the points of the chosen polygons' },
  polygons: { title: 'Its polygons', hint: 'the polygons all of whose points are chosen' },
} as const;

export type ChoiceStep = keyof typeof CHOICE_STEPS;

/** Points and polygons of meshes, by the nodes that show them. */
export interface ChosenElements {
  readonly vertices: readonly ElementsOf[];
  readonly polygons: readonly ElementsOf[];
}

/** Twins are looked for within this share of a mesh's size. */
const TWINS = 0.002;

/** What a step makes of the points of a mesh, 1 per point; null where it makes nothing of them. */
type OnPoints = (mesh: Mesh, isIn: Uint8Array) => Uint8Array | null;

const ON_POINTS: Readonly<Partial<Record<ChoiceStep, OnPoints>>> = {
  grow: (mesh, isIn) => grown(isIn, topologyOf(mesh).neighbours),
  shrink: (mesh, isIn) => shrunk(isIn, topologyOf(mesh).neighbours),
  invert: (_, isIn) => isIn.map((flag) => 1 - flag),
  part: (mesh, isIn) => pointsOfPolygons(mesh, wholeParts(mesh, polygonsTouching(mesh, isIn))),
  loop: loopsOfPoints,
  ring: ringsOfPoints,
  way: wayBetween,
  twins: withTwins,
};

/** The same of its polygons, 1 per polygon. */
const ON_POLYGONS: Readonly<Partial<Record<ChoiceStep, OnPoints>>> = {
  grow: (mesh, isIn) => polygonsTouching(mesh, pointsOfPolygons(mesh, isIn)),
  shrink: (mesh, isIn) => {
    const isOutside = polygonsTouching(mesh, pointsOfPolygons(mesh, inverted(isIn)));
    return isIn.map((flag, polygon) => (isOutside[polygon] ? 0 : flag));
  },
  invert: (_, isIn) => inverted(isIn),
  part: wholeParts,
  loop: ringsOfQuads,
  twins: (mesh, isIn) => {
    const twins = withTwins(mesh, pointsOfPolygons(mesh, isIn));
    const both = twins && polygonsWithin(mesh, twins);
    return both && both.map((flag, polygon) => flag | isIn[polygon]);
  },
};

/** What a step makes of a choice; a sentence where it makes nothing of it. */
export function afterChoiceStep(
  character: Character,
  { vertices, polygons }: ChosenElements,
  step: ChoiceStep,
): ChosenElements | string {
  const each = (
    list: readonly ElementsOf[],
    make: (mesh: Mesh, ids: Uint32Array) => Uint8Array | null | undefined,
    idsOf: (mesh: Mesh, made: Uint8Array) => Uint32Array,
  ) =>
    list.flatMap(({ node, ids }): ElementsOf[] => {
      const mesh = character.meshes[character.nodes[node]?.mesh];
      const made = mesh && make(mesh, ids);
      const all = mesh && made ? idsOf(mesh, made) : new Uint32Array(0);
      return all.length > 0 ? [{ node, ids: all }] : [];
    });
  const polygonsIn = (mesh: Mesh, ids: Uint32Array) => flags(mesh.polygonOffsets.length - 1, ids);
  let made: ChosenElements;
  if (step === 'points')
    made = {
      vertices: each(polygons, (mesh, ids) => pointsOfPolygons(mesh, polygonsIn(mesh, ids)), verticesOf),
      polygons: [],
    };
  else if (step === 'polygons')
    made = {
      vertices: [],
      polygons: each(
        vertices,
        (mesh, ids) => polygonsWithin(mesh, pointFlags(mesh, ids)),
        (_, flagged) => set(flagged),
      ),
    };
  else
    made = {
      vertices: each(vertices, (mesh, ids) => ON_POINTS[step]?.(mesh, pointFlags(mesh, ids)), verticesOf),
      polygons: each(
        polygons,
        (mesh, ids) => ON_POLYGONS[step]?.(mesh, polygonsIn(mesh, ids)),
        (_, flagged) => set(flagged),
      ),
    };
  return made.vertices.length + made.polygons.length > 0 ? made : WHY_NOTHING[step];
}

const WHY_NOTHING: Readonly<Record<ChoiceStep, string>> = {
  grow: 'Nothing is chosen that could grow; choose points or polygons first.',
  shrink: 'Of so small a choice nothing would be left.',
  invert: 'All of it was chosen; nothing else is left.',
  part: 'Nothing is chosen that a part could be told from; choose a point or a polygon first.',
  loop: 'Choose two neighbouring points, or two neighbouring quads, that the loop is to go on from.',
  ring: 'Choose the two points of an edge that the ring is to go on from.',
  way: 'Choose two points of one part; the way goes between them.',
  twins: 'What is chosen has no twin on the other side.',
  points: 'No polygon is chosen.',
  polygons: 'No polygon has all of its points in the choice.',
};

function flags(count: number, ids: Uint32Array): Uint8Array {
  const out = new Uint8Array(count);
  for (const id of ids) if (id < count) out[id] = 1;
  return out;
}

const inverted = (isIn: Uint8Array): Uint8Array => isIn.map((flag) => 1 - flag);

function set(flagged: Uint8Array): Uint32Array {
  const out: number[] = [];
  for (let id = 0; id < flagged.length; id++) if (flagged[id]) out.push(id);
  return Uint32Array.from(out);
}

function pointFlags(mesh: Mesh, vertices: Uint32Array): Uint8Array {
  const { pointOfVertex, pointCount } = pointsOf(mesh);
  const out = new Uint8Array(pointCount);
  for (const vertex of vertices) if (vertex < pointOfVertex.length) out[pointOfVertex[vertex]] = 1;
  return out;
}

/** All vertices of the flagged points. */
function verticesOf(mesh: Mesh, isIn: Uint8Array): Uint32Array {
  const out: number[] = [];
  pointsOf(mesh).pointOfVertex.forEach((point, vertex) => {
    if (isIn[point]) out.push(vertex);
  });
  return Uint32Array.from(out);
}

function pointsOfPolygons(mesh: Mesh, isIn: Uint8Array): Uint8Array {
  const { pointOfVertex, pointCount } = pointsOf(mesh);
  const out = new Uint8Array(pointCount);
  isIn.forEach((flag, polygon) => {
    if (flag)
      for (let k = mesh.polygonOffsets[polygon]; k < mesh.polygonOffsets[polygon + 1]; k++)
        out[pointOfVertex[mesh.corners[k]]] = 1;
  });
  return out;
}

/** Polygons of which some point, or all points, are flagged. */
function polygonsBy(mesh: Mesh, isIn: Uint8Array, least: (corners: number) => number): Uint8Array {
  const { pointOfVertex } = pointsOf(mesh);
  const out = new Uint8Array(mesh.polygonOffsets.length - 1);
  for (let polygon = 0; polygon < out.length; polygon++) {
    const [from, to] = [mesh.polygonOffsets[polygon], mesh.polygonOffsets[polygon + 1]];
    let held = 0;
    for (let k = from; k < to; k++) held += isIn[pointOfVertex[mesh.corners[k]]];
    if (held >= least(to - from)) out[polygon] = 1;
  }
  return out;
}

const polygonsTouching = (mesh: Mesh, isIn: Uint8Array): Uint8Array => polygonsBy(mesh, isIn, () => 1);
const polygonsWithin = (mesh: Mesh, isIn: Uint8Array): Uint8Array =>
  polygonsBy(mesh, isIn, (corners) => corners);

function wholeParts(mesh: Mesh, isIn: Uint8Array): Uint8Array {
  const { count, islandOf } = islandsOfMesh(mesh);
  const chosen = new Uint8Array(count);
  isIn.forEach((flag, polygon) => {
    if (flag) chosen[islandOf[polygon]] = 1;
  });
  return Uint8Array.from(islandOf, (island) => chosen[island]);
}

/** Half-edges between two flagged points. */
function chosenEdges(mesh: Mesh, isIn: Uint8Array): number[] {
  const { origin, next } = topologyOf(mesh).halfEdges;
  const out: number[] = [];
  for (let half = 0; half < origin.length; half++)
    if (isIn[origin[half]] && isIn[origin[next[half]]]) out.push(half);
  return out;
}

function loopsOfPoints(mesh: Mesh, isIn: Uint8Array): Uint8Array | null {
  const { halfEdges } = topologyOf(mesh);
  return withEdges(mesh, isIn, (half) => edgeLoopThrough(halfEdges, half) ?? []);
}

function ringsOfPoints(mesh: Mesh, isIn: Uint8Array): Uint8Array | null {
  const { halfEdges } = topologyOf(mesh);
  return withEdges(mesh, isIn, (half) => edgeRingThrough(halfEdges, half));
}

/** The choice with the points of all edges that its own lead to; null where they lead to none besides. */
function withEdges(
  mesh: Mesh,
  isIn: Uint8Array,
  lead: (half: number) => readonly number[],
): Uint8Array | null {
  const { origin, next, edge } = topologyOf(mesh).halfEdges;
  const out = isIn.slice();
  const seen = new Set<number>();
  for (const half of chosenEdges(mesh, isIn)) {
    if (seen.has(edge[half])) continue;
    for (const one of lead(half)) {
      seen.add(edge[one]);
      out[origin[one]] = 1;
      out[origin[next[one]]] = 1;
    }
  }
  return out.some((flag, point) => flag !== isIn[point]) ? out : null;
}

/** Rows of quads on from two chosen ones that share an edge. */
function ringsOfQuads(mesh: Mesh, isIn: Uint8Array): Uint8Array | null {
  const { halfEdges } = topologyOf(mesh);
  const { twin, polygon } = halfEdges;
  const out = isIn.slice();
  for (let half = 0; half < twin.length; half++) {
    if (twin[half] < half || !isIn[polygon[half]] || !isIn[polygon[twin[half]]]) continue;
    for (const one of edgeRingThrough(halfEdges, half)) {
      out[polygon[one]] = 1;
      if (twin[one] >= 0) out[polygon[twin[one]]] = 1;
    }
  }
  return out.some((flag, face) => flag !== isIn[face]) ? out : null;
}

function wayBetween(mesh: Mesh, isIn: Uint8Array): Uint8Array | null {
  const chosen = set(isIn);
  if (chosen.length !== 2) return null;
  const way = shortestWay(topologyOf(mesh).neighbours, pointPlaces(mesh), chosen[0], chosen[1]);
  return way && flags(isIn.length, Uint32Array.from(way));
}

function pointPlaces(mesh: Mesh): Float32Array {
  const { vertexOfPoint } = pointsOf(mesh);
  const own = positionsOf(mesh);
  const out = new Float32Array(vertexOfPoint.length * 3);
  vertexOfPoint.forEach((vertex, point) => out.set(own.subarray(vertex * 3, vertex * 3 + 3), point * 3));
  return out;
}

/** The choice with the twins of its points about the mesh's own plane of symmetry. */
function withTwins(mesh: Mesh, isIn: Uint8Array): Uint8Array | null {
  const places = pointPlaces(mesh);
  let size = 0;
  for (const x of places) size = Math.max(size, Math.abs(x));
  const plane = planeOfSymmetry(places, TWINS * size);
  if (!plane || plane.share < 0.5) return null;
  const twins = mirrorTwins(places, plane, TWINS * size);
  const out = isIn.slice();
  isIn.forEach((flag, point) => {
    if (flag && twins[point] >= 0) out[twins[point]] = 1;
  });
  return out.some((flag, point) => flag !== isIn[point]) ? out : null;
}

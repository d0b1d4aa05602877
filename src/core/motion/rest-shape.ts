/**
 * A rest shape that was solved point by point made one that is fit to be seen: what a seam split moves alike, both
 * sides alike where the figure is, and no face folds that did not. Normals and tangents turn along.
 */
import { pointsOf } from '../character/points';
import { topologyOf } from '../character/topology';
import { areaNormals, normalsOfPoints, unitRows } from '../geometry/normals';
import { type Attribute, type Mesh, positionsOf } from '../character/model';
import { quatBetween, quatRotate } from '../geometry/matrix';
import { type MirrorPlane, mirrorTwins } from '../geometry/mirror';
import type { MeshWeights } from './mesh-weights';

/** How far points moved at rest from where the mesh stood when it was posed. */
export interface RestMoved {
  /** Points that moved by a ten-thousandth of the height at least. */
  readonly moved: number;
  /** Root of the mean square and largest way over those, metres. */
  readonly rms: number;
  readonly max: number;
  /** Least and most that any edge beside them is as long as it was. */
  readonly stretch: { readonly least: number; readonly most: number };
  /** Points that were held back since a face beside them would have folded. */
  readonly heldBack: number;
  /** By the bone (node of the target) that holds a point most: how many moved, and how far at most, metres; farthest first. */
  readonly bones: readonly { readonly node: number; readonly points: number; readonly most: number }[];
}

/** Rest places, 3 per vertex, by mesh of the target, and how far they moved. */
export interface RestShapes {
  readonly shapes: ReadonlyMap<number, Float32Array>;
  readonly rest: RestMoved;
}

/** Points that are each other in a mirror lie this near to it, as a share of the height. */
const TWIN = 1e-3;

/** A mesh is alike on both sides where so many of its points have a twin. */
const MOST = 0.9;

/** A face folds where it turns farther than this, or bends so much more against its neighbour: the cosine of 75°. */
const FOLDED = Math.cos((75 * Math.PI) / 180);

/** An edge may shrink to this share of its length, and grow to so many times it. */
const SHORTEST = 0.25;
const LONGEST = 3;

/** How often points beside folds are held back further, and to what share of their way each time. */
const ROUNDS = 12;
const HELD = 0.6;

/**
 * Settles the rest shapes of meshes that were solved.
 * @param height of the figure, metres
 * @param tells ways below this are none, metres
 * @param plane that the figure is alike on both sides of, if there is one
 */
export function settleRest(
  meshes: readonly MeshWeights[],
  height: number,
  tells: number,
  plane: MirrorPlane | null,
): RestShapes {
  const shapes = new Map<number, Float32Array>();
  const bones = new Map<number, { points: number; most: number }>();
  const sum = { moved: 0, squares: 0, max: 0, heldBack: 0, least: 1, most: 1 };
  for (const mesh of meshes) {
    const posed = positionsOf(mesh.mesh);
    withoutWildWeights(mesh, posed);
    const ways = waysBetween(posed, mesh.restPlaces);
    if (!ways.some((way) => Math.abs(way) > tells)) {
      setRest(mesh, posed);
      continue;
    }
    alikeAtSeams(mesh.mesh, ways);
    if (plane) alikeOnBothSides(posed, ways, plane, TWIN * height);
    sum.heldBack += holdFolds(mesh.mesh, posed, ways);
    const places = posed.map((x, i) => x + ways[i]);
    setRest(mesh, places);
    shapes.set(mesh.meshIndex, places);
    for (let vertex = 0; vertex < mesh.mesh.vertexCount; vertex++) {
      const way = Math.hypot(ways[vertex * 3], ways[vertex * 3 + 1], ways[vertex * 3 + 2]);
      if (way < tells) continue;
      sum.moved++;
      sum.squares += way * way;
      sum.max = Math.max(sum.max, way);
      const node = mesh.skin.joints[mesh.heaviestAt(vertex)];
      const known = bones.get(node) ?? { points: 0, most: 0 };
      bones.set(node, { points: known.points + 1, most: Math.max(known.most, way) });
    }
    forEdges(mesh.mesh, (a, b) => {
      const ratio = edgeRatio(posed, places, a, b);
      sum.least = Math.min(sum.least, ratio);
      sum.most = Math.max(sum.most, ratio);
    });
  }
  const { moved, squares, max, heldBack, least, most } = sum;
  const rms = Math.sqrt(squares / Math.max(1, moved));
  const list = Array.from(bones, ([node, reach]) => ({ node, ...reach })).sort((a, b) => b.most - a.most);
  return { shapes, rest: { moved, rms, max, heldBack, stretch: { least, most }, bones: list } };
}

function waysBetween(from: Float32Array, to: Float32Array): Float32Array {
  return to.map((x, i) => x - from[i]);
}

function setRest(weights: MeshWeights, places: Float32Array): void {
  const now = weights.restPlaces;
  for (let vertex = 0; vertex < weights.mesh.vertexCount; vertex++) {
    let isSame = true;
    for (let i = vertex * 3; i < vertex * 3 + 3; i++) if (now[i] !== places[i]) isSame = false;
    if (!isSame) weights.setRest(vertex, places);
  }
}

/** Where a face folds, weights that were solved are as much the cause as the place: points beside it take the place alone. */
function withoutWildWeights(weights: MeshWeights, posed: Float32Array): void {
  const { pointOfVertex } = pointsOf(weights.mesh);
  const folded = foldedPoints(weights.mesh, posed, weights.restPlaces, faceNormals(weights.mesh, posed));
  pointOfVertex.forEach((p, index) => {
    if (folded.has(p)) weights.solveRestAlone(index);
  });
}

/** Vertices of one point go the same way: the mean of theirs. */
function alikeAtSeams(mesh: Mesh, ways: Float32Array): void {
  const { pointOfVertex, pointCount } = pointsOf(mesh);
  if (pointCount === mesh.vertexCount) return;
  const sums = new Float64Array(pointCount * 4);
  pointOfVertex.forEach((p, index) => {
    for (let a = 0; a < 3; a++) sums[p * 4 + a] += ways[index * 3 + a];
    sums[p * 4 + 3]++;
  });
  pointOfVertex.forEach((p, index) => {
    for (let a = 0; a < 3; a++) ways[index * 3 + a] = sums[p * 4 + a] / sums[p * 4 + 3];
  });
}

/** Points that are each other in the mirror go ways that are each other in it: the mean of both. */
function alikeOnBothSides(posed: Float32Array, ways: Float32Array, plane: MirrorPlane, within: number): void {
  const twins = mirrorTwins(posed, plane, within);
  const paired = twins.reduce((sum, twin) => sum + (twin >= 0 ? 1 : 0), 0);
  if (paired < MOST * twins.length) return;
  const { normal } = plane;
  const before = ways.slice();
  twins.forEach((twin, index) => {
    if (twin < 0 || twins[twin] < 0) return;
    const across =
      2 *
      (normal[0] * before[twin * 3] + normal[1] * before[twin * 3 + 1] + normal[2] * before[twin * 3 + 2]);
    for (let a = 0; a < 3; a++)
      ways[index * 3 + a] = (before[index * 3 + a] + before[twin * 3 + a] - across * normal[a]) / 2;
  });
}

/** Shortens the ways of points beside faces that would fold, until none does. Returns how many were shortened. */
function holdFolds(mesh: Mesh, posed: Float32Array, ways: Float32Array): number {
  const { pointOfVertex, pointCount } = pointsOf(mesh);
  const held = new Float32Array(pointCount).fill(1);
  const places = new Float32Array(posed.length);
  const first = faceNormals(mesh, posed);
  for (let round = 0; round <= ROUNDS; round++) {
    for (let i = 0; i < posed.length; i++)
      places[i] = posed[i] + ways[i] * held[pointOfVertex[Math.floor(i / 3)]];
    const folded = foldedPoints(mesh, posed, places, first);
    if (folded.size === 0) break;
    for (const p of folded) held[p] = round === ROUNDS ? 0 : held[p] * HELD;
  }
  for (let i = 0; i < ways.length; i++) ways[i] *= held[pointOfVertex[Math.floor(i / 3)]];
  return held.reduce((least, h) => least + (h < 1 ? 1 : 0), 0);
}

/** Points of faces that turned too far, that bend too much against a neighbour, or of edges too short or too long. */
function foldedPoints(
  mesh: Mesh,
  posed: Float32Array,
  places: Float32Array,
  first: Float32Array,
): Set<number> {
  const { pointOfVertex } = pointsOf(mesh);
  const { polygonOffsets, corners } = mesh;
  const now = faceNormals(mesh, places);
  const out = new Set<number>();
  const addFace = (factor: number) => {
    for (let k = polygonOffsets[factor]; k < polygonOffsets[factor + 1]; k++)
      out.add(pointOfVertex[corners[k]]);
  };
  for (let polygon = 0; polygon + 1 < polygonOffsets.length; polygon++)
    if (isFace(first, polygon) && dotAt(first, polygon, now, polygon) < FOLDED) addFace(polygon);
  forNeighbours(mesh, (factor, g) => {
    if (!isFace(first, factor) || !isFace(first, g)) return;
    const [was, is] = [angleAt(first, factor, g), angleAt(now, factor, g)];
    if (is - was <= CREASE) return;
    addFace(factor);
    addFace(g);
  });
  forEdges(mesh, (a, b) => {
    const ratio = edgeRatio(posed, places, a, b);
    if (ratio >= SHORTEST && ratio <= LONGEST) return;
    out.add(pointOfVertex[a]);
    out.add(pointOfVertex[b]);
  });
  return out;
}

/** Neighbouring faces may bend by so much more against each other, radians. */
const CREASE = (60 * Math.PI) / 180;

/** Unit normals of the polygons, 3 each; zero where a polygon has no area. */
const faceNormals = ({ polygonOffsets, corners }: Mesh, places: Float32Array): Float32Array =>
  unitRows(areaNormals(places, polygonOffsets, corners));

const isFace = (n: Float32Array, factor: number) =>
  n[factor * 3] !== 0 || n[factor * 3 + 1] !== 0 || n[factor * 3 + 2] !== 0;

const dotAt = (a: Float32Array, i: number, b: Float32Array, j: number) =>
  a[i * 3] * b[j * 3] + a[i * 3 + 1] * b[j * 3 + 1] + a[i * 3 + 2] * b[j * 3 + 2];

const angleAt = (normals: Float32Array, factor: number, g: number) =>
  Math.acos(Math.max(-1, Math.min(1, dotAt(normals, factor, normals, g))));

function edgeRatio(before: Float32Array, after: Float32Array, a: number, b: number): number {
  const long = (points: Float32Array) =>
    Math.hypot(
      points[a * 3] - points[b * 3],
      points[a * 3 + 1] - points[b * 3 + 1],
      points[a * 3 + 2] - points[b * 3 + 2],
    );
  const was = long(before);
  return was > 0 ? long(after) / was : 1;
}

/** Calls back with the vertices of every edge, as often as it has polygons. */
function forEdges({ polygonOffsets, corners }: Mesh, visit: (a: number, b: number) => void): void {
  for (let polygon = 0; polygon + 1 < polygonOffsets.length; polygon++) {
    const [from, to] = [polygonOffsets[polygon], polygonOffsets[polygon + 1]];
    for (let k = from; k < to; k++) visit(corners[k], corners[k + 1 < to ? k + 1 : from]);
  }
}

/** Calls back with pairs of polygons that share an edge of points. */
function forNeighbours(mesh: Mesh, visit: (face: number, other: number) => void): void {
  const { edge, polygon, faces } = topologyOf(mesh).halfEdges;
  const first = new Int32Array(faces.length).fill(-1);
  for (let h = 0; h < edge.length; h++) {
    if (first[edge[h]] < 0) first[edge[h]] = polygon[h];
    else visit(first[edge[h]], polygon[h]);
  }
}

/**
 * A mesh with other places of its points at rest, 3 per vertex. Normals and tangents turn by what the faces around
 * their point turn by in the mean, so that hard edges stay hard; all else stays.
 */
export function reshapedAtRest(mesh: Mesh, places: Float32Array | undefined): Mesh {
  if (!places) return mesh;
  const { NORMAL, TANGENT, POSITION } = mesh.attributes;
  const attributes: Record<string, Attribute> = {
    ...mesh.attributes,
    POSITION: { ...POSITION, data: places, normalized: false },
  };
  const { pointOfVertex } = pointsOf(mesh);
  const [before, after] = [positionsOf(mesh), places].map((places) => smoothNormals(mesh, places));
  for (const [name, attribute] of Object.entries({ NORMAL, TANGENT })) {
    if (!(attribute?.data instanceof Float32Array)) continue;
    const data = attribute.data.slice();
    for (let vertex = 0; vertex < mesh.vertexCount; vertex++) {
      const p = pointOfVertex[vertex] * 3;
      const [from, to] = [before.subarray(p, p + 3), after.subarray(p, p + 3)];
      if (!hasMoved(from, to)) continue;
      const turned = quatRotate(quatBetween([...from], [...to]), [
        ...data.subarray(vertex * attribute.size, vertex * attribute.size + 3),
      ]);
      data.set(turned, vertex * attribute.size);
    }
    attributes[name] = { ...attribute, data };
  }
  return { ...mesh, attributes };
}

/** Ways between normals below this are rounding. */
const SAME = 1e-6;

const hasMoved = (from: Float32Array, to: Float32Array) =>
  Math.hypot(...from) > 0 && Math.hypot(...to) > 0 && from.some((x, index) => Math.abs(x - to[index]) > SAME);

/** Unit normals at points, 3 each: those of the polygons around, by their area; zero where they cancel. */
function smoothNormals(mesh: Mesh, places: Float32Array): Float32Array {
  const { pointOfVertex, pointCount } = pointsOf(mesh);
  return normalsOfPoints(places, mesh.polygonOffsets, mesh.corners, pointOfVertex, pointCount);
}

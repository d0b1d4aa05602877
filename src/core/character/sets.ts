/**
 * Sets: bones, points and polygons that belong together under a name. A set counts in the lists of its character, so it
 * has to follow when those change: nodes by where they count now, points and polygons by their numbers where the mesh is
 * the same, else by their places.
 */
import type { Character, ElementSet, ElementsOf, Mesh } from './model';
import { positionsOf } from './model';
import { type NamedPlace, finderOf, namedIn } from './named';
import { pointsOf } from './points';
import { PointTree } from '../geometry/point-tree';

/** How thin and how thick the bones of a set may be drawn, beside all others. */
export const LEAST_TWIG = 0.25;
export const MOST_TWIG = 4;

/** What is said of a set besides its name and what it holds, as it is written and read; what is not said is not there. */
export function saidOfSet({
  tint,
  twigSize,
  partKind,
  isRigid,
  isOneSided,
}: Pick<ElementSet, 'tint' | 'twigSize' | 'partKind' | 'isRigid' | 'isOneSided'>): Pick<
  ElementSet,
  'tint' | 'twigSize' | 'partKind' | 'isRigid' | 'isOneSided'
> {
  return {
    ...(tint ? { tint } : {}),
    ...(twigSize ? { twigSize } : {}),
    ...(partKind ? { partKind } : {}),
    ...(isRigid ? { isRigid } : {}),
    ...(isOneSided ? { isOneSided } : {}),
  };
}

/** What of a mesh a set can hold. */
export type ElementKind = 'vertices' | 'polygons';

/** Points or polygons of a mesh with their places, so that they are found again where they count otherwise. */
export interface PlacedElements {
  /** The node that shows the mesh. */
  readonly node: NamedPlace;
  /** How many vertices or polygons the mesh had. */
  readonly of: number;
  /** Their numbers: of a point that seams split into several vertices the lowest. */
  readonly ids: readonly number[];
  /** 3 per number, in the mesh's own space, metres. */
  readonly places: readonly number[];
}

/** Found again: what there is, and how many are not there any more. */
export interface FoundElements {
  readonly elements: ElementsOf | null;
  /** For every number the one that it is now, −1 for none: of a point one of its vertices. */
  readonly found: readonly number[];
  readonly lost: number;
}

/** A mesh of the same size is taken to be the same where so many of the places lie so near to where they were. */
const SAME_SHARE = 0.9;
const SAME_PLACE = 0.02;

/** Shares of the mesh's size within which something is found by its place. */
const NEAR = 0.001;

/** The places of points or polygons, 3 each; of a polygon the mean of its corners. */
export function placesOf(mesh: Mesh, kind: ElementKind, ids: ArrayLike<number>): Float32Array {
  const points = positionsOf(mesh);
  const out = new Float32Array(ids.length * 3);
  for (let i = 0; i < ids.length; i++) {
    if (kind === 'vertices') {
      for (let k = 0; k < 3; k++) out[i * 3 + k] = points[ids[i] * 3 + k];
      continue;
    }
    const from = mesh.polygonOffsets[ids[i]];
    const to = mesh.polygonOffsets[ids[i] + 1];
    for (let corner = from; corner < to; corner++)
      for (let k = 0; k < 3; k++) out[i * 3 + k] += points[mesh.corners[corner] * 3 + k] / (to - from);
  }
  return out;
}

/** How many vertices or polygons a mesh has. */
export const countOfElements = (mesh: Mesh, kind: ElementKind): number =>
  kind === 'vertices' ? mesh.vertexCount : mesh.polygonOffsets.length - 1;

/** The lowest vertex of every point that some vertices belong to, ascending. */
function pointsAmong(mesh: Mesh, vertices: ArrayLike<number>): number[] {
  const { pointOfVertex, vertexOfPoint } = pointsOf(mesh);
  const points = new Set<number>();
  for (let i = 0; i < vertices.length; i++) points.add(vertexOfPoint[pointOfVertex[vertices[i]]]);
  return [...points].sort((a, b) => a - b);
}

/** All vertices of the points that some vertices belong to, ascending: what a seam split stays together. */
export function wholePoints(mesh: Mesh, vertices: Iterable<number>): Uint32Array {
  const { pointOfVertex, pointCount } = pointsOf(mesh);
  const isIn = new Uint8Array(pointCount);
  for (const vertex of vertices) isIn[pointOfVertex[vertex]] = 1;
  const out: number[] = [];
  pointOfVertex.forEach((point, vertex) => {
    if (isIn[point]) out.push(vertex);
  });
  return Uint32Array.from(out);
}

/** Points or polygons of a node's mesh with their places; null where the node shows no mesh. */
export function namedElements(
  character: Character,
  kind: ElementKind,
  { node, ids }: ElementsOf,
): PlacedElements | null {
  const mesh = character.meshes[character.nodes[node]?.mesh];
  if (!mesh) return null;
  const numbers = kind === 'vertices' ? pointsAmong(mesh, ids) : [...ids].sort((a, b) => a - b);
  return {
    node: namedIn(
      character.nodes.map(({ name }) => name),
      node,
    ),
    of: countOfElements(mesh, kind),
    ids: numbers,
    places: Array.from(placesOf(mesh, kind, numbers), (x) => Number(x.toPrecision(9))),
  };
}

/** Finds named points or polygons in a character, by number where the mesh is the same, else by place. */
export function foundElements(
  character: Character,
  kind: ElementKind,
  { node: named, of, ids, places }: PlacedElements,
): FoundElements {
  const node = finderOf(character.nodes.map(({ name }) => name))(named);
  const mesh = character.meshes[character.nodes[node]?.mesh];
  if (!mesh) return { elements: null, found: ids.map(() => -1), lost: ids.length };
  const isSame = of === countOfElements(mesh, kind) && lieAlike(mesh, kind, ids, places);
  const found = isSame ? [...ids] : byPlace(mesh, kind, places);
  const kept = found.filter((id) => id >= 0);
  if (kept.length === 0) return { elements: null, found, lost: ids.length };
  const all = kind === 'vertices' ? wholePoints(mesh, kept) : Uint32Array.from(new Set(kept)).sort();
  return { elements: { node, ids: all }, found, lost: found.length - kept.length };
}

function lieAlike(mesh: Mesh, kind: ElementKind, ids: readonly number[], places: readonly number[]): boolean {
  const count = countOfElements(mesh, kind);
  if (ids.some((id) => !(id >= 0 && id < count))) return false;
  const now = placesOf(mesh, kind, ids);
  const within = SAME_PLACE * sizeOf(mesh);
  const near = ids.filter((_, i) => distanceAt(now, places, i) <= within);
  return near.length >= SAME_SHARE * ids.length;
}

const distanceAt = (a: ArrayLike<number>, b: ArrayLike<number>, i: number): number =>
  Math.hypot(a[i * 3] - b[i * 3], a[i * 3 + 1] - b[i * 3 + 1], a[i * 3 + 2] - b[i * 3 + 2]);

/** The diagonal of a mesh's box. */
function sizeOf(mesh: Mesh): number {
  const points = positionsOf(mesh);
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < points.length; i++) {
    low[i % 3] = Math.min(low[i % 3], points[i]);
    high[i % 3] = Math.max(high[i % 3], points[i]);
  }
  return Math.hypot(high[0] - low[0], high[1] - low[1], high[2] - low[2]) || 0;
}

/** The element nearest to every place, −1 where none is near. */
function byPlace(mesh: Mesh, kind: ElementKind, places: ArrayLike<number>): number[] {
  const all = new Uint32Array(countOfElements(mesh, kind)).map((_, i) => i);
  const tree = new PointTree(placesOf(mesh, kind, all));
  const within = NEAR * sizeOf(mesh);
  return Array.from({ length: places.length / 3 }, (_, i) =>
    tree.nearest(places[i * 3], places[i * 3 + 1], places[i * 3 + 2], within),
  );
}

/** Points or polygons of one mesh in another that has them at the same places: those that are there, ascending. */
export function elementsByPlace(was: Mesh, now: Mesh, kind: ElementKind, ids: Uint32Array): Uint32Array {
  const numbers = kind === 'vertices' ? pointsAmong(was, ids) : ids;
  const found = byPlace(now, kind, placesOf(was, kind, numbers)).filter((id) => id >= 0);
  return kind === 'vertices' ? wholePoints(now, found) : Uint32Array.from(new Set(found)).sort();
}

/**
 * Sets after nodes came to count otherwise; what has gone leaves its sets.
 * @param newOf new index of every old node, −1 for one that went
 */
export const setsAfterNodes = (sets: readonly ElementSet[], newOf: ArrayLike<number>): ElementSet[] =>
  sets.map((set) => ({
    ...set,
    bones: set.bones.map((bone) => newOf[bone]).filter((bone) => bone >= 0),
    vertices: movedNodes(set.vertices, newOf),
    polygons: movedNodes(set.polygons, newOf),
  }));

const movedNodes = (list: readonly ElementsOf[], newOf: ArrayLike<number>): ElementsOf[] =>
  list.flatMap(({ node, ids }) => (newOf[node] >= 0 ? [{ node: newOf[node], ids }] : []));

/**
 * A character with its sets as they count after a step. Nodes have been seen to where they were moved; points and
 * polygons of meshes that have other ones now are found by their places.
 */
export function withSetsOf(before: Character, after: Character): Character {
  if (after.sets.length === 0) return after;
  // Who moved nodes handed the very numbers of points and polygons on.
  const meshOf = new Map<Uint32Array, Mesh>();
  for (const set of before.sets)
    for (const { node, ids } of [...set.vertices, ...set.polygons]) {
      const mesh = before.meshes[before.nodes[node]?.mesh];
      if (mesh) meshOf.set(ids, mesh);
    }
  const follow = (kind: ElementKind, list: readonly ElementsOf[]): readonly ElementsOf[] => {
    const followed = list.flatMap((elements) => {
      const was = meshOf.get(elements.ids);
      const now = after.meshes[after.nodes[elements.node]?.mesh];
      if (!now) return [];
      if (!was || !isRenumbered(was, now, kind)) return [elements];
      const ids = elementsByPlace(was, now, kind, elements.ids);
      return ids.length > 0 ? [{ node: elements.node, ids }] : [];
    });
    return followed.length === list.length && followed.every((x, i) => x === list[i]) ? list : followed;
  };
  const sets = after.sets.map((set) => {
    const vertices = follow('vertices', set.vertices);
    const polygons = follow('polygons', set.polygons);
    return vertices === set.vertices && polygons === set.polygons ? set : { ...set, vertices, polygons };
  });
  return sets.every((set, i) => set === after.sets[i]) ? after : { ...after, sets };
}

function isRenumbered(was: Mesh, now: Mesh, kind: ElementKind): boolean {
  if (kind === 'vertices') return was.vertexCount !== now.vertexCount;
  return was.polygonOffsets.length !== now.polygonOffsets.length;
}

/**
 * The sets of one character that another does not have by name, found in it: bones by name, points and polygons as
 * {@link foundElements} finds them. `lost`: what did not fit, in sentences.
 */
export function carriedSets(
  from: Character,
  onto: Character,
): { readonly sets: readonly ElementSet[]; readonly lost: readonly string[] } {
  const known = new Set(onto.sets.map(({ name }) => name));
  const names = from.nodes.map(({ name }) => name);
  const find = finderOf(onto.nodes.map(({ name }) => name));
  const lost: string[] = [];
  const carried = from.sets.filter(({ name }) => !known.has(name));
  const sets = carried.map((set): ElementSet => {
    let missing = 0;
    const bones = set.bones.map((bone) => find(namedIn(names, bone))).filter((bone) => bone >= 0);
    missing += set.bones.length - bones.length;
    const elementsOf = (kind: ElementKind) =>
      set[kind].flatMap((elements) => {
        const named = namedElements(from, kind, elements);
        const found = named
          ? foundElements(onto, kind, named)
          : { elements: null, lost: elements.ids.length };
        missing += found.lost;
        return found.elements ? [found.elements] : [];
      });
    const out = { ...set, bones, vertices: elementsOf('vertices'), polygons: elementsOf('polygons') };
    if (missing > 0)
      lost.push(`${missing} of the ${sizeOfSet(from, set)} things in the set “${set.name}” are not found.`);
    return out;
  });
  return { sets: [...onto.sets, ...sets], lost };
}

/** How many bones, points and polygons a set holds. */
export function countsOfSet(
  character: Character,
  { bones, vertices, polygons }: ElementSet,
): { readonly bones: number; readonly points: number; readonly polygons: number } {
  const pointsIn = ({ node, ids }: ElementsOf) => {
    const mesh = character.meshes[character.nodes[node]?.mesh];
    return mesh ? pointsAmong(mesh, ids).length : 0;
  };
  return {
    bones: bones.length,
    points: vertices.reduce((sum, elements) => sum + pointsIn(elements), 0),
    polygons: polygons.reduce((sum, { ids }) => sum + ids.length, 0),
  };
}

/** How many things a set holds. */
export function sizeOfSet(character: Character, set: ElementSet): number {
  const { bones, points, polygons } = countsOfSet(character, set);
  return bones + points + polygons;
}

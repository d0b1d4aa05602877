/** Parts that somebody forgot: closed in by another, so that nobody sees them, or small and far from all others. */
import { type MeshPart, partsOf } from '../../anatomy/parts';
import { characterHeight, placedMeshes } from '../../character/measure';
import type { Character } from '../../character/model';
import { fanned } from '../../geometry/fan';
import { gatherPolygons } from '../../geometry/gather-polygons';
import { triangleBoxes } from '../../geometry/triangle-tree';
import { WindingField, windingNumber } from '../../geometry/winding-number';

/** A part that is closed in by another, or lies apart. */
export interface Forgotten {
  readonly part: MeshPart;
  /** The part round it; null for one that lies apart. */
  readonly inside: MeshPart | null;
}

/** Points of a part that are tried. */
const TRIED = 10;

/** Of places that a ray finds inside so many are asked for properly. */
const SURE = 3;

/** A surface goes round a place that is inside it at least so often. */
const ENCLOSED = 0.9;

/** A part lies apart where the nearest point of another one is farther away, as a share of the figure's height. */
const APART = 0.03;

/** One that was forgotten has less of the area of the largest of its mesh, and is smaller than this share of the height. */
const SMALL_AREA = 0.05;
const SMALL_SIZE = 0.1;

/** Beyond this number parts are not looked through one by one; the check says so. */
export const MOST_PARTS = 4000;

const known = new WeakMap<Character, readonly Forgotten[]>();

/** Computed once for a character. */
export function forgottenParts(character: Character): readonly Forgotten[] {
  let found = known.get(character);
  if (!found) known.set(character, (found = find(character)));
  return found;
}

function find(character: Character): Forgotten[] {
  const parts = partsOf(character);
  if (parts.length < 2 || parts.length > MOST_PARTS) return [];
  const inside = enclosedParts(character, parts);
  const apart = new Set(
    partsApart(
      character,
      parts.filter((part) => !inside.has(part)),
      parts,
    ),
  );
  return parts.flatMap((part) => {
    const round = inside.get(part);
    return round || apart.has(part) ? [{ part, inside: round ?? null }] : [];
  });
}

const isInside = (inner: MeshPart, outer: MeshPart): boolean =>
  inner.min.every((low, k) => low > outer.min[k]) && inner.max.every((high, k) => high < outer.max[k]);

/** Whether the boxes of two parts come within a distance of each other. */
const isWithin = (one: MeshPart, other: MeshPart, distance: number): boolean =>
  one.min.every((low, k) => low < other.max[k] + distance && other.min[k] < one.max[k] + distance);

/** The parts that lie wholly within a closed one, with the smallest that goes round them. */
function enclosedParts(character: Character, parts: readonly MeshPart[]): Map<MeshPart, MeshPart> {
  const round = new Map<MeshPart, MeshPart>();
  const outers = parts.filter((part) => part.isClosed && Math.abs(part.volume) > 0);
  outers.sort((a, b) => Math.abs(a.volume) - Math.abs(b.volume));
  for (const outer of outers) {
    const inner = parts.filter((part) => part !== outer && !round.has(part) && isInside(part, outer));
    if (inner.length === 0) continue;
    const places = inner.map((part) => placesOf(character, part, TRIED));
    // A ray along x meets only what is as high as the parts within.
    const low = Math.min(...inner.map(({ min }) => min[1]));
    const high = Math.max(...inner.map(({ max }) => max[1]));
    const level = surfaceOf(character, outer, low - ASIDE_Y, high + 2 * ASIDE_Y);
    const isOdd = crossedOddly(level.points, level.triangles, places.flat());
    let at = 0;
    const likely = inner.flatMap((part, i) => {
      const own = places[i];
      at += own.length;
      const isLikely = own.every((_, k) => isOdd[at - own.length + k] === 1);
      return isLikely ? [{ part, own: own.slice(0, SURE) }] : [];
    });
    if (likely.length === 0) continue;
    const { points, triangles } = surfaceOf(character, outer);
    const turns = windingOf(points, triangles, likely.length * SURE);
    for (const { part, own } of likely)
      if (own.every((place) => Math.abs(turns(...place)) > ENCLOSED)) round.set(part, outer);
  }
  return round;
}

/** From so many places on a tree is quicker than a sum over all triangles for each. */
const MANY_PLACES = 24;

/** How often a surface goes round a place, as a function of it. */
function windingOf(
  points: Float32Array,
  triangles: Uint32Array,
  places: number,
): (x: number, y: number, z: number) => number {
  if (places < MANY_PLACES) return (x, y, z) => windingNumber(points, triangles, x, y, z);
  const field = new WindingField(points, triangles, triangleBoxes(points, triangles));
  return (x, y, z) => field.at(x, y, z);
}

/** The triangles of a part, or of its polygons that reach between two heights. */
function surfaceOf(character: Character, part: MeshPart, low = -Infinity, high = Infinity) {
  const { mesh, points } = placedOf(character, part);
  const isLevel = (polygon: number) => {
    let [least, most] = [Infinity, -Infinity];
    for (let k = mesh.polygonOffsets[polygon]; k < mesh.polygonOffsets[polygon + 1]; k++) {
      const y = points[mesh.corners[k] * 3 + 1];
      if (y < least) least = y;
      if (y > most) most = y;
    }
    return least <= high && most >= low;
  };
  const polygons = low === -Infinity ? part.polygons : part.polygons.filter(isLevel);
  const { offsets, corners } = gatherPolygons(mesh.polygonOffsets, mesh.corners, polygons);
  return { points, triangles: fanned(offsets, corners) };
}

/** Off the place by so little, metres, that a ray meets no edge that lies level with it. */
const ASIDE_Y = 1.37e-6;
const ASIDE_Z = 2.11e-6;

/**
 * Whether a ray along x from each place leaves the surface an odd number of times, as it does from within: one walk over the
 * triangles, each of which asks only the places at its height.
 */
function crossedOddly(
  points: Float32Array,
  triangles: Uint32Array,
  places: readonly (readonly [number, number, number])[],
): Uint8Array {
  const order = places.map((_, i) => i).sort((a, b) => places[a][1] - places[b][1]);
  const heights = Float64Array.from(order, (i) => places[i][1] + ASIDE_Y);
  const isOdd = new Uint8Array(places.length);
  for (let i = 0; i < triangles.length; i += 3) {
    const a = triangles[i] * 3;
    const b = triangles[i + 1] * 3;
    const third = triangles[i + 2] * 3;
    const low = Math.min(points[a + 1], points[b + 1], points[third + 1]);
    const high = Math.max(points[a + 1], points[b + 1], points[third + 1]);
    for (let at = firstAbove(heights, low); at < heights.length && heights[at] < high; at++) {
      const [x, , z] = places[order[at]];
      const y = heights[at];
      const ay = points[a + 1] - y;
      const by = points[b + 1] - y;
      const cy = points[third + 1] - y;
      const az = points[a + 2] - z - ASIDE_Z;
      const bz = points[b + 2] - z - ASIDE_Z;
      const cz = points[third + 2] - z - ASIDE_Z;
      const ofA = by * cz - bz * cy;
      const ofB = cy * az - cz * ay;
      const ofC = ay * bz - az * by;
      if (!((ofA > 0 && ofB > 0 && ofC > 0) || (ofA < 0 && ofB < 0 && ofC < 0))) continue;
      const met = (points[a] * ofA + points[b] * ofB + points[third] * ofC) / (ofA + ofB + ofC);
      if (met > x) isOdd[order[at]] ^= 1;
    }
  }
  return isOdd;
}

/** The first of ascending numbers that is not below another. */
function firstAbove(numbers: Float64Array, least: number): number {
  let [from, to] = [0, numbers.length];
  while (from < to) {
    const middle = (from + to) >> 1;
    if (numbers[middle] < least) from = middle + 1;
    else to = middle;
  }
  return from;
}

function placedOf(character: Character, { node }: MeshPart) {
  const placed = placedMeshes(character).find((one) => one.node === node);
  if (!placed) throw new Error(`Node ${node} shows no mesh.`);
  return placed;
}

/** Some points of a part: the outermost along each axis first, then evenly over its polygons. */
function placesOf(character: Character, part: MeshPart, most: number): (readonly [number, number, number])[] {
  const { mesh, points } = placedOf(character, part);
  const vertexOf = (polygon: number) => mesh.corners[mesh.polygonOffsets[polygon]];
  const chosen = [0, 1, 2].flatMap((k) => {
    let [low, high] = [vertexOf(part.polygons[0]), vertexOf(part.polygons[0])];
    for (const polygon of part.polygons) {
      const vertex = vertexOf(polygon);
      if (points[vertex * 3 + k] < points[low * 3 + k]) low = vertex;
      if (points[vertex * 3 + k] > points[high * 3 + k]) high = vertex;
    }
    return [low, high];
  });
  const step = Math.max(1, Math.floor(part.polygons.length / most));
  for (let i = 0; i < part.polygons.length; i += step) chosen.push(vertexOf(part.polygons[i]));
  return chosen.map((vertex) => [points[vertex * 3], points[vertex * 3 + 1], points[vertex * 3 + 2]]);
}

/** Small parts with no other part near them; one that goes with a bone of its own is meant. */
function partsApart(
  character: Character,
  candidates: readonly MeshPart[],
  parts: readonly MeshPart[],
): MeshPart[] {
  const height = characterHeight(character);
  const largest = new Map<number, MeshPart>();
  for (const part of parts) {
    const before = largest.get(part.node);
    if (!before || part.area > before.area) largest.set(part.node, part);
  }
  const small = candidates.filter(
    (part) =>
      part.area < SMALL_AREA * (largest.get(part.node)?.area ?? 0) &&
      Math.hypot(...part.max.map((high, k) => high - part.min[k])) < SMALL_SIZE * height &&
      !hasOwnBone(part, parts),
  );
  return small.filter((part) => {
    const tried = placesOf(character, part, TRIED);
    return parts.every(
      (other) =>
        other === part ||
        !isWithin(part, other, APART * height) ||
        isFar(character, part, tried, other, APART * height),
    );
  });
}

/** Whether no point of another part lies within a distance of any of the places of one. */
function isFar(
  character: Character,
  { min, max }: MeshPart,
  places: readonly (readonly [number, number, number])[],
  other: MeshPart,
  distance: number,
): boolean {
  const { mesh, points } = placedOf(character, other);
  const limit = distance * distance;
  for (const polygon of other.polygons) {
    const vertex = mesh.corners[mesh.polygonOffsets[polygon]] * 3;
    if (
      points[vertex] < min[0] - distance ||
      points[vertex] > max[0] + distance ||
      points[vertex + 1] < min[1] - distance ||
      points[vertex + 1] > max[1] + distance
    )
      continue;
    for (const [x, y, z] of places)
      if ((points[vertex] - x) ** 2 + (points[vertex + 1] - y) ** 2 + (points[vertex + 2] - z) ** 2 < limit)
        return false;
  }
  return true;
}

const hasOwnBone = (part: MeshPart, parts: readonly MeshPart[]): boolean => {
  const bone = part.drivers[0]?.node;
  return (
    bone !== undefined &&
    parts.every((other) => other === part || other.drivers.every(({ node }) => node !== bone))
  );
};

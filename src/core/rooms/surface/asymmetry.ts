/** What of a figure differs left and right: the plane, every point with its twin, and what has none, limb by limb. */
import { meaningOf } from '../../anatomy/bones';
import { type MeshPart, partsOf } from '../../anatomy/parts';
import { bindsOf } from '../../character/bind';
import { type Placed, characterHeight, placedMeshes } from '../../character/measure';
import type { Character } from '../../character/model';
import { morphedPositions, morphsAt } from '../../character/morphs';
import { pointsOf } from '../../character/points';
import { type Vec3, distance, dot, pointThrough } from '../../geometry/matrix';
import { mirroredPlace } from '../../geometry/mirror';
import { PointTree } from '../../geometry/point-tree';

import { forClosePairs } from '../../geometry/weld';
import { type PlaneOfSymmetry, planeOfSymmetry } from '../../geometry/symmetry';

/** What differs in one region of one part. */
export interface Difference {
  readonly node: number;
  /** What it is of: “left arm”, or the name of the part where that is no skin. */
  readonly region: string;
  /** Limbs of the body matter; clothes and things are for the eyes. */
  readonly isLimb: boolean;
  /** A vertex of every point without a twin. */
  readonly vertices: Uint32Array;
  /** Points of the region in all. */
  readonly points: number;
  /** The farthest that a point is from where its twin should be, metres, up to what was looked for. */
  readonly farthest: number;
}

/** What is known of left and right. */
export interface Asymmetry {
  /** Null where the figure has no such plane. */
  readonly plane: PlaneOfSymmetry | null;
  readonly differences: readonly Difference[];
  /** Parts that stand on one side only: nothing is asked of them. */
  readonly oneSided: readonly MeshPart[];
  /** By node how far every vertex is from the nearest mirror image, metres, up to what was looked for; 0 where nothing is asked. */
  readonly off: ReadonlyMap<number, Float32Array>;
  /** As far as twins were looked for, metres. */
  readonly lookedFor: number;
}

/** A body of which fewer points have twins is not the same on both sides: left and right are not compared. */
export const LEAST_TWINS = 0.6;

/** Twins are looked for as far as this share of the height. */
const LOOKED_FOR = 0.05;

/** A part of which fewer points have twins stands on one side only. */
const ONE_SIDED = 0.1;

const known = new WeakMap<Character, Map<number, Asymmetry>>();

/** Computed once for a character and a tolerance. `tolerance`: metres within which two points are twins. */
export function asymmetryOf(character: Character, tolerance: number): Asymmetry {
  const own = known.get(character) ?? new Map<number, Asymmetry>();
  known.set(character, own);
  let found = own.get(tolerance);
  if (!found) own.set(tolerance, (found = compare(character, tolerance)));
  return found;
}

/** A point of a part: the node and a vertex of it. */
interface PointOfPart {
  readonly part: number;
  readonly node: number;
  readonly vertex: number;
}

function compare(character: Character, tolerance: number): Asymmetry {
  const lookedFor = Math.max(tolerance, LOOKED_FOR * characterHeight(character));
  const parts = partsOf(character).filter(({ drivers }) => drivers.length > 0);
  const all = pointsOfParts(character, parts);
  const nothing = { plane: null, differences: [], oneSided: [], off: new Map(), lookedFor };
  const asked = isBodyOf(parts);
  const places = placesOf(character, all);
  const isOfBody = parts.map((part) => asked.has(part));
  const plane = planeOfSymmetry(
    places.filter((_, i) => isOfBody[all[Math.floor(i / 3)].part]),
    tolerance,
  );
  if (!plane || plane.share < LEAST_TWINS) return nothing;
  const mirrored = new Float32Array(places.length);
  for (let i = 0; i < all.length; i++) mirrored.set(mirroredPlace(plane, placeOf(places, i)), i * 3);
  const offs = twinDistances(places, mirrored, tolerance);
  const count = new Uint32Array(parts.length);
  const paired = new Uint32Array(parts.length);
  all.forEach(({ part }, i) => {
    count[part]++;
    if (offs[i] <= tolerance) paired[part]++;
  });
  const oneSided = new Set(parts.filter((part, i) => !asked.has(part) && paired[i] < ONE_SIDED * count[i]));
  const isAsked = parts.map((part) => !part.isOneSided && !oneSided.has(part));
  const odd = all.flatMap(({ part }, i) => (isAsked[part] && offs[i] > tolerance ? [i] : []));
  // Only of those it matters how far off they are.
  const tree = odd.length > 0 ? new PointTree(places) : null;
  for (const i of odd) {
    const place = placeOf(mirrored, i);
    const twin = tree?.nearest(...place, lookedFor) ?? -1;
    offs[i] = twin < 0 ? lookedFor : distance(place, placeOf(places, twin));
  }
  let off: ReadonlyMap<number, Float32Array> | null = null;
  return {
    plane,
    oneSided: [...oneSided],
    lookedFor,
    // Only the picture wants it.
    get off() {
      off ??= offByNode(
        character,
        all,
        offs.map((far, i) => (isAsked[all[i].part] ? far : 0)),
      );
      return off;
    },
    differences: differencesOf(parts, all, {
      isAsked,
      isOdd: Uint8Array.from(offs, (far, i) => Number(far > tolerance && isAsked[all[i].part])),
      offs,
      regionOf: (i) =>
        asked.has(parts[all[i].part])
          ? regionOf(character, all[i].node, all[i].vertex, plane, placeOf(places, i))
          : parts[all[i].part].name,
      isBody: (part) => asked.has(part),
    }),
  };
}

/** How far every mirrored place is from the nearest place within the tolerance; Infinity where none is. 3 numbers a place. */
function twinDistances(places: Float32Array, mirrored: Float32Array, tolerance: number): Float32Array {
  const count = places.length / 3;
  const both = new Float32Array(places.length * 2);
  both.set(places);
  both.set(mirrored, places.length);
  const offs = new Float32Array(count).fill(Infinity);
  forClosePairs(both, tolerance, (a, b) => {
    const [place, image] = a < b ? [a, b] : [b, a];
    if (place >= count || image < count) return;
    const off = distance(placeOf(both, place), placeOf(both, image));
    if (off < offs[image - count]) offs[image - count] = off;
  });
  return offs;
}

interface Odd {
  /** By part whether anything is asked of it. */
  readonly isAsked: readonly boolean[];
  /** By point whether it has no twin, and how far it is off, metres. */
  readonly isOdd: Uint8Array;
  readonly offs: Float32Array;
  regionOf(point: number): string;
  isBody(part: MeshPart): boolean;
}

/** What has no twin, gathered by region; of parts that are even nothing is looked through. */
function differencesOf(
  parts: readonly MeshPart[],
  all: readonly PointOfPart[],
  { isAsked, isOdd, offs, regionOf: region, isBody }: Odd,
): Difference[] {
  const isUneven = new Uint8Array(parts.length);
  all.forEach(({ part }, i) => {
    if (isOdd[i]) isUneven[part] = 1;
  });
  const groups = new Map<
    string,
    { part: MeshPart; region: string; ids: number[]; points: number; farthest: number }
  >();
  all.forEach(({ part, vertex }, i) => {
    if (!isAsked[part] || !isUneven[part]) return;
    const where = region(i);
    const key = `${parts[part].node} ${where}`;
    const group = groups.get(key) ?? { part: parts[part], region: where, ids: [], points: 0, farthest: 0 };
    groups.set(key, group);
    group.points++;
    if (!isOdd[i]) return;
    group.ids.push(vertex);
    group.farthest = Math.max(group.farthest, offs[i]);
  });
  return [...groups.values()]
    .filter(({ ids }) => ids.length > 0)
    .map(({ part, region: where, ids, points, farthest }) => ({
      node: part.node,
      region: where,
      isLimb: isBody(part),
      vertices: Uint32Array.from(ids),
      points,
      farthest,
    }));
}

/** The body itself: what is skin, or where nothing is called so, what most bones drive. */
function isBodyOf(parts: readonly MeshPart[]): ReadonlySet<MeshPart> {
  const skin = parts.filter(({ kind }) => kind === 'skin');
  if (skin.length > 0) return new Set(skin);
  const most = Math.max(0, ...parts.map(({ drivers }) => drivers.length));
  return new Set(parts.filter(({ drivers }) => drivers.length === most));
}

function pointsOfParts(character: Character, parts: readonly MeshPart[]): PointOfPart[] {
  const out: PointOfPart[] = [];
  const byNode = new Map<number, { placed: Placed; seen: Uint8Array }>();
  for (const placed of placedMeshes(character))
    byNode.set(placed.node, { placed, seen: new Uint8Array(pointsOf(placed.mesh).pointCount) });
  parts.forEach(({ node, polygons }, part) => {
    const found = byNode.get(node);
    if (!found) return;
    const { mesh } = found.placed;
    const { pointOfVertex } = pointsOf(mesh);
    for (const polygon of polygons)
      for (let k = mesh.polygonOffsets[polygon]; k < mesh.polygonOffsets[polygon + 1]; k++) {
        const vertex = mesh.corners[k];
        if (found.seen[pointOfVertex[vertex]]) continue;
        found.seen[pointOfVertex[vertex]] = 1;
        out.push({ part, node, vertex });
      }
  });
  return out;
}

/** Places as the meshes were bound: what wrong weights do to a figure at rest is told by themselves. World space. */
function placesOf(character: Character, list: readonly PointOfPart[]): Float32Array {
  const shapes = new Map(
    placedMeshes(character).map((placed) => [placed.node, boundShape(character, placed)]),
  );
  const out = new Float32Array(list.length * 3);
  list.forEach(({ node, vertex }, i) => {
    const shape = shapes.get(node);
    if (!shape) return;
    const place = placeOf(shape.points, vertex);
    out.set(shape.through ? pointThrough(shape.through, place) : place, i * 3);
  });
  return out;
}

/** A mesh’s own points and what the bind does to all of them; of one that is not bound its points at rest. */
function boundShape(character: Character, { node, mesh, skin, points }: Placed) {
  if (!skin) return { points, through: null };
  const { common } = bindsOf(character)[character.nodes[node].skin];
  return { points: morphedPositions(mesh, morphsAt(character, node)), through: common };
}

const placeOf = (places: Float32Array, i: number): Vec3 => [
  places[i * 3],
  places[i * 3 + 1],
  places[i * 3 + 2],
];

/** What bones of a limb are called together. */
const LIMBS: readonly (readonly [string, RegExp])[] = [
  ['hand', /^(hand|thumb|index|long|ring|little)$/],
  ['arm', /^(collar|upperarm|lowerarm)$/],
  ['foot', /^(foot|toe|toes)$/],
  ['leg', /^(upperleg|lowerleg)$/],
  ['wing', /^wing$/],
  ['head', /^(head|neck|jaw|eye)$/],
];

const limbsOf = new WeakMap<Character, Map<number, string | undefined>>();

/** The limb that a bone is of; asked for every point, found once for a bone. */
function limbOf(character: Character, bone: number): string | undefined {
  const own = limbsOf.get(character) ?? new Map<number, string | undefined>();
  limbsOf.set(character, own);
  if (!own.has(bone)) {
    const { part } = meaningOf(character, bone);
    own.set(bone, LIMBS.find(([, parts]) => parts.test(part))?.[0]);
  }
  return own.get(bone);
}

/** The limb of the bone that has most of a point, with its side; the trunk where it is of none. */
function regionOf(
  character: Character,
  node: number,
  vertex: number,
  plane: PlaneOfSymmetry,
  place: Vec3,
): string {
  const side = dot(plane.normal, place) > plane.offset === plane.normal[0] > 0 ? 'left' : 'right';
  const bone = strongestBone(character, node, vertex);
  const limb = bone < 0 ? undefined : limbOf(character, bone);
  return `${side} ${limb ?? 'half of the trunk'}`;
}

function strongestBone({ nodes, meshes, skins }: Character, node: number, vertex: number): number {
  const { influences } = meshes[nodes[node].mesh];
  if (!influences || nodes[node].skin < 0) return -1;
  let best = -1;
  let most = 0;
  for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++)
    if (influences.weight[k] > most) {
      most = influences.weight[k];
      best = skins[nodes[node].skin].joints[influences.joint[k]];
    }
  return best;
}

/** How far every vertex is off, by the node that shows its mesh. */
function offByNode(
  character: Character,
  all: readonly PointOfPart[],
  offs: Float32Array,
): ReadonlyMap<number, Float32Array> {
  const out = new Map<number, Float32Array>();
  const meshOf = new Map(placedMeshes(character).map(({ node, mesh }) => [node, pointsOf(mesh)]));
  const ofPoint = new Map([...meshOf].map(([node, { pointCount }]) => [node, new Float32Array(pointCount)]));
  all.forEach(({ node, vertex }, i) => {
    const points = meshOf.get(node);
    const own = ofPoint.get(node);
    if (points && own) own[points.pointOfVertex[vertex]] = offs[i];
  });
  for (const [node, { pointOfVertex }] of meshOf) {
    const own = ofPoint.get(node);
    if (own)
      out.set(
        node,
        Float32Array.from(pointOfVertex, (point) => own[point]),
      );
  }
  return out;
}

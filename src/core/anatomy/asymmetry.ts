/** What of a figure differs left and right: the plane, every point with its twin, and what has none, limb by limb. */
import { meaningOf } from './bones';
import { type MeshPart, partsOf } from './parts';
import { bindsOf } from '../character/bind';
import { type Placed, characterHeight, placedMeshes } from '../character/measure';
import type { Character } from '../character/model';
import { morphedPositions, morphsAt } from '../character/morphs';
import { pointsOf } from '../character/points';
import { type Vec3, distance, dot } from '../geometry/matrix';
import { PointGrid, nearestWithin } from '../geometry/point-grid';
import { PointTree } from '../geometry/point-tree';
import { type PlaneOfSymmetry, planeOfSymmetry } from '../geometry/symmetry';

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

/** The points of all parts one after the other. */
interface PointsOfParts {
  readonly count: number;
  /** Of every point its part, as an index, and a vertex of its mesh. */
  readonly part: Uint32Array;
  readonly vertex: Uint32Array;
  /** Float32Array, 3 per point, world space, metres: where the meshes were bound. */
  readonly places: Float32Array;
}

function compare(character: Character, tolerance: number): Asymmetry {
  const lookedFor = Math.max(tolerance, LOOKED_FOR * characterHeight(character));
  const parts = partsOf(character).filter(({ drivers }) => drivers.length > 0);
  const all = pointsOfParts(character, parts);
  const nothing = { plane: null, differences: [], oneSided: [], off: new Map(), lookedFor };
  const asked = bodyOf(parts);
  const plane = planeOfSymmetry(
    placesOfBody(
      all,
      parts.map((part) => asked.has(part)),
    ),
    tolerance,
  );
  if (!plane || plane.share < LEAST_TWINS) return nothing;
  const mirrored = mirroredPlaces(plane, all.places);
  const isPaired = pairedPoints(all.places, mirrored, tolerance);
  const counts = new Uint32Array(parts.length);
  const paired = new Uint32Array(parts.length);
  for (let i = 0; i < all.count; i++) {
    counts[all.part[i]]++;
    paired[all.part[i]] += isPaired[i];
  }
  const oneSided = new Set(parts.filter((part, i) => !asked.has(part) && paired[i] < ONE_SIDED * counts[i]));
  const isAsked = parts.map((part) => !part.isOneSided && !oneSided.has(part));
  const isOdd = new Uint8Array(all.count);
  const offs = new Float32Array(all.count);
  // Only of those without a twin it matters how far off they are.
  let tree: PointTree | null = null;
  for (let i = 0; i < all.count; i++) {
    if (!isAsked[all.part[i]] || isPaired[i]) continue;
    isOdd[i] = 1;
    tree ??= new PointTree(all.places);
    const place = placeOf(mirrored, i);
    const twin = tree.nearest(...place, lookedFor);
    offs[i] = twin < 0 ? lookedFor : distance(place, placeOf(all.places, twin));
  }
  let off: ReadonlyMap<number, Float32Array> | null = null;
  return {
    plane,
    oneSided: [...oneSided],
    lookedFor,
    // Only the picture wants it.
    get off() {
      const near = off ? null : nearestWithin(all.places, mirrored, tolerance);
      if (near)
        off = offByNode(
          character,
          parts,
          all,
          offs.map((far, i) => (isOdd[i] || !isAsked[all.part[i]] ? far : near[i])),
        );
      return off ?? new Map();
    },
    differences: differencesOf(character, parts, all, {
      plane,
      isAsked,
      isOdd,
      offs,
      isBody: (part) => asked.has(part),
    }),
  };
}

function mirroredPlaces({ normal: [nx, ny, nz], offset }: PlaneOfSymmetry, places: Float32Array) {
  const out = new Float32Array(places.length);
  for (let i = 0; i < places.length; i += 3) {
    const off = 2 * (nx * places[i] + ny * places[i + 1] + nz * places[i + 2] - offset);
    out[i] = places[i] - off * nx;
    out[i + 1] = places[i + 1] - off * ny;
    out[i + 2] = places[i + 2] - off * nz;
  }
  return out;
}

/** Which points have another one within a distance of where they are mirrored to: 1 per point. */
function pairedPoints(places: Float32Array, mirrored: Float32Array, distance: number): Uint8Array {
  const isPaired = new Uint8Array(places.length / 3);
  const grid = new PointGrid(places, distance);
  // Cell by cell, so that those of the images are at hand already.
  for (const i of grid.order) {
    // Whatever is near the image of a point has an image near that point.
    if (isPaired[i]) continue;
    grid.near(mirrored[i * 3], mirrored[i * 3 + 1], mirrored[i * 3 + 2], (twin) => {
      isPaired[i] = 1;
      isPaired[twin] = 1;
    });
  }
  return isPaired;
}

interface Odd {
  readonly plane: PlaneOfSymmetry;
  /** By part whether anything is asked of it. */
  readonly isAsked: readonly boolean[];
  /** By point whether it has no twin, and how far it is off, metres. */
  readonly isOdd: Uint8Array;
  readonly offs: Float32Array;
  isBody(part: MeshPart): boolean;
}

/** Points of one region of a part, and of those the ones without a twin. */
interface RegionOfPart {
  readonly part: MeshPart;
  readonly region: string;
  readonly ids: number[];
  points: number;
  farthest: number;
}

/** What has no twin, gathered by region; of parts that are even nothing is looked through. */
function differencesOf(
  character: Character,
  parts: readonly MeshPart[],
  all: PointsOfParts,
  { plane, isAsked, isOdd, offs, isBody }: Odd,
): Difference[] {
  const isUneven = new Uint8Array(parts.length);
  for (let i = 0; i < all.count; i++) if (isOdd[i]) isUneven[all.part[i]] = 1;
  const regionOf = new Map<MeshPart, (point: number) => string>();
  for (const part of parts)
    regionOf.set(part, isBody(part) ? limbAround(character, part.node, plane, all) : () => part.name);
  const groups = new Map<number, Map<string, RegionOfPart>>();
  for (let i = 0; i < all.count; i++) {
    const part = parts[all.part[i]];
    if (!isAsked[all.part[i]] || !isUneven[all.part[i]]) continue;
    const region = regionOf.get(part)?.(i) ?? part.name;
    let ofNode = groups.get(part.node);
    if (!ofNode) groups.set(part.node, (ofNode = new Map()));
    let group = ofNode.get(region);
    if (!group) ofNode.set(region, (group = { part, region, ids: [], points: 0, farthest: 0 }));
    group.points++;
    if (!isOdd[i]) continue;
    group.ids.push(all.vertex[i]);
    group.farthest = Math.max(group.farthest, offs[i]);
  }
  return [...groups.values()]
    .flatMap((ofNode) => [...ofNode.values()])
    .filter(({ ids }) => ids.length > 0)
    .map(({ part, region, ids, points, farthest }) => ({
      node: part.node,
      region,
      isLimb: isBody(part),
      vertices: Uint32Array.from(ids),
      points,
      farthest,
    }));
}

/** The body itself: what is skin, or where nothing is called so, what most bones drive. */
function bodyOf(parts: readonly MeshPart[]): ReadonlySet<MeshPart> {
  const skin = parts.filter(({ kind }) => kind === 'skin');
  if (skin.length > 0) return new Set(skin);
  const most = Math.max(0, ...parts.map(({ drivers }) => drivers.length));
  return new Set(parts.filter(({ drivers }) => drivers.length === most));
}

/** Places as the meshes were bound: what wrong weights do to a figure at rest is told by themselves. */
function pointsOfParts(character: Character, parts: readonly MeshPart[]): PointsOfParts {
  const most = placedMeshes(character).reduce((sum, { mesh }) => sum + pointsOf(mesh).pointCount, 0);
  const part = new Uint32Array(most);
  const vertex = new Uint32Array(most);
  const places = new Float32Array(most * 3);
  let count = 0;
  for (const placed of placedMeshes(character)) {
    const { polygonOffsets, corners } = placed.mesh;
    const { pointOfVertex, pointCount } = pointsOf(placed.mesh);
    const seen = new Uint8Array(pointCount);
    const shape = boundShape(character, placed);
    parts.forEach(({ node, polygons }, index) => {
      if (node !== placed.node) return;
      for (const polygon of polygons)
        for (let k = polygonOffsets[polygon]; k < polygonOffsets[polygon + 1]; k++) {
          if (seen[pointOfVertex[corners[k]]]) continue;
          seen[pointOfVertex[corners[k]]] = 1;
          part[count] = index;
          vertex[count] = corners[k];
          for (let axis = 0; axis < 3; axis++) places[count * 3 + axis] = shape.points[corners[k] * 3 + axis];
          if (shape.through) putPoint(places, count * 3, shape.through);
          count++;
        }
    });
  }
  return {
    count,
    part: part.subarray(0, count),
    vertex: vertex.subarray(0, count),
    places: places.subarray(0, count * 3),
  };
}

/** A point is taken through a matrix in its place. */
function putPoint(places: Float32Array, at: number, matrix: ArrayLike<number>): void {
  const [x, y, z] = [places[at], places[at + 1], places[at + 2]];
  for (let k = 0; k < 3; k++)
    places[at + k] = matrix[k] * x + matrix[4 + k] * y + matrix[8 + k] * z + matrix[12 + k];
}

function placesOfBody({ count, part, places }: PointsOfParts, isOfBody: readonly boolean[]): Float32Array {
  const out = new Float32Array(places.length);
  let length = 0;
  for (let i = 0; i < count; i++)
    if (isOfBody[part[i]]) for (let k = 0; k < 3; k++) out[length++] = places[i * 3 + k];
  return out.subarray(0, length);
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

/** What a place of a node's mesh is of: the limb of the bone that has most of it, with its side; the trunk where it is of none. */
function limbAround(
  character: Character,
  node: number,
  { normal, offset }: PlaneOfSymmetry,
  { vertex, places }: PointsOfParts,
): (point: number) => string {
  const limbs = new Map<number, readonly [string, string]>();
  const sides = (bone: number) => {
    let own = limbs.get(bone);
    if (!own) {
      const part = bone < 0 ? '' : meaningOf(character, bone).part;
      const limb = LIMBS.find(([, parts]) => parts.test(part))?.[0] ?? 'half of the trunk';
      limbs.set(bone, (own = [`left ${limb}`, `right ${limb}`]));
    }
    return own;
  };
  return (point) => {
    const isBeyond = dot(normal, placeOf(places, point)) > offset;
    const [left, right] = sides(strongestBone(character, node, vertex[point]));
    return isBeyond === normal[0] > 0 ? left : right;
  };
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
  parts: readonly MeshPart[],
  { count, part, vertex }: PointsOfParts,
  offs: Float32Array,
): ReadonlyMap<number, Float32Array> {
  const out = new Map<number, Float32Array>();
  const meshOf = new Map(placedMeshes(character).map(({ node, mesh }) => [node, pointsOf(mesh)]));
  const ofPoint = new Map([...meshOf].map(([node, { pointCount }]) => [node, new Float32Array(pointCount)]));
  for (let i = 0; i < count; i++) {
    const { node } = parts[part[i]];
    const points = meshOf.get(node);
    const own = ofPoint.get(node);
    if (points && own) own[points.pointOfVertex[vertex[i]]] = offs[i];
  }
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

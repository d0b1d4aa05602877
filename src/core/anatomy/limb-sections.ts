/**
 * Where the joints within limbs stand in them: each limb is cut across at the joint, and the joint is held against the middle
 * of the cut. Only the polygons that bend there are cut: those of the bone, of the one above it and of what lies beside it, so
 * that all joints together cost little more than one pass over the polygons.
 */
import { boneKindsOf } from './bone-kinds';
import { isBodyBone, meaningOf } from './bones';
import { bonesOf, childrenOf, parentBone, restPlace } from '../character/hierarchy';
import { type Placed, placedMeshes } from '../character/measure';
import type { Character, Mesh } from '../character/model';
import { pointsOf } from '../character/points';
import { cutByPlane } from '../geometry/cross-section';
import { gatherPolygons } from '../geometry/gather-polygons';
import { type Vec3, distance, dot, length, normalise, subtract } from '../geometry/matrix';
import { limbDirection, nearestLoop, radiusOf } from './limb-middle';

/** The joints that a brief may want beside the middle of their limb. */
export type JointRole = 'knuckle' | 'elbow' | 'knee' | 'other';

/** A joint in the cut across its limb. */
export interface LimbSection {
  readonly bone: number;
  readonly role: JointRole;
  /** Middle of the cut, world space at rest, metres. */
  readonly middle: Vec3;
  /** Radius of the circle of the cut's area, metres. */
  readonly radius: number;
  /** Towards the outside of the bend that the joint has at rest, unit length; null where it is straight. */
  readonly outside: Vec3 | null;
}

const FINGERS = new Set(['thumb', 'index', 'long', 'ring', 'little']);
const ROLES: Readonly<Record<string, JointRole>> = { lowerarm: 'elbow', lowerleg: 'knee' };
const JOINTS = new Set([...FINGERS, 'lowerarm', 'hand', 'lowerleg', 'foot', 'wing']);

/** The joint of a limb from which on nothing forks: what begins at a palm or a trunk has no section of its own. */
function rolesOf(character: Character): Map<number, JointRole> {
  const kinds = boneKindsOf(character);
  const out = new Map<number, JointRole>();
  for (const bone of bonesOf(character)) {
    const meaning = meaningOf(character, bone);
    if (!isBodyBone(meaning) || meaning.side === 'middle' || !JOINTS.has(meaning.part)) continue;
    if (kinds.get(bone)?.kind !== 'deforming') continue;
    const above = parentBone(character.nodes, bone);
    const other = above < 0 ? null : meaningOf(character, above);
    if (!other || !isBodyBone(other) || other.side !== meaning.side || other.part === 'collar') continue;
    const isFinger = FINGERS.has(meaning.part);
    if (isFinger && other.part !== meaning.part) continue;
    out.set(bone, isFinger ? 'knuckle' : (ROLES[meaning.part] ?? 'other'));
  }
  return out;
}

const known = new WeakMap<Character, LimbSection[]>();

/** The joints within the limbs of a character in their cuts; those whose flesh gives no closed cut are left out. Made once. */
export function limbSectionsOf(character: Character): LimbSection[] {
  let sections = known.get(character);
  if (!sections) known.set(character, (sections = cutLimbs(character)));
  return sections;
}

function cutLimbs(character: Character): LimbSection[] {
  return bendingLimbsOf(character).flatMap(({ bone, role, above, direction, meshes }): LimbSection[] => {
    const here = restPlace(character.nodes, bone);
    const loops = meshes.flatMap(({ placed, polygons }) => cutOf(placed, polygons, here, direction));
    const loop = nearestLoop(loops, here);
    if (!loop) return [];
    return [
      { bone, role, middle: loop.middle, radius: radiusOf(loop), outside: outsideOf(character, bone, above) },
    ];
  });
}

/** A mesh with those of its polygons that bend at a joint. */
export interface BendingMesh {
  readonly placed: Placed;
  /** Ascending. */
  readonly polygons: Uint32Array;
}

/** A joint within a limb, and what bends about it. */
export interface BendingLimb {
  readonly bone: number;
  readonly role: JointRole;
  /** The bone that it hangs on. */
  readonly above: number;
  /** The way of the limb there, world space, unit length. */
  readonly direction: Vec3;
  readonly meshes: readonly BendingMesh[];
}

const knownLimbs = new WeakMap<Character, readonly BendingLimb[]>();

/**
 * The joints within the limbs of a character with the polygons of their bone, of the one above and of what lies beside it. Made once.
 */
export function bendingLimbsOf(character: Character): readonly BendingLimb[] {
  let limbs = knownLimbs.get(character);
  if (!limbs) knownLimbs.set(character, (limbs = findLimbs(character)));
  return limbs;
}

function findLimbs(character: Character): BendingLimb[] {
  const roles = rolesOf(character);
  if (roles.size === 0) return [];
  const children = childrenOf(character.nodes);
  const meshes = placedMeshes(character).filter(({ skin, mesh }) => skin && mesh.influences);
  const bendingAt = (above: number) => [above, ...children[above]];
  const meant = new Set([...roles.keys()].flatMap((bone) => bendingAt(parentBone(character.nodes, bone))));
  const polygonsOf = meshes.map((placed) => polygonsOfBones(placed, meant));
  return [...roles].flatMap(([bone, role]): BendingLimb[] => {
    const direction = limbDirection(character, bone);
    const above = parentBone(character.nodes, bone);
    if (!direction) return [];
    const bending = meshes.flatMap((placed, i): BendingMesh[] => {
      const lists = bendingAt(above).flatMap((node) => polygonsOf[i].get(node) ?? []);
      const polygons = allOf(lists, placed.mesh.polygonOffsets.length - 1);
      return polygons.length === 0 ? [] : [{ placed, polygons }];
    });
    return [{ bone, role, above, direction, meshes: bending }];
  });
}

/** What is in any of some ascending lists, each once, ascending. */
function allOf(lists: readonly Uint32Array[], below: number): Uint32Array {
  if (lists.length < 2) return lists[0] ?? new Uint32Array();
  const isIn = new Uint8Array(below);
  let count = 0;
  for (const list of lists)
    for (const polygon of list) {
      count += 1 - isIn[polygon];
      isIn[polygon] = 1;
    }
  const out = new Uint32Array(count);
  let at = 0;
  for (let polygon = 0; at < count; polygon++) if (isIn[polygon]) out[at++] = polygon;
  return out;
}

/** For some nodes the polygons that have a corner which it moves more than others do. */
function polygonsOfBones({ mesh, skin }: Placed, meant: ReadonlySet<number>): Map<number, Uint32Array> {
  const { joints } = skin as NonNullable<typeof skin>;
  const slots = joints.flatMap((node, slot) => (meant.has(node) ? [slot] : []));
  const first = firstBones(mesh, slots);
  const lists = slots.map((): number[] => []);
  const last = new Int32Array(slots.length).fill(-1);
  const { polygonOffsets, corners } = mesh;
  for (let polygon = 0; polygon + 1 < polygonOffsets.length; polygon++)
    for (let k = polygonOffsets[polygon]; k < polygonOffsets[polygon + 1]; k++) {
      const at = first[corners[k]];
      if (at < 0 || last[at] === polygon) continue;
      last[at] = polygon;
      lists[at].push(polygon);
    }
  return new Map(
    slots.flatMap((slot, at) => (lists[at].length > 0 ? [[joints[slot], Uint32Array.from(lists[at])]] : [])),
  );
}

/** Which of some joint slots moves each vertex most; −1 where another one does, or none. */
function firstBones({ vertexCount, influences }: Mesh, slots: readonly number[]): Int16Array {
  const out = new Int16Array(vertexCount).fill(-1);
  if (!influences) return out;
  const { offsets, joint, weight } = influences;
  const placeOf = new Int16Array(Math.max(-1, ...slots) + 1).fill(-1);
  slots.forEach((slot, i) => {
    placeOf[slot] = i;
  });
  for (let vertex = 0; vertex < vertexCount; vertex++) {
    let most = 0;
    let first = -1;
    for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++) {
      if (weight[k] <= most) continue;
      most = weight[k];
      first = joint[k];
    }
    if (first >= 0 && first < placeOf.length) out[vertex] = placeOf[first];
  }
  return out;
}

function cutOf({ mesh, points }: Placed, polygons: Uint32Array, here: Vec3, direction: Vec3) {
  const { offsets, corners } = gatherPolygons(mesh.polygonOffsets, mesh.corners, polygons);
  return cutByPlane(points, offsets, corners, pointsOf(mesh).pointOfVertex, here, direction);
}

/** A joint off the line of its neighbours by less than this share of their distance is straight. */
const STRAIGHT = 0.01;

function outsideOf(character: Character, bone: number, above: number): Vec3 | null {
  const next = childrenOf(character.nodes)[bone].find((child) => character.nodes[child].kind === 'bone');
  if (next === undefined) return null;
  const [from, at, to] = [above, bone, next].map((node) => restPlace(character.nodes, node) as Vec3);
  const way = subtract(to, from);
  const line = normalise(way);
  const along = dot(subtract(at, from), line);
  const off = subtract(at, [0, 1, 2].map((axis) => from[axis] + along * line[axis]) as unknown as Vec3);
  return length(off) > STRAIGHT * length(way) ? normalise(off) : null;
}

/** Where a joint is wanted in its limb: so many radii from the middle towards the outside of its bend. */
export function wantedPlace({ middle, radius, outside }: LimbSection, share: number): Vec3 {
  if (!outside || share === 0) return middle;
  return [0, 1, 2].map((k) => middle[k] + share * radius * outside[k]) as unknown as Vec3;
}

/** How far a joint is from a place, as a share of its limb's radius. */
export const sharesOff = (character: Character, { bone, radius }: LimbSection, place: Vec3): number =>
  distance(restPlace(character.nodes, bone), place) / radius;

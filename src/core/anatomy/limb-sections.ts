/**
 * Where the joints within limbs stand in them: each limb is cut across at the joint, and the joint is held against the middle
 * of the cut. Only the polygons that bend there are cut: those of the bone, of the one above it and of what lies beside it, so
 * that all joints together cost little more than one pass over the polygons.
 */
import { boneKindsOf } from './bone-kinds';
import { isBodyBone, meaningOf } from './bones';
import { bonesOf, childrenOf, parentBone, restPlace } from '../character/hierarchy';
import { type Placed, placedMeshes } from '../character/measure';
import type { Character } from '../character/model';
import { pointsOf } from '../character/points';
import { cutByPlane } from '../geometry/cross-section';
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
  readonly polygons: ReadonlySet<number>;
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

/** The joints within the limbs of a character with the polygons of their bone, of the one above and of what lies beside it. */
export function bendingLimbsOf(character: Character): BendingLimb[] {
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
      const polygons = new Set(bendingAt(above).flatMap((node) => polygonsOf[i].get(node) ?? []));
      return polygons.size === 0 ? [] : [{ placed, polygons }];
    });
    return [{ bone, role, above, direction, meshes: bending }];
  });
}

/** For some nodes the polygons that have a corner which it moves more than others do. */
function polygonsOfBones({ mesh, skin }: Placed, meant: ReadonlySet<number>): Map<number, number[]> {
  const first = firstBones(mesh.vertexCount, mesh.influences as NonNullable<typeof mesh.influences>);
  const { joints } = skin as NonNullable<typeof skin>;
  const lists = joints.map((node): number[] | null => (meant.has(node) ? [] : null));
  for (let polygon = 0; polygon + 1 < mesh.polygonOffsets.length; polygon++)
    for (let k = mesh.polygonOffsets[polygon]; k < mesh.polygonOffsets[polygon + 1]; k++) {
      const list = lists[first[mesh.corners[k]]];
      // Its corners come one after the other: a polygon that is in the list already is its last.
      if (list && list[list.length - 1] !== polygon) list.push(polygon);
    }
  return new Map(joints.flatMap((node, slot) => (lists[slot]?.length ? [[node, lists[slot]]] : [])));
}

/** The joint slot that moves each vertex most; −1 for none. */
function firstBones(
  count: number,
  {
    offsets,
    joint,
    weight,
  }: { offsets: ArrayLike<number>; joint: ArrayLike<number>; weight: ArrayLike<number> },
): Int32Array {
  const out = new Int32Array(count).fill(-1);
  for (let vertex = 0; vertex < count; vertex++) {
    let most = 0;
    for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++)
      if (weight[k] > most) [most, out[vertex]] = [weight[k], joint[k]];
  }
  return out;
}

function cutOf({ mesh, points }: Placed, polygons: ReadonlySet<number>, here: Vec3, direction: Vec3) {
  const offsets = new Uint32Array(polygons.size + 1);
  const corners: number[] = [];
  let row = 0;
  for (const polygon of polygons) {
    for (let k = mesh.polygonOffsets[polygon]; k < mesh.polygonOffsets[polygon + 1]; k++)
      corners.push(mesh.corners[k]);
    offsets[++row] = corners.length;
  }
  return cutByPlane(
    points,
    offsets,
    Uint32Array.from(corners),
    pointsOf(mesh).pointOfVertex,
    here,
    direction,
  );
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

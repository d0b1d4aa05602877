/**
 * A mesh bound anew. First a look: which bones take part, and of every part of the mesh whether heat can bind it, or why not and how
 * else; then the run, part by part, each its own way, so that nothing fails as a whole.
 */
import { type MeshPart, partsOf } from '../../anatomy/parts';
import { characterHeight, placedMeshes } from '../../character/measure';
import type { Character, Mesh } from '../../character/model';
import { RIGID_KINDS } from '../../character/part-kinds';
import { placesOfPoints } from '../../character/point-places';
import { pointsOf } from '../../character/points';
import { fanned } from '../../geometry/fan';
import {
  type BoneSegment,
  type BonesInSight,
  bonesInSight,
  heatWeights,
  squaredToSegment,
} from '../../geometry/heat-weights';
import { forClosePairs } from '../../geometry/point-grid';
import {
  type WeightShares,
  limitedShares,
  meanShares,
  normalisedShares,
  sweptShares,
} from '../../geometry/row-edits';
import { SurfaceRows } from '../../geometry/surface-rows';
import { TriangleTree } from '../../geometry/triangle-tree';
import { WindingField } from '../../geometry/winding-number';
import { bindingBones, boneSegments, bonesOutside, clothBones } from './bone-segments';
import type { CarriersBrief } from './kinds';
import { pointsOfPart } from '../../anatomy/part-points';

/** How a part is bound. */
export const BINDING_WAYS = {
  heat: 'by heat from the bones it sees',
  near: 'to the nearest bones',
  one: 'wholly to one bone',
  copy: 'as the surface beside it',
} as const;

export type BindingWay = keyof typeof BINDING_WAYS;

/** What the look says of one part. */
export interface PartLook {
  readonly part: MeshPart;
  readonly way: BindingWay;
  /** Why that way. */
  readonly why: string;
  /** Share of its points that see a bone. */
  readonly seen: number;
}

/** What can be known before a mesh is bound. */
export interface BindingLook {
  /** The bones that take part, as nodes. */
  readonly bones: readonly number[];
  readonly segments: readonly BoneSegment[];
  /** Bones that were left out since they lie outside. */
  readonly outside: readonly number[];
  readonly parts: readonly PartLook[];
  /** Points that lie on others of their mesh and are not joined with them, by node. */
  readonly doubled: ReadonlyMap<number, number>;
}

/** Fewer points of a part that see a bone are too few for heat. */
const LEAST_SEEN = 0.35;

/** A part is small where its box is less than this share of the height across. */
const SMALL = 0.06;

/** Points that lie nearer than this share of the height are doubled. */
const DOUBLED = 1e-5;

/** A mesh that is bound, as it stands at rest. */
interface Surface {
  readonly node: number;
  readonly mesh: Mesh;
  /** 3 per point, world space at rest, metres. */
  readonly places: Float32Array;
  readonly tree: TriangleTree;
}

function surfacesOf(character: Character, nodes: readonly number[]): Surface[] {
  return placedMeshes(character).flatMap(({ node, mesh, points }): Surface[] => {
    if (!nodes.includes(node) || mesh.polygonOffsets.length < 2) return [];
    const triangles = fanned(mesh.polygonOffsets, mesh.corners);
    return [{ node, mesh, places: placesOfPoints(mesh, points), tree: new TriangleTree(points, triangles) }];
  });
}

/** The look, and what the run needs of it. */
interface Prepared extends BindingLook {
  readonly surfaces: readonly Surface[];
  readonly sight: ReadonlyMap<number, BonesInSight>;
  readonly segmentsOf: ReadonlyMap<number, readonly BoneSegment[]>;
}

/**
 * Says how every part of some meshes would be bound.
 * @param nodes that show the meshes
 * @param bones those that take part; the ones that deform, where none are said
 */
export function lookAtBinding(
  character: Character,
  nodes: readonly number[],
  brief: CarriersBrief,
  bones: readonly number[] = bindingBones(character, brief),
): BindingLook {
  return prepare(character, nodes, bones);
}

function prepare(character: Character, nodes: readonly number[], wanted: readonly number[]): Prepared {
  const surfaces = surfacesOf(character, nodes);
  const largest = surfaces.reduce<Surface | null>(
    (most, surface) => (!most || surface.places.length > most.places.length ? surface : most),
    null,
  );
  const fields = surfaces.map(({ tree }) => new WindingField(tree.points, tree.triangles, tree.boxes));
  const isInside = (x: number, y: number, z: number) => fields.some((field) => field.at(x, y, z) > 0.5);
  const tree = largest?.tree ?? null;
  const all = boneSegments(character, wanted, tree);
  const gone = new Set(
    surfaces.length > 0
      ? bonesOutside(
          character,
          wanted,
          all,
          isInside,
          surfaces.map((own) => own.tree),
        )
      : [],
  );
  // Where all lie outside none is told from the others.
  const isLeftOut = (bone: number) => gone.size < wanted.length && gone.has(bone);
  const bones = wanted.filter((_, i) => !isLeftOut(i));
  const placeOf = new Map(bones.map((bone, i) => [bone, i]));
  const segments = all
    .filter(({ bone }) => !isLeftOut(bone))
    .map((segment) => ({ ...segment, bone: placeOf.get(wanted[segment.bone]) as number }));
  const segmentsOf = segmentsByMesh(character, surfaces, bones, segments);
  const sight = new Map(
    surfaces.map((surface) => [
      surface.node,
      bonesInSight(surface.places, segmentsOf.get(surface.node) as readonly BoneSegment[], surface.tree),
    ]),
  );
  const height = characterHeight(character);
  const parts = partsOf(character)
    .filter(({ node }) => sight.has(node))
    .map((part) => lookAtPart(character, part, sight.get(part.node) as BonesInSight, segments, height));
  const doubled = new Map(
    surfaces.map(({ node, places }) => [node, doubledPoints(places, height * DOUBLED)]),
  );
  return {
    surfaces,
    sight,
    segmentsOf,
    bones,
    segments,
    parts: withoutNeighbours(parts),
    outside: wanted.filter((_, i) => isLeftOut(i)),
    doubled,
  };
}

/** The segments that pull a mesh: skin is none of the bones of cloth and hair, where there are others. */
function segmentsByMesh(
  character: Character,
  surfaces: readonly Surface[],
  bones: readonly number[],
  segments: readonly BoneSegment[],
): Map<number, readonly BoneSegment[]> {
  const isCloth = clothBones(character);
  const bodily = segments.filter(({ bone }) => !isCloth(bones[bone]));
  return new Map(
    surfaces.map(({ node }): [number, readonly BoneSegment[]] => {
      const largest = partsOf(character).find((part) => part.node === node);
      return [node, largest?.kind === 'skin' && bodily.length > 0 ? bodily : segments];
    }),
  );
}

/** Where nothing is bound by itself there is no surface to copy from. */
function withoutNeighbours(parts: readonly PartLook[]): PartLook[] {
  if (parts.some(({ way }) => way === 'heat')) return [...parts];
  return parts.map((look) => (look.way === 'copy' ? { ...look, way: 'near' } : look));
}

function lookAtPart(
  character: Character,
  part: MeshPart,
  sight: BonesInSight,
  segments: readonly BoneSegment[],
  height: number,
): PartLook {
  const mesh = character.meshes[character.nodes[part.node].mesh];
  const points = pointsOfPart(mesh, part);
  const seeing = points.filter((point) => sight.bone[point] >= 0).length;
  const seen = points.length > 0 ? seeing / points.length : 0;
  const across = Math.hypot(...part.max.map((x, k) => x - part.min[k]));
  const as = (way: BindingWay, why: string): PartLook => ({ part, way, why, seen });
  if (part.isRigid) return as('one', 'it is marked as rigid');
  if (part.kind && RIGID_KINDS.has(part.kind)) return as('one', `it does not bend: ${part.why}`);
  if (part.kind === 'tongue') return as('copy', 'it lies inside the mouth');
  const hasBone = !part.isClosed || segments.some((segment) => passesThrough(segment, part));
  if (!hasBone && across < SMALL * height) return as('one', 'it is small, and no bone runs through it');
  if (!hasBone) return as('copy', 'it is closed, and no bone runs through it');
  if (seen < LEAST_SEEN)
    return as(
      'copy',
      seen === 0 ? 'no bone sees it' : `bones see only ${Math.round(seen * 100)} % of its points`,
    );
  if (part.area === 0) return as('near', 'its faces have no area to spread heat over');
  return as('heat', part.isClosed ? 'bones run through it' : 'its points see the bones');
}

/** Whether a segment has a place in the box of a part. */
function passesThrough({ from, to }: BoneSegment, { min, max }: MeshPart): boolean {
  for (let k = 0; k <= PIECES; k++) {
    const share = k / PIECES;
    const isIn = [0, 1, 2].every((axis) => {
      const x = from[axis] + (to[axis] - from[axis]) * share;
      return x >= min[axis] && x <= max[axis];
    });
    if (isIn) return true;
  }
  return false;
}

/** Places along a segment that are looked at. */
const PIECES = 8;

function doubledPoints(places: Float32Array, distance: number): number {
  const points = new Set<number>();
  forClosePairs(places, distance, (one, other) => {
    points.add(one);
    points.add(other);
  });
  return points.size;
}

/** How the run is set. */
export interface BindingSettings {
  /** Most bones of a point. */
  readonly limit: number;
  /** How fast the nearest bones give way to those farther off: weights go with the distance to this power. */
  readonly falloff: number;
  /** Other ways than the look says, by node and number of the part. */
  readonly ways: ReadonlyMap<string, BindingWay>;
  /** How all parts are bound that could be by heat. */
  readonly method: 'heat' | 'near';
}

export const partKey = ({ node, island }: Pick<MeshPart, 'node' | 'island'>): string => `${node}/${island}`;

/** Weights below this are let go. */
const DUST = 0.01;

/** New rows of every point of some meshes. */
export interface BoundRows {
  readonly look: BindingLook;
  /** Of every node the rows of its points; joints are places in the list of bones. */
  readonly rows: ReadonlyMap<number, readonly WeightShares[]>;
}

/**
 * Binds meshes to bones.
 * @param tell progress, 0 … 1; true ends it
 * @returns null where it was ended
 */
export function bindMeshes(
  character: Character,
  nodes: readonly number[],
  bones: readonly number[],
  { limit, falloff, ways, method }: BindingSettings,
  tell: (share: number) => boolean = () => false,
): BoundRows | null {
  const prepared = prepare(character, nodes, bones);
  const { surfaces, sight, segmentsOf } = prepared;
  const looks = prepared.parts.map((look): PartLook => {
    const said = ways.get(partKey(look.part));
    if (said) return { ...look, way: said, why: 'chosen by hand' };
    return method === 'near' && look.way !== 'one' ? { ...look, way: 'near' } : look;
  });
  const rows = new Map<number, WeightShares[]>();
  for (const [i, surface] of surfaces.entries()) {
    const own = looks.filter(({ part }) => part.node === surface.node);
    const segments = segmentsOf.get(surface.node) as readonly BoneSegment[];
    const made: WeightShares[] = Array.from({ length: surface.places.length / 3 }, () => new Map());
    rows.set(surface.node, made);
    const byHeat = own
      .filter(({ way }) => way === 'heat')
      .flatMap(({ part }) => pointsOfPart(surface.mesh, part));
    const done = spreadHeat(surface, sight.get(surface.node) as BonesInSight, byHeat, made, (share) =>
      tell((i + share) / surfaces.length),
    );
    if (!done) return null;
    for (const { part, way } of own)
      if (way === 'near')
        for (const point of pointsOfPart(surface.mesh, part))
          made[point] = nearRow(segments, surface.places, point, falloff);
    // Points of no face, and those that the heat did not reach.
    made.forEach((row, point) => {
      if (row.size === 0) made[point] = nearRow(segments, surface.places, point, falloff);
    });
  }
  besideOthers(surfaces, looks, rows);
  for (const own of rows.values())
    own.forEach((row, point) => {
      own[point] = limitedShares(sweptShares(normalisedShares(row), DUST), limit);
    });
  return { look: { ...prepared, parts: looks }, rows };
}

function spreadHeat(
  { mesh, places }: Surface,
  sight: BonesInSight,
  points: readonly number[],
  rows: WeightShares[],
  tell: (share: number) => boolean,
): boolean {
  if (points.length === 0) return true;
  const isAsked = new Uint8Array(rows.length);
  for (const point of points) isAsked[point] = 1;
  const bone = sight.bone.map((own, point) => (isAsked[point] ? own : -1));
  const { pointOfVertex } = pointsOf(mesh);
  const surface = { offsets: mesh.polygonOffsets, corners: mesh.corners, pointOfVertex, places };
  const weights = heatWeights(surface, { bone, distance: sight.distance }, tell);
  if (!weights) return false;
  for (const [own, list] of weights)
    for (const point of points) if (list[point] > DUST / 10) rows[point].set(own, list[point]);
  for (const point of points) rows[point] = normalisedShares(rows[point]);
  return true;
}

/** Weights by how near the segments of the bones are. */
export function nearRow(
  segments: readonly BoneSegment[],
  places: ArrayLike<number>,
  point: number,
  falloff: number,
): WeightShares {
  const nearest = new Map<number, number>();
  let least = Infinity;
  for (const segment of segments) {
    const squared = squaredToSegment(
      segment,
      places[point * 3],
      places[point * 3 + 1],
      places[point * 3 + 2],
    );
    if (squared < (nearest.get(segment.bone) ?? Infinity)) nearest.set(segment.bone, squared);
    if (squared < least) least = squared;
  }
  const row: WeightShares = new Map();
  for (const [bone, squared] of nearest) {
    const share = ((least + 1e-12) / (squared + 1e-12)) ** (falloff / 2);
    if (share > DUST) row.set(bone, share);
  }
  return normalisedShares(row);
}

/** Parts that go with the surface beside them: as it is there point by point, or as the most of it, wholly. */
function besideOthers(
  surfaces: readonly Surface[],
  looks: readonly PartLook[],
  rows: ReadonlyMap<number, WeightShares[]>,
): void {
  const waiting = looks.filter(({ way }) => way === 'copy' || way === 'one');
  if (waiting.length === 0) return;
  const sources = surfaces.flatMap(({ node, mesh, places }) => {
    const own = looks.filter(({ part, way }) => part.node === node && (way === 'heat' || way === 'near'));
    if (own.length === 0) return [];
    const polygons = own.flatMap(({ part }) => [...part.polygons]);
    return [new SurfaceRows(mesh, pointsOf(mesh).pointOfVertex, places, rows.get(node)!, polygons)];
  });
  for (const { part, way } of waiting) {
    const surface = surfaces.find(({ node }) => node === part.node)!;
    const made = rows.get(part.node)!;
    const points = pointsOfPart(surface.mesh, part);
    const found = points.map((point) => {
      const place = surface.places.subarray(point * 3, point * 3 + 3);
      const nearest = sources
        .map((source) => source.at(place[0], place[1], place[2]))
        .reduce((best, next) => (next && (!best || next.distance < best.distance) ? next : best), null);
      return nearest?.row ?? made[point];
    });
    const [heaviest] = [...meanShares(found)].sort((a, b) => b[1] - a[1]);
    points.forEach((point, i) => {
      if (way === 'one' && heaviest) made[point] = new Map([[heaviest[0], 1]]);
      else made[point] = found[i];
    });
  }
}

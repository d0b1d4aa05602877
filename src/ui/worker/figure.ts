/**
 * What the stage draws of a character: world space, metres. Made in the page's worker, so that the page is
 * not held.
 */
import { placePositions } from '@/core/character/deform';
import {
  bonesOf,
  childrenOf,
  meshNodesOf,
  parentBone,
  restWorld,
  weightOfNodes,
} from '@/core/character/hierarchy';
import { type Placed, bodyBox, characterHeight, placedMeshes } from '@/core/character/measure';
import type { Character, Mesh } from '@/core/character/model';
import { morphedPositions, morphsAt } from '@/core/character/morphs';
import { pointsOf } from '@/core/character/points';
import { type BoneMeaning, meaningOf } from '@/core/anatomy/bones';
import { farthestTurn } from '@/core/anatomy/joint-ranges';
import { type TreeBone, treeBonesOf } from '@/core/rooms/skeleton/tree/bones';
import { coarseTriangles } from '@/core/geometry/coarse';
import { fanned } from '@/core/geometry/fan';
import { decompose, distance, quatConjugate, quatMultiply, quatRotate } from '@/core/geometry/matrix';
import type { SkinningMethod } from '@/core/geometry/skinning';
import { normalsOfPoints } from '@/core/geometry/normals';
import { drawnEdges } from './edges';

/** What the stage draws of one mesh. */
export interface FigureMesh {
  readonly node: number;
  readonly name: string;
  readonly bound: boolean;
  /** 3 per vertex. */
  readonly points: Float32Array;
  /** 3 per vertex; vertices that a seam split have one and the same. */
  readonly normals: Float32Array;
  /** The welded point of every vertex. */
  readonly pointOfVertex: Uint32Array;
  readonly pointCount: number;
  /** 3 per triangle, and the polygon of every triangle. */
  readonly triangles: Uint32Array;
  readonly polygonOf: Uint32Array;
  /** Fewer triangles over the same vertices, 3 a triangle, to be drawn while it turns; null where all can be. */
  readonly coarse: Uint32Array | null;
  /** Ends of the true polygon edges, 2 per edge; the first `creases` of them are sharp or open. */
  readonly edges: Uint32Array;
  readonly creases: number;
}

export interface FigureBone {
  readonly node: number;
  readonly name: string;
  readonly parent: number;
  readonly side: 'left' | 'right' | 'middle';
  readonly from: readonly number[];
  readonly to: readonly number[];
  /** Turn of its own axes in the world, a quaternion (x, y, z, w). */
  readonly rotation: readonly number[];
  /** A direction across the bone in which its hinge opens. */
  readonly across: readonly number[];
  readonly helper: boolean;
  /** The farthest that it is turned by hand, degrees. */
  readonly reach: number;
  /** Sum of its weights over all meshes. */
  readonly weight: number;
}

export interface Figure {
  readonly meshes: readonly FigureMesh[];
  readonly bones: readonly FigureBone[];
  /** What their tree is drawn from. */
  readonly tree: readonly TreeBone[];
  /** Where the body begins and ends; null where there is none. */
  readonly body: { readonly min: readonly number[]; readonly max: readonly number[] } | null;
}

/** A shape that is not there yet, or not any more: drawn thinly over the figure. */
export interface Ghost {
  readonly points: Float32Array;
  readonly normals: Float32Array;
  readonly triangles: Uint32Array;
}

/** Where a figure's points and bones are in a pose. */
export interface Pose {
  readonly meshes: readonly {
    readonly node: number;
    readonly points: Float32Array;
    readonly normals: Float32Array;
    /** The search's boxes fitted to it; absent where nobody has fitted them. */
    readonly bounds?: Float32Array;
  }[];
  /** Null: as they are at rest. */
  readonly bones: readonly FigureBone[] | null;
}

/** Polygons fanned out: 3 vertices a triangle. */
export const trianglesOf = ({ polygonOffsets, corners }: Mesh): Uint32Array =>
  fanned(polygonOffsets, corners);

/** A figure of so many corners or fewer is always drawn whole. */
const WHOLE = 400_000;

/** Edge of a cell that becomes one point while a large figure turns, as a share of its height. */
const COARSE = 1 / 220;

export function figureOf(character: Character): Figure {
  const placed = placedMeshes(character);
  const isLarge = placed.reduce((sum, placed) => sum + placed.mesh.corners.length, 0) > WHOLE;
  const cell = isLarge ? COARSE * characterHeight(character) : null;
  return {
    meshes: placed.map((placed) => meshFigure(character, placed, cell)),
    bones: boneFigures(character),
    tree: treeBonesOf(character),
    body: bodyBox(character),
  };
}

function meshFigure(character: Character, placed: Placed, cell: number | null): FigureMesh {
  const { polygonOffsets: offsets } = placed.mesh;
  const { pointOfVertex, pointCount } = pointsOf(placed.mesh);
  const triangles = trianglesOf(placed.mesh);
  const polygonOf = new Uint32Array(triangles.length / 3);
  let t = 0;
  for (let polygon = 0; polygon + 1 < offsets.length; polygon++)
    for (let k = offsets[polygon] + 1; k < offsets[polygon + 1] - 1; k++) polygonOf[t++] = polygon;
  return {
    node: placed.node,
    name: character.nodes[placed.node].name || placed.mesh.name,
    bound: !!placed.skin,
    points: placed.points.slice(),
    normals: weldedNormals(placed.points, placed.mesh),
    pointOfVertex: pointOfVertex.slice(),
    pointCount,
    triangles,
    polygonOf,
    coarse: cell === null ? null : coarseTriangles(placed.points, triangles, cell),
    ...drawnEdges(placed),
  };
}

/**
 * Normals of points by the areas of the polygons around them (Newell's method), given to every vertex of a
 * point: a seam does not show, nor does it how polygons are cut into triangles. `points`: 3 per vertex of the
 * mesh.
 */
export function weldedNormals(points: Float32Array, mesh: Mesh): Float32Array {
  const { pointOfVertex, pointCount } = pointsOf(mesh);
  const normals = normalsOfPoints(points, mesh.polygonOffsets, mesh.corners, pointOfVertex, pointCount);
  const out = new Float32Array(points.length);
  for (let vertex = 0; vertex < pointOfVertex.length; vertex++)
    for (let k = 0; k < 3; k++) out[vertex * 3 + k] = normals[pointOfVertex[vertex] * 3 + k];
  return out;
}

export function boneFigures(character: Character): FigureBone[] {
  const world = restWorld(character.nodes);
  const children = childrenOf(character.nodes);
  const weight = weightOfNodes(character);
  const place = (i: number) => [world[i * 16 + 12], world[i * 16 + 13], world[i * 16 + 14]];
  return bonesOf(character).map((bone) => {
    const { name } = character.nodes[bone];
    const reading = meaningOf(character, bone);
    const kids = children[bone].filter((child) => character.nodes[child].kind === 'bone');
    const next = nextBone(character, reading, kids);
    const from = place(bone);
    const parent = parentBone(character.nodes, bone);
    const ahead = next >= 0 ? place(next) : null;
    const to =
      ahead && distance(ahead, from) >= 1e-4
        ? ahead
        : tipOf(from, parent >= 0 ? place(parent) : null, kids.map(place));
    const { rotation } = decompose(world, bone * 16);
    const across = quatRotate(rotation, [0, 1, 0]);
    const helper = reading.part === '' || reading.part === 'root';
    return {
      node: bone,
      name,
      parent,
      side: reading.side,
      from,
      to,
      rotation,
      across,
      helper,
      reach: farthestTurn(reading),
      weight: weight[bone],
    };
  });
}

/**
 * A bone points at the child that goes on; where many leave it, at the one of its own side and kind. −1 for
 * none.
 */
function nextBone(character: Character, reading: BoneMeaning, kids: readonly number[]): number {
  if (kids.length === 1) return kids[0];
  const readings = kids.map((kid) => ({ c: kid, r: meaningOf(character, kid) }));
  const same = readings.filter(({ r: meaning }) => meaning.kind !== 'twist' && meaning.side === reading.side);
  const alike = same.find(({ r: meaning }) => meaning.part === reading.part);
  if (alike) return alike.c;
  return same.length > 0 && same.length < 4 ? same[0].c : -1;
}

/** Where a bone that points at no child ends: on along its parent's way. */
function tipOf(
  from: readonly number[],
  parent: readonly number[] | null,
  kids: readonly number[][],
): number[] {
  const way = parent ? from.map((x, k) => x - parent[k]) : [0, 0.1, 0];
  const length = Math.hypot(...way) || 1;
  const mean = kids.reduce((s, kid) => kid.map((x, k) => s[k] + (x - from[k]) / kids.length), [0, 0, 0]);
  const long = kids.length > 0 ? Math.hypot(...mean) : Math.min(length * 0.6, 0.09);
  return from.map((x, k) => x + (way[k] / length) * Math.max(long, 0.012));
}

/** A twig carried from its rest to a pose by its node's own motion. World matrices, 16 per node. */
export function carriedBone(bone: FigureBone, rest: Float64Array, world: Float64Array): FigureBone {
  const atRest = decompose(rest, bone.node * 16);
  const posed = decompose(world, bone.node * 16);
  const turn = quatMultiply(posed.rotation, quatConjugate(atRest.rotation));
  const way = quatRotate(turn, [
    bone.to[0] - bone.from[0],
    bone.to[1] - bone.from[1],
    bone.to[2] - bone.from[2],
  ]);
  return {
    ...bone,
    from: posed.translation,
    to: posed.translation.map((x, k) => x + way[k]),
    rotation: posed.rotation,
    across: quatRotate(turn, bone.across),
  };
}

/** The figure under node worlds, with its morph targets on as told; as at rest where nothing is. */
export function poseIn(
  character: Character,
  world: Float64Array,
  morphsOn = (node: number) => morphsAt(character, node),
  skinning: SkinningMethod = 'linear',
): Pose {
  const meshes = meshNodesOf(character).map((node) => {
    const sceneNode = character.nodes[node];
    const mesh = character.meshes[sceneNode.mesh];
    const skin = sceneNode.skin >= 0 && mesh.influences ? character.skins[sceneNode.skin] : null;
    const base = morphedPositions(mesh, morphsOn(node));
    const points = placePositions(base, mesh.influences, skin, node, world, skinning);
    return { node, points, normals: weldedNormals(points, mesh) };
  });
  const rest = restWorld(character.nodes);
  return { meshes, bones: boneFigures(character).map((bone) => carriedBone(bone, rest, world)) };
}

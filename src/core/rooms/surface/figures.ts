/** The figures of the surface as a whole: its parts, its sides, the loops across its joints. What tables, charts and the command line show. */
import { partsOf } from '../../anatomy/parts';
import { placedMeshes } from '../../character/measure';
import type { Character } from '../../character/model';
import type { PartKind } from '../../character/part-kinds';
import { asymmetryOf } from '../../anatomy/asymmetry';
import { bendingJoints } from './bends';
import { coincidentGroups } from './coincident';
import { countedLoops, spacingOf } from './loops';
import { polesOf } from './poles';
import type { SurfaceBrief } from '../../contracts/surface';

/** A part in figures. Metres, square and cubic metres. */
export interface PartFigures {
  readonly node: number;
  readonly name: string;
  readonly kind: PartKind | null;
  readonly why: string;
  readonly isSaid: boolean;
  readonly isRigid: boolean;
  readonly isSaidRigid: boolean;
  readonly isOneSided: boolean;
  readonly points: number;
  readonly quads: number;
  readonly triangles: number;
  readonly ngons: number;
  readonly isClosed: boolean;
  readonly genus: number | null;
  readonly area: number;
  readonly volume: number;
  readonly size: readonly number[];
  /** Name and share of the bones that drive it, the strongest first, three at most; how many there are. */
  readonly drivers: readonly { readonly bone: string; readonly share: number }[];
  readonly drivenBy: number;
  readonly material: string;
  readonly polygons: Uint32Array;
}

export interface SideFigures {
  /** Null where the body has no plane of symmetry. */
  readonly plane: { readonly normal: readonly number[]; readonly offset: number } | null;
  /** Share of the points that have a twin, 0 … 1. */
  readonly share: number;
  readonly tolerance: number;
  readonly differences: readonly {
    readonly node: number;
    readonly region: string;
    readonly points: number;
    readonly without: number;
    readonly farthest: number;
    readonly vertices: Uint32Array;
  }[];
  /** Names of the parts that stand on one side only. */
  readonly oneSided: readonly string[];
}

export interface LoopFigures {
  readonly node: number;
  readonly bone: string;
  readonly role: string;
  readonly radius: number;
  readonly wanted: number;
  readonly near: number;
  readonly above: number;
  readonly below: number;
  /** How far to either side loops count as near, metres. */
  readonly reach: number;
  /** Where all loops lie along the limb, metres from the joint; below 0 towards the root. */
  readonly along: readonly number[];
  /** Widest and narrowest way from one loop near the joint to the next; null where there are fewer than two. */
  readonly spacing: { readonly least: number; readonly most: number } | null;
  /** The vertices of each loop, and the node that shows them. */
  readonly loops: readonly { readonly node: number; readonly vertices: readonly number[] }[];
}

export interface PoleFigures {
  readonly name: string;
  readonly poles: number;
  /** Of those the ones near a joint that bends. */
  readonly near: number;
}

/** What would merge in one mesh at a distance. */
export interface MergeFigures {
  readonly node: number;
  readonly name: string;
  /** Points that lie together, those of them that would go, and pairs left apart on separate surfaces. */
  readonly together: number;
  readonly points: number;
  readonly apart: number;
  readonly vertices: Uint32Array;
  readonly apartVertices: Uint32Array;
  /** Names of the parts that they are in, three at most, and how many parts. */
  readonly parts: readonly string[];
  readonly partCount: number;
}

/** The meshes in which points lie within a distance of each other, metres. */
export function mergeFigures(character: Character, distance: number): MergeFigures[] {
  return placedMeshes(character).flatMap(({ node, mesh }): MergeFigures[] => {
    const { together, points, apart, vertices, apartVertices } = coincidentGroups(mesh, distance);
    if (together + apart === 0) return [];
    const isIn = new Uint8Array(mesh.vertexCount);
    for (const vertex of [...vertices, ...apartVertices]) isIn[vertex] = 1;
    const parts = partsOf(character).filter(
      (part) =>
        part.node === node &&
        part.polygons.some((polygon) => {
          for (let k = mesh.polygonOffsets[polygon]; k < mesh.polygonOffsets[polygon + 1]; k++)
            if (isIn[mesh.corners[k]]) return true;
          return false;
        }),
    );
    return [
      {
        node,
        name: character.nodes[node].name || mesh.name,
        together,
        points,
        apart,
        vertices,
        apartVertices,
        parts: parts.slice(0, 3).map(({ name }) => name),
        partCount: parts.length,
      },
    ];
  });
}

/** Twins are looked for within this share of a metre where a brief does not say. */
const USUAL_TWINS = 0.001;

export const partFigures = (character: Character): PartFigures[] =>
  partsOf(character).map((part) => ({
    node: part.node,
    name: part.name,
    kind: part.kind,
    why: part.why,
    isSaid: part.isSaid,
    isRigid: part.isRigid,
    isSaidRigid: part.isSaidRigid,
    isOneSided: part.isOneSided,
    points: part.points,
    quads: part.quads,
    triangles: part.triangles,
    ngons: part.ngons,
    isClosed: part.isClosed,
    genus: part.genus,
    area: part.area,
    volume: part.volume,
    size: part.max.map((high, k) => high - part.min[k]),
    drivers: part.drivers.slice(0, 3).map(({ node, share }) => ({ bone: character.nodes[node].name, share })),
    drivenBy: part.drivers.length,
    material: String(character.carried.materials[part.material]?.name ?? ''),
    polygons: part.polygons.slice(),
  }));

/** `twins`: metres within which two points are twins; null for the usual. */
export function sideFigures(character: Character, twins: number | null): SideFigures {
  const tolerance = twins ?? USUAL_TWINS;
  const { plane, differences, oneSided } = asymmetryOf(character, tolerance);
  return {
    plane: plane && { normal: plane.normal, offset: plane.offset },
    share: plane?.share ?? 0,
    tolerance,
    differences: differences.map(({ node, region, points, vertices, farthest }) => ({
      node,
      region,
      points,
      without: vertices.length,
      farthest,
      vertices: vertices.slice(),
    })),
    oneSided: oneSided.map(({ name }) => name),
  };
}

export const loopFigures = (character: Character, surface: SurfaceBrief['surface']): LoopFigures[] =>
  countedLoops(character, surface).map(({ across, near, above, below, wanted, reach }) => {
    const ways = spacingOf(near);
    return {
      node: across.bone,
      bone: character.nodes[across.bone].name,
      role: across.role,
      radius: across.radius,
      wanted,
      near: near.length,
      above,
      below,
      reach,
      along: across.loops.map(({ along }) => along),
      spacing: ways.length > 0 ? { least: Math.min(...ways), most: Math.max(...ways) } : null,
      loops: across.loops.map(({ node, vertices }) => ({ node, vertices })),
    };
  });

export function poleFigures(
  character: Character,
  { nearJointShare }: SurfaceBrief['surface'],
): PoleFigures[] {
  const bending = bendingJoints(character, nearJointShare);
  return placedMeshes(character).map((placed) => {
    const { all, near } = polesOf(placed, placed.skin ? bending : []);
    return {
      name: character.nodes[placed.node].name || placed.mesh.name,
      poles: all.length,
      near: near.length,
    };
  });
}

/**
 * The character: a plain, immutable value. A remedy returns a new one that shares every array it did not
 * touch. Lengths are metres, rotations unit quaternions (x y z w), axes right-handed with +Y up and +Z
 * forward, as in glTF 2.0.
 */

import type { Influences } from '../geometry/influences';
import type { BodyKind } from './body-kinds';
import type { BoneKind } from './bone-kinds';
import type { PartKind } from './part-kinds';
import type { TurnOrder } from '../geometry/turn-order';

export type { Influences };

export type NodeKind = 'bone' | 'mesh' | 'light' | 'camera' | 'empty';

/** JSON that the reader carries through without looking inside. */
export type Json = null | boolean | number | string | Json[] | { [key: string]: Json };
export type JsonObject = { [key: string]: Json };

/** What a thing of a glTF file had besides what the house knows, carried through. */
export interface Carry {
  readonly extras?: Json;
  readonly extensions?: JsonObject;
}

/** A node of the scene: metres, its place relative to its parent. */
export interface SceneNode extends Carry {
  readonly name: string;
  /** Index of the parent node, −1 for a root. */
  readonly parent: number;
  readonly kind: NodeKind;
  readonly translation: readonly number[];
  readonly rotation: readonly number[];
  readonly scale: readonly number[];
  /**
   * Local matrix of 16, present only where translation, rotation and scale cannot express it or the file
   * stated one.
   */
  readonly matrix?: readonly number[];
  /** Index into `meshes`, −1 for none. */
  readonly mesh: number;
  /** Index into `skins`, −1 for none. */
  readonly skin: number;
  readonly camera?: number;
  readonly morphWeights?: readonly number[];
  /** What a person said that the bone is for; absent where it is read off the skeleton. */
  readonly boneKind?: BoneKind;
  /** In which order a tool that keeps its turn as three angles takes its own axes; absent where nobody has said. */
  readonly turnOrder?: TurnOrder;
  /** Index into the character's `added` sources, plus one; absent or 0 for the source it began with. */
  readonly source?: number;
}

export type VertexArray = Float32Array | Uint8Array | Int8Array | Uint16Array | Int16Array | Uint32Array;

/** One vertex attribute: `data` holds `size` numbers a vertex. */
export interface Attribute {
  readonly data: VertexArray;
  readonly size: number;
  readonly normalized: boolean;
  readonly type: string;
}

/** How the influences stood in the file, so that an untouched mesh is written as it was read. */
export interface InfluenceStorage {
  readonly weights: 'f32' | 'u8' | 'u16';
  readonly joints: 'u8' | 'u16';
  readonly sets: number;
}

/** A run of polygons with one material over a run of vertices. */
export interface Piece extends Carry {
  readonly vertexStart: number;
  readonly vertexCount: number;
  readonly polygonStart: number;
  readonly polygonCount: number;
  /** Index into `carried.materials`, −1 for none. */
  readonly material: number;
  /** Names of the attributes that this run really has. */
  readonly attributes: readonly string[];
  /** glTF primitive mode: 4 for polygons; others are carried with their own indices. */
  readonly mode: number;
  readonly carriedIndices?: Uint32Array;
}

/** A morph target: what it adds to the points it moves, metres, mesh space. */
export interface Morph {
  readonly attributes: Readonly<Record<string, Attribute>>;
}

export type PolygonOrigin = 'encoded' | 'recovered' | 'triangles';

/** Polygons over shared vertices, with all that a vertex carries. Metres, mesh space. */
export interface Mesh extends Carry {
  readonly name: string;
  readonly vertexCount: number;
  /**
   * By glTF semantic (POSITION, NORMAL, TEXCOORD_0, _CUSTOM …); joints and weights are in `influences`.
   * POSITION is always Float32Array, 3 per vertex.
   */
  readonly attributes: Readonly<Record<string, Attribute>>;
  readonly pieces: readonly Piece[];
  /** Polygon p has the corners polygonOffsets[p] … polygonOffsets[p + 1]. */
  readonly polygonOffsets: Uint32Array;
  /** Vertex index of every corner, counter-clockwise seen from outside. */
  readonly corners: Uint32Array;
  readonly polygonOrigin: PolygonOrigin;
  readonly influences: Influences | null;
  readonly influenceStorage: InfluenceStorage | null;
  readonly morphs: readonly Morph[];
  readonly morphWeights?: readonly number[];
}

/** What binds a mesh to joints. `inverseBinds`: 16 per joint, column-major, mesh space to joint space. */
export interface Skin extends Carry {
  readonly name: string;
  /** Node index of every joint. */
  readonly joints: readonly number[];
  /** 16 per joint, column-major. */
  readonly inverseBinds: Float32Array | Float64Array;
  readonly skeleton?: number;
}

export type ChannelPath = 'translation' | 'rotation' | 'scale' | 'weights';

/** One animated value of one node. */
export interface Channel extends Carry {
  readonly node: number;
  readonly path: ChannelPath;
  readonly interpolation: 'LINEAR' | 'STEP' | 'CUBICSPLINE';
  /** Seconds. */
  readonly times: Float32Array;
  readonly values: Float32Array;
}

/** A motion: channels that play together. Seconds. */
export interface Clip extends Carry {
  readonly name: string;
  readonly channels: readonly Channel[];
}

/** Vertices or polygons of the mesh that a node shows, ascending. */
export interface ElementsOf {
  readonly node: number;
  readonly ids: Uint32Array;
}

/** Bones, points and polygons that belong together under a name. Of a point that seams split all vertices are in it. */
export interface ElementSet {
  readonly name: string;
  /** The colour that it is shown in, #rrggbb; absent for none. */
  readonly tint?: string;
  /** How thick its bones are drawn, beside all others; absent for 1. */
  readonly twigSize?: number;
  /** What its polygons are, where a person has said it. */
  readonly partKind?: PartKind;
  /** Its polygons do not bend, whatever they are. */
  readonly isRigid?: boolean;
  /** Its points and polygons need no twins on the other side. */
  readonly isOneSided?: boolean;
  /** Nodes. */
  readonly bones: readonly number[];
  readonly vertices: readonly ElementsOf[];
  readonly polygons: readonly ElementsOf[];
}

/** A picture of a material, as its file had it. */
export interface CarriedImage {
  readonly json: JsonObject;
  readonly bytes: Uint8Array | null;
  readonly mimeType: string;
}

/** Everything of the file that no room computes with: carried through as it was. */
export interface Carried {
  readonly materials: readonly JsonObject[];
  readonly textures: readonly JsonObject[];
  readonly samplers: readonly JsonObject[];
  readonly images: readonly CarriedImage[];
  readonly cameras: readonly JsonObject[];
  readonly scenes: readonly { readonly json: JsonObject; readonly roots: readonly number[] }[];
  readonly scene: number;
  readonly extensions: JsonObject;
  readonly extensionsUsed: readonly string[];
  readonly extensionsRequired: readonly string[];
  readonly extras: Json;
  readonly asset: JsonObject;
}

/** A file that a character was read from. */
export interface SourceFile {
  readonly name: string;
  readonly bytes: number;
  readonly sha256: string;
}

/** Where a character, or a part of it, came from. */
export interface Source {
  readonly format: string;
  readonly generator: string;
  /** Length of the file's unit in metres, as it was read. */
  readonly unitMetres: number;
  readonly files: readonly SourceFile[];
  /** The axis that points up in the file; +Y where nothing else is said. */
  readonly upAxis?: 'x' | 'y' | 'z';
  /**
   * Whether the file, its format or a person said the unit and the up axis; where not, they were taken to be
   * metres and +Y. Absent: said.
   */
  readonly stated?: { readonly unit: boolean; readonly upAxis: boolean };
}

/** A character: nodes, meshes, skins, clips. Never changed in place; what a step does not touch is shared. */
export interface Character {
  readonly name: string;
  readonly nodes: readonly SceneNode[];
  readonly meshes: readonly Mesh[];
  readonly skins: readonly Skin[];
  readonly clips: readonly Clip[];
  readonly sets: readonly ElementSet[];
  /** Which kind of body it is, where a person has said it. */
  readonly bodyKind?: BodyKind;
  readonly carried: Carried;
  readonly source: Source;
  /** Sources of what was added later. */
  readonly added?: readonly Source[];
  /** What the reader could not keep as it was, in sentences. */
  readonly notes: readonly string[];
}

/** Nothing carried: no material, no picture, no camera. */
export const EMPTY_CARRIED: Carried = {
  materials: [],
  textures: [],
  samplers: [],
  images: [],
  cameras: [],
  scenes: [],
  scene: 0,
  extensions: {},
  extensionsUsed: [],
  extensionsRequired: [],
  extras: null,
  asset: { version: '2.0' },
};

/** A node at the origin; what is given replaces the defaults. */
export function node(part: Partial<SceneNode> & { name: string }): SceneNode {
  return {
    parent: -1,
    kind: 'empty',
    translation: [0, 0, 0],
    rotation: [0, 0, 0, 1],
    scale: [1, 1, 1],
    mesh: -1,
    skin: -1,
    ...part,
  };
}

/** The points of a mesh: Float32Array, 3 per vertex, metres, mesh space. */
export function positionsOf(mesh: Mesh): Float32Array {
  return mesh.attributes.POSITION.data as Float32Array;
}

/** A copy of the list with the items at the given places replaced; untouched items are the same objects. */
export function replaceAt<T>(list: readonly T[], changes: ReadonlyMap<number, T>): T[] {
  return list.map((item, i) => (changes.has(i) ? (changes.get(i) as T) : item));
}

/** What the stage is told, and what it tells. World space, metres. */
import type { ElementSet } from '@/core/character/model';
import type { TriangleBoxes } from '@/core/geometry/triangle-tree';
import type { Figure, Ghost } from '../worker/figure';
import type { Kept } from '../worker/isolation';

export type View = 'front' | 'left' | 'top' | 'free';

export const VIEWS: readonly View[] = ['front', 'left', 'top', 'free'];

/** What the surface shows. */
export type Surface = 'clay' | 'weights' | 'owners' | 'parts' | 'difference';

/** What a ray meets: a twig, or the vertex next to where it meets a mesh. */
export interface Hit {
  readonly kind: 'bone' | 'vertex';
  readonly node: number;
  /** −1 for a bone. */
  readonly vertex: number;
  /** −1 for a bone. */
  readonly polygon: number;
  readonly point: readonly number[];
  /** Where the ray meets the surface, and which triangle of its mesh; of a surface alone. */
  readonly place?: readonly number[];
  readonly triangle?: number;
}

/** A place that a measure can begin or end at. */
export interface PlaceOnFigure {
  readonly kind: 'joint' | 'vertex';
  readonly node: number;
  readonly vertex: number;
  readonly point: readonly number[];
}

/** Elements that are lit up. Vertices and polygons by mesh node. */
export interface Marks {
  readonly vertices: ReadonlyMap<number, Uint32Array>;
  readonly polygons: ReadonlyMap<number, Uint32Array>;
  /** Two vertices an edge. */
  readonly edges?: ReadonlyMap<number, Uint32Array>;
  readonly bones: ReadonlySet<number>;
}

export type CameraWish =
  | { readonly kind: 'look'; readonly view: View }
  /** No places: the whole figure. */
  | { readonly kind: 'frame'; readonly places: readonly (readonly number[])[] };

/** All that the stage draws. One object of it is one picture. */
export interface StageView {
  readonly figure: Figure | null;
  /** Another key is another character: the camera is set anew. */
  readonly subject: string | null;
  readonly searches: ReadonlyMap<number, TriangleBoxes>;
  readonly surface: Surface;
  readonly edges: boolean;
  readonly sheer: boolean;
  readonly twigs: boolean;
  readonly through: boolean;
  readonly twigSize: number;
  /** Bones that are drawn thicker or thinner than the others, by node. */
  readonly twigSizes: ReadonlyMap<number, number>;
  readonly hidden: ReadonlySet<number>;
  readonly locked: ReadonlySet<number>;
  readonly tints: ReadonlyMap<number, string>;
  /** Sets that are shown in their colours; where two hold one thing the later one counts. */
  readonly sets: readonly ElementSet[];
  /** What is shown alone. `kept`: meshes that are shown in part. */
  readonly isolated: {
    readonly nodes: ReadonlySet<number>;
    readonly kept: ReadonlyMap<number, Kept>;
  } | null;
  /** Meshes some parts of which are hidden: what is left of them. */
  readonly partsLeft: ReadonlyMap<number, Kept>;
  readonly marks: Marks | null;
  readonly chosenBones: ReadonlySet<number>;
  /** A number at every vertex, 0 … 1, by mesh node; for owners the bone’s node, and behind the point how much it has. */
  readonly values: ReadonlyMap<number, Float32Array> | null;
  readonly ghosts: readonly Ghost[] | null;
  /** Side of the box that is held beside the figure; null for none. */
  readonly boxSide: number | null;
  /** Room left at the sides of a whole figure, as a factor. */
  readonly margin: number;
}

const NONE: ReadonlySet<never> = new Set<never>();

/** A stage with nothing on it. */
export const EMPTY_VIEW: StageView = {
  figure: null,
  subject: null,
  searches: new Map(),
  surface: 'clay',
  edges: false,
  sheer: false,
  twigs: true,
  through: true,
  twigSize: 1,
  twigSizes: new Map(),
  hidden: NONE,
  locked: NONE,
  tints: new Map(),
  sets: [],
  isolated: null,
  partsLeft: new Map(),
  marks: null,
  chosenBones: NONE,
  values: null,
  ghosts: null,
  boxSide: null,
  margin: 1.36,
};

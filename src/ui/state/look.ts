import type { Surface, View } from '../stage/view';
import type { Kept } from '../worker/isolation';

/** What is shown alone: nodes that are shown, and of meshes that are shown in part what stays of them. */
export interface Isolated {
  readonly nodes: ReadonlySet<number>;
  readonly kept: ReadonlyMap<number, Kept>;
}

/** How the stage draws. */
export interface LookSlice {
  surface: Surface;
  edges: boolean;
  sheer: boolean;
  twigs: boolean;
  through: boolean;
  twigSize: number;
  view: View;
  isolated: Isolated | null;
  hidden: ReadonlySet<number>;
  /** Polygons of parts that are hidden, by the node that shows their mesh, and what is left of those meshes. */
  hiddenPolygons: ReadonlyMap<number, Uint32Array>;
  partsLeft: ReadonlyMap<number, Kept>;
  /** A number at every vertex that is shown instead of the surface, 0 … 1 of the most, by mesh node; what it is, and the most in metres. */
  heat: {
    readonly title: string;
    readonly values: ReadonlyMap<number, Float32Array>;
    readonly most: number;
    /** What stands below the scale in place of lengths. */
    readonly ticks?: readonly string[];
  } | null;
  /** What a person has set on nodes by the scene's list. */
  locked: ReadonlySet<number>;
  tints: ReadonlyMap<number, string>;
  /** Names of the sets that are shown in their colours. */
  shownSets: ReadonlySet<string>;
  /** The strongest bone of every point, by mesh node: its node plus one, and behind the point how much it has; null until it is asked for. */
  owners: ReadonlyMap<number, Float32Array> | null;
  /** Bones whose weights must stay as they are. */
  heldBones: ReadonlySet<number>;
  boxOn: boolean;
  /** Weights of a bone by mesh node, for the weights surface. */
  weights: { readonly bone: number; readonly values: ReadonlyMap<number, Float32Array> } | null;
}

export const plainLook = (): LookSlice => ({
  surface: 'clay',
  edges: false,
  sheer: false,
  twigs: true,
  through: true,
  twigSize: 1,
  view: 'front',
  isolated: null,
  hidden: new Set(),
  hiddenPolygons: new Map(),
  partsLeft: new Map(),
  heat: null,
  locked: new Set(),
  tints: new Map(),
  shownSets: new Set(),
  owners: null,
  heldBones: new Set(),
  boxOn: false,
  weights: null,
});

/** A set of nodes with some of them in it, or out of it. */
export function withNodes(set: ReadonlySet<number>, nodes: readonly number[], isOn: boolean): Set<number> {
  const out = new Set(set);
  for (const node of nodes) {
    if (isOn) out.add(node);
    else out.delete(node);
  }
  return out;
}

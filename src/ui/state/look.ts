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
  /** What a person has set on nodes by the scene's list. */
  locked: ReadonlySet<number>;
  tints: ReadonlyMap<number, string>;
  /** Names of the sets that are shown in their colours. */
  shownSets: ReadonlySet<string>;
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
  locked: new Set(),
  tints: new Map(),
  shownSets: new Set(),
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

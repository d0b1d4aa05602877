import { create } from 'zustand';

/** How the picture of the tree is looked at. */
export interface TreeView {
  /** What was folded and opened by hand, by key. */
  readonly folds: ReadonlyMap<string, boolean>;
  /** Id of the group, or name of the set, that is shown alone; null for all. */
  readonly shown: string | null;
  /** Names that are looked for. */
  readonly find: string;
  /** Id of the character that all this is of. */
  readonly of: string | null;
  /** It stands beside the stage. */
  readonly isOpen: boolean;
}

const UNTOUCHED = { folds: new Map<string, boolean>(), shown: null, find: '' };

export const useTreeView = create<TreeView>(() => ({ ...UNTOUCHED, of: null, isOpen: true }));

/** What was folded and looked for belongs to one character: another one is looked at anew. */
export function lookAtTreeOf(id: string | null): void {
  if (useTreeView.getState().of !== id) useTreeView.setState({ ...UNTOUCHED, of: id });
}

/** Folds a branch, or opens it. */
export function setFold(key: string, isFolded: boolean): void {
  useTreeView.setState(({ folds }) => ({ folds: new Map(folds).set(key, isFolded) }));
}

import { create } from 'zustand';

/** How the picture of the tree is looked at. */
export interface TreeView {
  /** What was folded and opened by hand, by key. */
  readonly folds: ReadonlyMap<string, boolean>;
  /** Id of the group, or name of the set, that is shown alone; null for all. */
  readonly shown: string | null;
  /** Names that are looked for. */
  readonly find: string;
  /** It stands beside the stage. */
  readonly isOpen: boolean;
}

export const useTreeView = create<TreeView>(() => ({
  folds: new Map(),
  shown: null,
  find: '',
  isOpen: true,
}));

/** Folds a branch, or opens it. */
export function setFold(key: string, isFolded: boolean): void {
  useTreeView.setState(({ folds }) => ({ folds: new Map(folds).set(key, isFolded) }));
}

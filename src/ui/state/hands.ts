import type { Ghost } from '../worker/figure';
import type { DraftState } from '../worker/edit-session';

/** What is in the hand: the tool, and the draft of what it did. */
export interface HandSlice {
  /** Id of the tool; `turn` turns the figure and chooses bones. */
  tool: string;
  draft: DraftState | null;
  /** What can be taken back and done again in a room that keeps its own changes; null where the open one does not. */
  ownWay: { readonly canUndo: boolean; readonly canRedo: boolean } | null;
  /** What a remedy would make of the figure. */
  ghosts: readonly Ghost[] | null;
}

export const emptyHand = (): HandSlice => ({
  tool: 'turn',
  draft: null,
  ownWay: null,
  ghosts: null,
});

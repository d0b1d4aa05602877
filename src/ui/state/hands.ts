import type { PlaceOnFigure } from '../stage/view';
import type { Ghost } from '../worker/figure';
import type { DraftState } from '../worker/edit-session';

/** What the box tool gathers. */
export type BoxOf = 'bones' | 'points' | 'polygons';

/** What is in the hand: the tool, and the draft of what it did. */
export interface HandSlice {
  /** Id of the tool; `turn` turns the figure and chooses bones. */
  tool: string;
  boxOf: BoxOf;
  /** The first point of a measure that is being taken. */
  measureFrom: PlaceOnFigure | null;
  /** What hangs below a moved joint comes along. */
  withChildren: boolean;
  /** A joint that is let go goes to the middle of its limb. */
  snapsToLimb: boolean;
  /** Node of the part that is placed; −1 for none. */
  part: number;
  /** A part turns about its own axes instead of the world's. */
  ownAxes: boolean;
  draft: DraftState | null;
  /** What can be taken back and done again in a room that keeps its own changes; null where the open one does not. */
  ownWay: { readonly canUndo: boolean; readonly canRedo: boolean } | null;
  /** What a remedy would make of the figure. */
  ghosts: readonly Ghost[] | null;
}

export const emptyHand = (): HandSlice => ({
  tool: 'turn',
  boxOf: 'bones',
  measureFrom: null,
  withChildren: true,
  snapsToLimb: false,
  part: -1,
  ownAxes: false,
  draft: null,
  ownWay: null,
  ghosts: null,
});

import { create } from 'zustand';
import { type DocumentSlice, emptyDocument } from './document';
import { type HandSlice, emptyHand } from './hands';
import { type LookSlice, plainLook } from './look';
import { type PoseSlice, standing } from './posed';
import { type SelectionSlice, emptySelection } from './selection';
import { type StatusSlice, quiet } from './status';

/** The page's state, in slices; read by selectors. What follows the pointer is not here. */
export type DeskState = DocumentSlice & SelectionSlice & LookSlice & HandSlice & PoseSlice & StatusSlice;

const initial = (): DeskState => ({
  ...emptyDocument(),
  ...emptySelection(),
  ...plainLook(),
  ...emptyHand(),
  ...standing(),
  ...quiet(),
});

export const useDesk = create<DeskState>(() => initial());

export const setDesk = useDesk.setState;
export const desk = useDesk.getState;

/** Everything as on an empty desk. */
export const clearDesk = (): void => setDesk(initial());

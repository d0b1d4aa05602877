import type { RoomId } from '@/core/contracts/rooms';

/** Points, polygons and bones that were chosen on the stage. Vertices and polygons by mesh node. */
export interface Picked {
  readonly vertices: ReadonlyMap<number, Uint32Array>;
  readonly polygons: ReadonlyMap<number, Uint32Array>;
  readonly bones: ReadonlySet<number>;
  /** Edges that are lit, two vertices each; no remedy takes them. */
  readonly edges?: ReadonlyMap<number, Uint32Array>;
}

export const NOTHING_PICKED: Picked = { vertices: new Map(), polygons: new Map(), bones: new Set() };

/** The notebook's page on which all that can be done with what is chosen stands. */
export const BY_HAND = 'by-hand';

/** Where one is and what one looks at. */
export interface SelectionSlice {
  room: RoomId;
  roomChosen: boolean;
  /** Key of the chosen finding. */
  chosen: string | null;
  /** The focus is to go to the chosen finding, or to what stands in its place. */
  wantsFocus: boolean;
  /** The chosen bone's node; −1 for none. */
  bone: number;
  /** What was chosen last: it is what is lit, isolated and brought into the picture. */
  lastChosen: 'finding' | 'bone' | 'picked';
  picked: Picked;
  /** Which element of the chosen finding one stands at, as it is walked through; −1 before the first. */
  element: number;
  /** The name of the set that was chosen; null where what is picked is none. */
  chosenSet: string | null;
  /** Which of the things behind one another was taken last; null where nothing lay behind it. */
  stacked: { readonly nth: number; readonly of: number } | null;
  /** Id of the remedy that lies open on the page By hand; null for none. */
  byHand: string | null;
  /** Which page of the notebook lies open: one of the room's, or its findings. */
  page: string;
  /** The room keeps the stage to a column of its own. */
  wide: boolean;
}

export const emptySelection = (): SelectionSlice => ({
  room: 'placement',
  roomChosen: false,
  chosen: null,
  wantsFocus: false,
  bone: -1,
  lastChosen: 'finding',
  picked: NOTHING_PICKED,
  element: -1,
  chosenSet: null,
  stacked: null,
  byHand: null,
  page: 'findings',
  wide: false,
});

import type { Brief } from '../core/house/brief';
import type { MoveHow } from '../core/contracts/step';
import type { CrosswalkFile } from '../core/rooms/crosswalk/file';
import { type Made, type Wire, defineTask } from './task';

export interface RemapInput {
  readonly wire: Wire;
  readonly brief: Brief;
  /**
   * A skeleton of the house, or the own one of a brief (the character's where none is given), or that of a
   * revision.
   */
  readonly target: { readonly id: string; readonly brief?: Brief } | { readonly wire: Wire };
  /** The rules; absent where they are to be found. */
  readonly crosswalk?: unknown;
  /** Crosswalks saved onto the same target, to be taken up where one fits. */
  readonly saved?: readonly unknown[];
  readonly limit: number;
  readonly how: MoveHow;
  /** A revision whose clips are examples for the weights as well. */
  readonly motion?: Wire;
}

/** How the crosswalk of a move came about, and what there is to look at in it. */
export interface CrosswalkOrigin {
  /** “given”, “suggested”, or the name of the skeleton that it was saved for. */
  readonly from: string;
  readonly bones: number;
  readonly paired: number;
  /** Pairs that want a look. */
  readonly unsure: number;
}

/** What moving the weights made. */
export interface RemapMade extends Made {
  /** The crosswalk as it was understood: what of the one that was sent is kept. */
  readonly crosswalk: CrosswalkFile;
  readonly walk: CrosswalkOrigin;
}

export const remapTask = defineTask<RemapInput, RemapMade>({ lane: 'working' });

import type { Promised } from './remedy';
import type { Deviation } from './step';

/** What a step did, as it is kept with its revision and told to people. */
export type Effects = NoEffects | ChangeEffects | RemapEffects;

/** Nothing to tell: the revision began a line. */
export interface NoEffects {
  readonly kind: 'none';
}

/** What a step touched, and how far the rest moved: the answer to “did anything else change?”. */
export interface ChangeEffects {
  readonly kind: 'changed';
  readonly nodes: readonly string[];
  readonly meshes: readonly string[];
  readonly skins: number;
  /** Names of the joints whose inverse binds were made anew. */
  readonly joints: readonly string[];
  readonly clips: readonly string[];
  readonly removed: readonly string[];
  /** Largest move of any point at rest, metres, over meshes that kept their points. */
  readonly largestMove: number;
  /** Points before and after. */
  readonly vertices: readonly [number, number];
  /** The factor that everything was scaled by on purpose. */
  readonly scale: number;
  /** Sets that do not hold all that they held any more, in words; absent where all do. */
  readonly sets?: readonly string[];
  /** Parts that changed though the step did not promise it, in words; empty where it kept its promise. */
  readonly outside: readonly string[];
  /**
   * Over `poses` trial poses: the largest movement of what the step did not mean to touch, metres, and where.
   */
  readonly others: {
    readonly largest: number;
    readonly where: string;
    readonly poses: number;
    readonly meshes: number;
    readonly holds: Promised['holds'];
  };
}

/** What a move to another skeleton did. */
export interface RemapEffects {
  readonly kind: 'remapped';
  /** Sum of all weights before and after. */
  readonly weight: { readonly before: number; readonly after: number };
  readonly vertices: {
    readonly total: number;
    readonly changed: number;
    readonly trimmed: number;
    readonly unweighted: number;
  };
  /** How far points are from where they were, over the same motions, metres. */
  readonly deviation: Deviation;
  /** What the skeleton itself costs of that; absent where the move was made before it was told apart. */
  readonly price?: Deviation;
  readonly poses: number;
  /** Bones before and after. */
  readonly bones: readonly [number, number];
}

/** The effects of a step that changed nothing there was. */
export const NO_EFFECTS: NoEffects = { kind: 'none' };

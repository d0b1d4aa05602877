/** How a figure bends, as a report tells it: for every joint the motions in which it fares worst. */
import type { SkinningMethod } from '../geometry/skinning';

/** One joint over all of its motions. */
export interface BentJoint {
  readonly bone: string;
  /** Least share of the volume at rest, and the motion that it is of: “bend, 118°”; null where none can be told. */
  readonly volume: { readonly value: number; readonly words: string } | null;
  /** Most stretch, as a factor, and the motion that it is of. */
  readonly stretch: { readonly value: number; readonly words: string };
}

/** All joints that were tried, the one that keeps least of its volume first. */
export interface Bending {
  readonly skinning: SkinningMethod;
  readonly motions: number;
  readonly joints: readonly BentJoint[];
  /** What the brief allows. */
  readonly limits: { readonly volume: number; readonly stretch: number };
}

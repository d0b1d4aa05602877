/** How a figure bent when it was handed over, as a docket keeps it: later revisions are held against that. */
import { array, number, object, string } from 'yup';
import type { SkinningMethod } from '../geometry/skinning';

/** One motion of one joint, at its worst. */
export interface HandedRow {
  /** By its name: another revision may number its bones otherwise. */
  readonly bone: string;
  readonly motion: string;
  /** Where the motion ended, degrees: one that goes farther bends otherwise. */
  readonly to: number;
  /** Share of the volume at rest; null where none could be told. */
  readonly volume: number | null;
  readonly stretch: number;
}

/** All motions that were tried, and how they were skinned. */
export interface HandedMotion {
  readonly skinning: SkinningMethod;
  readonly rows: HandedRow[];
}

/** As it is read from a docket. */
export const handedMotionSchema = object({
  skinning: string<SkinningMethod>().oneOf(['linear', 'dual-quaternion']).required(),
  rows: array(
    object({
      bone: string().required(),
      motion: string().required(),
      to: number().required(),
      volume: number().nullable().defined(),
      stretch: number().required(),
    }).noUnknown(),
  ).required(),
}).noUnknown();

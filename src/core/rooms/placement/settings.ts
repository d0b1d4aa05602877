/**
 * What a brief says of size, place and stance. Null: not asked. Each is a fragment that a check's settings
 * spread.
 */
import { type InferType, array, mixed, number, object, string } from 'yup';
import type { BriefBase } from '../../contracts/brief';

export type Forward = 'z' | '-z' | 'x' | '-x';

/** Height of the body, metres. */
export const HEIGHT = {
  height: object({
    target: number().positive().required(),
    tolerance: number().min(0).required(),
  })
    .nullable()
    .default(null),
};

/** Skeleton height as a share of the body's. */
export const SKELETON_SHARE = {
  skeletonShare: object({ least: number().required(), most: number().required() }).nullable().default(null),
};

/** Greatest gap between the lowest point and the ground, metres. */
export const GROUND = { groundTolerance: number().min(0).nullable().default(null) };

/** Where the front of a figure looks; up is always +Y, as in glTF 2.0. */
export const FORWARD = {
  forward: mixed<Forward>().oneOf(['z', '-z', 'x', '-x']).default('z'),
};

/**
 * Greatest distance of the plane of symmetry from x = 0, and of the origin from the space between the feet,
 * metres.
 */
export const MIDDLE = { middleTolerance: number().min(0).nullable().default(null) };

/**
 * Angle of the arms below the horizontal in degrees (0 is a T-pose) with its tolerance, the greatest bend of
 * a straight limb, and how far a leg may lean off the vertical.
 */
export const STANCE = {
  stance: object({
    arms: number().required(),
    tolerance: number().min(0).required(),
    bend: number().min(0).required(),
    legs: number().min(0).default(15),
  })
    .nullable()
    .default(null),
};

/** Least share of the joints that lie inside the body, and how far outside one may lie, metres. */
export const OVERLAP = {
  overlap: object({ share: number().min(0).max(1).required(), outside: number().min(0).required() })
    .nullable()
    .default(null),
};

const prop = object({
  /** A regular expression over names. */
  pattern: string().required(),
  title: string().required(),
  height: number().positive().required(),
  tolerance: number().min(0).required(),
});

/** Known props by a pattern over their names: the length of their longest side, metres. */
export const PROPS = { props: array(prop).default([]) };

/** How far the bind may disagree with the rest pose at a joint, metres. */
export const REST = { restTolerance: number().min(0).default(0.0005) };

/** Greatest deviation of a node's scale from 1. */
export const SCALE = { scaleTolerance: number().min(0).required() };

const placementSchema = object({
  ...HEIGHT,
  ...SKELETON_SHARE,
  ...GROUND,
  ...FORWARD,
  ...MIDDLE,
  ...STANCE,
  ...OVERLAP,
  ...PROPS,
  ...REST,
  ...SCALE,
});

/** A brief as far as this room reads it. */
export type PlacementBrief = BriefBase & InferType<typeof placementSchema>;

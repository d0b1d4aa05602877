import { type InferType, array, boolean, mixed, number, object, string } from 'yup';

/** The brief: what the receiving game wants. Every check reads its numbers from here. A missing part (null) is a question not asked. */
export const briefSchema = object({
  id: string()
    .required()
    .matches(/^[a-z0-9-]+$/),
  title: string().required(),
  about: string().required(),
  /** Unit in which lengths are shown. */
  unit: mixed<'m' | 'cm' | 'mm' | 'in'>().oneOf(['m', 'cm', 'mm', 'in']).required(),
  /** Height of the body, metres. */
  height: object({ target: number().positive().required(), tolerance: number().min(0).required() })
    .nullable()
    .default(null),
  /** Skeleton height as a share of the body's, and how far beyond the body a joint may lie, metres. */
  skeletonShare: object({ least: number().required(), most: number().required() }).nullable().default(null),
  /** Greatest gap between the lowest point and the ground, metres. */
  groundTolerance: number().min(0).nullable().default(null),
  /** Where the front of a figure looks; up is always +Y, as in glTF 2.0. */
  forward: mixed<'z' | '-z' | 'x' | '-x'>().oneOf(['z', '-z', 'x', '-x']).default('z'),
  /** Greatest distance of the plane of symmetry from x = 0, and of the origin from the space between the feet, metres. */
  middleTolerance: number().min(0).nullable().default(null),
  /** Angle of the arms below the horizontal in degrees (0 is a T-pose) with its tolerance, the greatest bend of a straight limb, and how far a leg may lean off the vertical. */
  stance: object({
    arms: number().required(),
    tolerance: number().min(0).required(),
    bend: number().min(0).required(),
    legs: number().min(0).default(15),
  })
    .nullable()
    .default(null),
  /** Least share of the joints that lie inside the body, and how far outside one may lie, metres. */
  overlap: object({ share: number().min(0).max(1).required(), outside: number().min(0).required() })
    .nullable()
    .default(null),
  /** Known props by a pattern over their names: the length of their longest side, metres. */
  props: array(
    object({
      pattern: string().required(),
      title: string().required(),
      height: number().positive().required(),
      tolerance: number().min(0).required(),
    }),
  ).default([]),
  /** How far the bind may disagree with the rest pose at a joint, metres. */
  restTolerance: number().min(0).default(0.0005),
  /** Greatest deviation of a node's scale from 1. */
  scaleTolerance: number().min(0).required(),
  root: object({ count: number().integer().min(1).required(), originTolerance: number().min(0).required() })
    .nullable()
    .default(null),
  naming: object({
    /** A regular expression over the whole name. */
    pattern: string().required(),
    /** The same in words, for people. */
    words: string().required(),
    longest: number().integer().positive().required(),
    leftovers: string().required(),
  }).required(),
  /** Pattern of bones with nothing beyond them, which carry no weight; null where tips are ordinary joints. */
  endPattern: string().nullable().default(null),
  controlPattern: string().nullable().default(null),
  /** Which table of parents the hierarchy is held against. */
  tree: mixed<'vrm' | 'h-anim' | 'webxr-hand'>().oneOf(['vrm', 'h-anim', 'webxr-hand']).required(),
  /** Skeleton that the crosswalk offers first. */
  skeleton: string().required(),
  limits: object({
    influences: number().integer().positive().required(),
    bones: number().integer().positive().required(),
  }).required(),
  weights: object({ sumTolerance: number().min(0).required(), dust: number().min(0).required() }).required(),
  surface: object({
    /** Points closer than this are one point, metres. */
    coincident: number().min(0).required(),
    /** Least share of quads, 0 … 1. */
    quadShare: number().min(0).max(1).required(),
    /** Within this distance of a bending joint a polygon that is no quad matters, metres. */
    nearJoint: number().min(0).required(),
    namesMatter: boolean().default(false),
  }).required(),
  /** Largest difference that the proof of a crosswalk may show, metres. */
  proofTolerance: number().positive().required(),
  /** Bones that may hang anywhere, as patterns. */
  freeBones: array(string().required()).default([]),
});

export type Brief = InferType<typeof briefSchema>;

const PER_METRE: Readonly<Record<Brief['unit'], number>> = { m: 1, cm: 100, mm: 1000, in: 1 / 0.0254 };

/** A length in metres as a number in the brief's unit. */
export function inUnit(metres: number, unit: Brief['unit']): number {
  return metres * PER_METRE[unit];
}

/** A length as text with its unit, in three significant decimals of the unit. */
export function lengthText(metres: number, unit: Brief['unit']): string {
  const digits = { m: 3, cm: 1, mm: 1, in: 2 }[unit];
  return `${inUnit(metres, unit).toFixed(digits)} ${unit}`;
}

/**
 * What a brief says of size, place and stance. Null: not asked. Each is a fragment that a check's settings
 * spread.
 */
import { type InferType, mixed, number, object } from 'yup';
import type { BriefBase } from '../../contracts/brief';
import { PROPS } from '../../contracts/props';
import { setting } from '../../contracts/setting';

export type Forward = 'z' | '-z' | 'x' | '-x';

/** Height of the body, metres. */
export const HEIGHT = {
  height: object({
    target: number()
      .positive()
      .required()
      .meta(setting('Height', 'length', 'is', 'From the sole to the crown, at rest.')),
    tolerance: number()
      .min(0)
      .required()
      .meta(setting('More or less by', 'length', 'most', 'So far the height may be off.')),
  })
    .nullable()
    .default(null)
    .meta({ label: 'Height of the body' }),
};

/** Skeleton height as a share of the body's. */
export const SKELETON_SHARE = {
  skeletonShare: object({
    least: number()
      .min(0)
      .required()
      .meta(setting('At least', 'share', 'least', 'Height of the skeleton as a share of the body’s.')),
    most: number()
      .min(0)
      .required()
      .meta(setting('At most', 'share', 'most', 'Height of the skeleton as a share of the body’s.')),
  })
    .nullable()
    .default(null)
    .meta({ label: 'Skeleton beside the body' }),
};

/** Greatest gap between the lowest point and the ground, metres. */
export const GROUND = {
  groundTolerance: number()
    .min(0)
    .nullable()
    .default(null)
    .meta(setting('Off the ground', 'length', 'most', 'The lowest point may lie so far from the ground.')),
};

/** Where the front of a figure looks; up is always +Y, as in glTF 2.0. */
export const FORWARD = {
  forward: mixed<Forward>()
    .oneOf(['z', '-z', 'x', '-x'])
    .default('z')
    .meta({
      label: 'Looks along',
      bound: 'is',
      hint: 'The axis that the front of a figure looks along; up is +Y.',
      choices: { z: '+Z', '-z': '−Z', x: '+X', '-x': '−X' },
    }),
};

/**
 * Greatest distance of the plane of symmetry from x = 0, and of the origin from the space between the feet,
 * metres.
 */
export const MIDDLE = {
  middleTolerance: number()
    .min(0)
    .nullable()
    .default(null)
    .meta(
      setting(
        'Off the middle',
        'length',
        'most',
        'The plane of symmetry, and the feet, may stand so far off the origin.',
      ),
    ),
};

/**
 * Angle of the arms below the horizontal in degrees (0 is a T-pose) with its tolerance, the greatest bend of
 * a straight limb, and how far a leg may lean off the vertical.
 */
export const STANCE = {
  stance: object({
    arms: number()
      .required()
      .meta(setting('Arms below level', 'angle', 'is', 'Angle of the arms below the horizontal; 0 is a T.')),
    tolerance: number()
      .min(0)
      .required()
      .meta(setting('More or less by', 'angle', 'most', 'So far the arms may be off.')),
    bend: number()
      .min(0)
      .required()
      .meta(setting('Bent at most', 'angle', 'most', 'Elbows and knees that count as straight.')),
    leastBend: number()
      .min(0)
      .default(0)
      .meta(
        setting(
          'Bent at least',
          'angle',
          'least',
          'An elbow or knee keeps so much bend, so that a solver knows which way it goes; 0 asks for none.',
        ),
      ),
    legs: number()
      .min(0)
      .default(15)
      .meta(setting('Legs off upright', 'angle', 'most', 'A leg may lean so far off the vertical.')),
  })
    .nullable()
    .default(null)
    .meta({ label: 'Stance' }),
};

/** What a limb may lack of the least bend before it counts, degrees: numbers of a file are not exact. */
const STRAIGHT_ENOUGH = 0.05;

/** Whether an elbow or knee bent by so many degrees is straighter than a brief wants it. */
export const isTooStraight = (bend: number, { leastBend }: { readonly leastBend: number }): boolean =>
  bend < leastBend - STRAIGHT_ENOUGH;

/** Least share of the joints that lie inside the body, and how far outside one may lie, metres. */
export const OVERLAP = {
  overlap: object({
    share: number()
      .min(0)
      .max(1)
      .required()
      .meta(setting('Joints inside', 'share', 'least', 'So many of the joints lie inside the body.')),
    outside: number()
      .min(0)
      .required()
      .meta(setting('Outside by', 'length', 'most', 'The others may lie so far outside it.')),
  })
    .nullable()
    .default(null)
    .meta({ label: 'Joints in the body' }),
};

/** How far the bind may disagree with the rest pose at a joint, metres. */
export const REST = {
  restTolerance: number()
    .min(0)
    .default(0.0005)
    .meta(
      setting('Bind off the rest', 'length', 'most', 'The bind may disagree with the rest pose by so much.'),
    ),
};

/** Greatest deviation of a node's scale from 1. */
export const SCALE = {
  scaleTolerance: number()
    .min(0)
    .required()
    .meta(setting('Scale off one', 'factor', 'most', 'The scale of a node may differ from 1 by so much.')),
};

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

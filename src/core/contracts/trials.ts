/** What a brief says of a figure in motion. */
import { type InferType, array, number, object, string } from 'yup';
import { JOINT_WORDS, type JointPart, MOTIONS_OF } from '../anatomy/joint-ranges';
import type { SkinningMethod } from '../geometry/skinning';
import { choiceOf } from './params';
import { setting } from './setting';

/** Common practice: what bodies that were skinned with care keep at the ends of their ranges. */
export const USUAL_LIMITS = {
  reach: 1,
  volume: 0.5,
  stretch: 3,
  inverted: 0.03,
  torn: 0.6,
  twist: 45,
  through: 0.6,
  bends: 0.001,
  ranges: [],
  poses: [],
  skinning: 'linear',
} satisfies Record<string, number | never[] | SkinningMethod>;

const motionNames = [...new Set(Object.values(MOTIONS_OF).flat())];

/** A motion of a joint by name; one that the joint does not have is refused. */
const motion = () =>
  choiceOf('Motion', Object.fromEntries(motionNames.map((name) => [name, name])))
    .required()
    .test('of-joint', function ofJoint(name) {
      const { part } = this.parent as { part?: JointPart };
      const own = part && MOTIONS_OF[part];
      if (!own || !name || own.includes(name)) return true;
      return this.createError({
        message: `the ${JOINT_WORDS[part]} does not “${name}”; it has: ${own.join(', ')}`,
      });
    });

const joint = () => choiceOf<JointPart>('Joint', JOINT_WORDS).required();

const degrees = () => number().min(0).max(180).required().meta({ label: 'To', quantity: 'angle' });

/** Most rows of either list. */
const MOST_ROWS = 200;

/** Sides of a pose. */
const SIDES = { both: 'both sides', left: 'left', right: 'right' } as const;

/** How engines skin. */
export const SKINNING: Readonly<Record<SkinningMethod, string>> = {
  linear: 'linearly',
  'dual-quaternion': 'by dual quaternions',
};

/** What a brief asks of a figure in motion; null where it asks nothing. */
export const TRIALS = object({
  /** How much of its range in life a joint is turned, 0 … 1. */
  reach: number()
    .min(0.05)
    .max(1)
    .default(USUAL_LIMITS.reach)
    .meta(
      setting(
        'Joints turn by this share of their range',
        'share',
        'is',
        'How far joints are turned in trials: 1 is as far as they go in life, an elbow 150°, a hip 120°.',
      ),
    ),
  /** How far single joints are turned, where that is something else. */
  ranges: array(object({ part: joint(), motion: motion(), degrees: degrees() }))
    .max(MOST_ROWS)
    .default([...USUAL_LIMITS.ranges])
    .meta({
      label: 'Joints that turn otherwise',
      fresh: { part: 'lowerarm', motion: 'bend', degrees: 90 },
      isTable: true,
      bound: 'is',
      hint: 'How far a joint is turned in one of its motions, counted as in life: an arm that hangs is at 0°. 0 leaves the motion out.',
    }),
  /** Several joints at once: rows of one name are one pose. */
  poses: array(
    object({
      pose: string().required().max(200).meta({ label: 'Pose' }),
      part: joint(),
      side: choiceOf<keyof typeof SIDES>('Side', SIDES).default('both'),
      motion: motion(),
      degrees: degrees(),
    }),
  )
    .max(MOST_ROWS)
    .default([...USUAL_LIMITS.poses])
    .meta({
      label: 'Poses of several joints',
      fresh: { pose: 'crouch', part: 'lowerleg', side: 'both', motion: 'bend', degrees: 110 },
      isTable: true,
      bound: 'is',
      hint: 'Tried beside the motions of single joints: rows of one name are struck together, as a crouch is of hips, knees and ankles.',
    }),
  /** How the engine skins: the figures are those that it will show. */
  skinning: choiceOf<SkinningMethod>('The engine skins', SKINNING).default(USUAL_LIMITS.skinning).meta({
    bound: 'is',
    hint: 'Linear skinning loses volume where a limb twists or folds, dual quaternions swell there instead; the figures and the stage of Trials show what this engine does.',
  }),
  /** Least volume that a limb keeps about a joint, as a share of that at rest. */
  volume: number()
    .min(0)
    .max(1)
    .default(USUAL_LIMITS.volume)
    .meta(
      setting(
        'Least volume kept at a joint',
        'share',
        'least',
        'The piece of a limb about a joint keeps at least this share of its volume, however the joint turns.',
      ),
    ),
  /** Most stretch of what bends, as a factor. */
  stretch: number()
    .min(1)
    .default(USUAL_LIMITS.stretch)
    .meta(
      setting(
        'Most stretch at a joint',
        'factor',
        'most',
        'No more than a twentieth of the skin that bends with a joint is drawn out further than this.',
      ),
    ),
  /** Most of what bends that may be turned inside out, 0 … 1. */
  inverted: number()
    .min(0)
    .max(1)
    .default(USUAL_LIMITS.inverted)
    .meta(
      setting(
        'Most that turns inside out',
        'share',
        'most',
        'So much of the skin that bends with a joint, by area, may be turned over where it creases.',
      ),
    ),
  /** Most that edges are torn apart, against the thickness of the limb. */
  torn: number()
    .min(0)
    .default(USUAL_LIMITS.torn)
    .meta(
      setting(
        'Points fly off beyond',
        'factor',
        'most',
        'An edge that becomes longer by this many times the thickness of its limb has a point that flies off.',
      ),
    ),
  /** How far the twist of an arm with twist bones may be off an even spread, degrees. */
  twist: number()
    .min(0)
    .max(180)
    .default(USUAL_LIMITS.twist)
    .meta(
      setting(
        'Twist of an arm is uneven by at most',
        'angle',
        'most',
        'Where an arm has twist bones its skin turns with the hand, ring by ring from the elbow on, and is nowhere farther off an even spread.',
      ),
    ),
  /** How deep something may go through another part, against the thickness of what moves. */
  through: number()
    .min(0)
    .default(USUAL_LIMITS.through)
    .meta(
      setting(
        'Parts go through each other by',
        'factor',
        'most',
        'What moves may go so deep into another part, as a factor of its own thickness.',
      ),
    ),
  /** How far a rigid part may be from moving as one, metres. */
  bends: number()
    .min(0)
    .default(USUAL_LIMITS.bends)
    .meta(
      setting(
        'Rigid parts bend by at most',
        'length',
        'most',
        'Points of a part that is rigid are no farther from where it moves as one.',
      ),
    ),
})
  .nullable()
  .default(null)
  .meta({ label: 'In motion' });

/** The limits that apply where a brief has some. */
export type TrialLimits = NonNullable<InferType<typeof TRIALS>>;

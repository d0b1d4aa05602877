import { type InferType, array, mixed, number, object, string } from 'yup';
import { setting } from './setting';
import { LENGTH_UNITS, type LengthUnit, UNIT_PATTERN } from './units';

/** Which bones a skin lists: all of the skeleton that was asked for, or those that the mesh needs. */
export const SKIN_BONES = ['whole', 'needed'] as const;

export type SkinBones = (typeof SKIN_BONES)[number];

/** Most bones of a skeleton that a brief brings along. */
const MOST_BONES = 5000;

/**
 * What every brief has, whichever checks there are. The rest of a brief is put together from the checks' own
 * settings; a missing part (null) is a question not asked.
 */
export const briefBaseFields = {
  id: string()
    .required()
    .matches(/^[a-z0-9-]+$/)
    .max(80),
  /** Counts up whenever it is saved anew. */
  version: number().integer().min(1).default(1),
  title: string().required().max(120),
  about: string().defined().max(600),
  /** Unit in which lengths are shown. */
  unit: string<LengthUnit>()
    .required()
    .matches(UNIT_PATTERN, {
      message: ({ path }: { path: string }) =>
        `${path} is none of ${LENGTH_UNITS.join(', ')}, nor how many units of the game’s own make a metre, as 32/m`,
    })
    .meta({
      label: 'Lengths in',
      hint: 'The unit that all lengths are shown in: one of the trade, or the game’s own, so many to the metre.',
    }),
  /** Skeleton that the crosswalk offers first. */
  skeleton: string()
    .required()
    .meta({ label: 'Skeleton of the game', hint: 'The one that the crosswalk offers first.' }),
  /** The skeleton where `skeleton` is “own”: bones from the root out, world places in metres, world rotations. */
  ownSkeleton: object({
    title: string().required().max(120),
    bones: array(
      object({
        name: string().defined().max(1000),
        parent: number().integer().min(-1).required(),
        place: array(number().required()).length(3).required(),
        rotation: array(number().required()).length(4).required(),
      }),
    )
      .required()
      .min(1)
      .max(MOST_BONES),
  })
    .nullable()
    .default(null)
    .meta({ label: 'Its own skeleton', hint: 'The bones, where the skeleton is none of the house.' }),
  /** Largest difference that the proof of a crosswalk may show, metres. */
  proofTolerance: number()
    .positive()
    .required()
    .meta(
      setting(
        'A move may add',
        'length',
        'is',
        'So far points may lie from where they were, beyond what the skeleton costs.',
      ),
    ),
  /**
   * Which bones of the game's skeleton a skin lists when weights are moved onto it: all of them in their
   * order, since a bone that is not listed is not there for the game, or only those that the mesh needs.
   */
  skins: mixed<SkinBones>()
    .oneOf([...SKIN_BONES])
    .default('whole')
    .meta({
      label: 'A skin lists',
      hint: 'A bone that is not listed is not there for a game.',
      choices: { whole: 'the whole skeleton', needed: 'the bones that it needs' },
    }),
};

const briefBaseSchema = object(briefBaseFields);

export type BriefBase = InferType<typeof briefBaseSchema>;

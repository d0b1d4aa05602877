import { type InferType, mixed, number, object, string } from 'yup';
import { LENGTH_UNITS, type LengthUnit } from './units';

/** Which bones a skin lists: all of the skeleton that was asked for, or those that the mesh needs. */
export const SKIN_BONES = ['whole', 'needed'] as const;

export type SkinBones = (typeof SKIN_BONES)[number];

/**
 * What every brief has, whichever checks there are. The rest of a brief is put together from the checks' own
 * settings; a missing part (null) is a question not asked.
 */
export const briefBaseFields = {
  id: string()
    .required()
    .matches(/^[a-z0-9-]+$/),
  title: string().required(),
  about: string().required(),
  /** Unit in which lengths are shown. */
  unit: mixed<LengthUnit>()
    .oneOf([...LENGTH_UNITS])
    .required(),
  /** Skeleton that the crosswalk offers first. */
  skeleton: string().required(),
  /** Largest difference that the proof of a crosswalk may show, metres. */
  proofTolerance: number().positive().required(),
  /**
   * Which bones of the game's skeleton a skin lists when weights are moved onto it: all of them in their order, since a
   * bone that is not listed is not there for the game, or only those that the mesh needs.
   */
  skins: mixed<SkinBones>()
    .oneOf([...SKIN_BONES])
    .default('whole'),
};

const briefBaseSchema = object(briefBaseFields);

export type BriefBase = InferType<typeof briefBaseSchema>;

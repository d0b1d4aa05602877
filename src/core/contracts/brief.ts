import { type InferType, mixed, number, object, string } from 'yup';
import { LENGTH_UNITS, type LengthUnit } from './units';

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
};

const briefBaseSchema = object(briefBaseFields);

export type BriefBase = InferType<typeof briefBaseSchema>;

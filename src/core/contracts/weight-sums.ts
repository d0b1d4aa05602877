/** What a brief says of weights. */
import { type InferType, number, object } from 'yup';
import type { BriefBase } from './brief';
import { setting } from './setting';

/** How far the weights of a point may sum beside one. */
export const WEIGHT_SUMS = {
  weights: object({
    sumTolerance: number()
      .min(0)
      .required()
      .meta(
        setting(
          'Off one',
          'weight',
          'most',
          'The weights of a point may sum to so much more or less than one.',
        ),
      ),
  })
    .required()
    .meta({ label: 'Sums of weights' }),
};

export type SumsBrief = BriefBase & { readonly weights: InferType<typeof WEIGHT_SUMS.weights> };

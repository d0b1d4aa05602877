/** What a brief says of weights. */
import { type InferType, number, object } from 'yup';
import type { BriefBase } from './brief';
import { setting } from './setting';

/** How far the weights of a point may sum beside one, and how small one of them may be. */
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
    dust: number()
      .min(0)
      .required()
      .default(0.002)
      .meta(
        setting(
          'Least weight',
          'weight',
          'least',
          'A bone that has less of a point does next to nothing there; 0 where any weight will do.',
        ),
      ),
  })
    .required()
    .meta({ label: 'Weights of a point' }),
};

export type SumsBrief = BriefBase & { readonly weights: InferType<typeof WEIGHT_SUMS.weights> };

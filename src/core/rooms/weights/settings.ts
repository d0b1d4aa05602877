/** What a brief says of weights. */
import { type InferType, number, object } from 'yup';
import type { BriefBase } from '../../contracts/brief';

/** How far the weights of a point may sum beside one. */
export const WEIGHT_SUMS = {
  weights: object({ sumTolerance: number().min(0).required() }).required(),
};

export type SumsBrief = BriefBase & { readonly weights: InferType<typeof WEIGHT_SUMS.weights> };

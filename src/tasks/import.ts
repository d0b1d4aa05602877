import type { Brief } from '../core/house/brief';
import type { Proposal } from '../core/house/propose';
import type { ReadOptions } from '../core/formats';
import type { InputFile } from '../core/formats/errors';
import { type Made, type Wire, defineTask } from './task';

export interface ImportInput {
  readonly files: InputFile[];
  readonly options?: ReadOptions;
  readonly brief?: Brief;
  /** Those that may fit better. */
  readonly briefs?: readonly Brief[];
  /** An earlier delivery, whose sets are found again in this one. */
  readonly setsOf?: Wire;
}

export interface Imported extends Made {
  /** What fits better than the brief that it was given; null for nothing. */
  readonly fits: Proposal | null;
}

export const importTask = defineTask<ImportInput, Imported>({ lane: 'reading' });

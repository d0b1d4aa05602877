import type { Brief } from '../core/house/brief';
import type { ReadOptions } from '../core/formats';
import type { InputFile } from '../core/formats/errors';
import { type Made, type Wire, defineTask } from './task';

export interface AddInput {
  readonly wire: Wire;
  readonly files: InputFile[];
  readonly options?: ReadOptions;
  readonly brief: Brief;
}

export const addTask = defineTask<AddInput, Made>({ lane: 'reading' });

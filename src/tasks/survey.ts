import type { InputFile } from '../core/formats/errors';
import { defineTask } from './task';

export interface SurveyInput {
  readonly files: InputFile[];
}

/** What a set of files holds, before it is taken in: for the questions that they do not answer themselves. */
export interface Surveyed {
  readonly name: string;
  readonly format: string;
  readonly unitMetres: number;
  readonly upAxis: 'x' | 'y' | 'z';
  readonly stated: { readonly unit: boolean; readonly upAxis: boolean };
  /** Extent along the axes as read, metres. */
  readonly size: readonly [number, number, number];
  readonly bones: number;
  readonly vertices: number;
  readonly clips: number;
}

export const surveyTask = defineTask<SurveyInput, Surveyed>({ lane: 'reading' });

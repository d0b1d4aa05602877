import type { Brief } from '../core/house/brief';
import type { LearnedBrief } from '../core/house/learn';
import { type Wire, defineTask } from './task';

export interface LearnInput {
  readonly wire: Wire;
  readonly base: Brief;
  readonly title: string;
  /** Name of the character. */
  readonly from: string;
}

export const learnTask = defineTask<LearnInput, LearnedBrief>({ lane: 'working' });

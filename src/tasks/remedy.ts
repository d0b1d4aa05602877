import type { Brief } from '../core/house/brief';
import type { Params } from '../core/contracts/remedy';
import type { NamedParams } from '../core/contracts/step';
import { type EarlierAudit, type Made, type Wire, defineTask } from './task';

export interface RemedyInput {
  readonly wire: Wire;
  readonly brief: Brief;
  readonly remedy: string;
  readonly params: Params;
  /** Given where a recorded step is done again: what its indices stood for. */
  readonly names?: NamedParams;
  readonly earlier?: EarlierAudit;
}

export interface RemedyMade extends Made {
  /** The parameters as they were checked, and as they count here. */
  readonly params: Params;
  /** What the indices among them stood for. */
  readonly names: NamedParams;
  /** What of it could not be done again, in words. */
  readonly misfits: readonly string[];
}

export const remedyTask = defineTask<RemedyInput, RemedyMade>({ lane: 'working' });

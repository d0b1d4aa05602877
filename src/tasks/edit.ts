import type { Brief } from '../core/house/brief';
import type { NamedParams } from '../core/contracts/step';
import { type EarlierAudit, type Made, type Wire, defineTask } from './task';

export interface EditInput {
  readonly wire: Wire;
  readonly brief: Brief;
  /** A bundle of patches. */
  readonly patches: Uint8Array;
  /** Given where a recorded edit is done again: what the indices of every patch stood for. */
  readonly names?: readonly NamedParams[];
  readonly earlier?: EarlierAudit;
}

export interface EditMade extends Made {
  readonly title: string;
  /** The patches as they were done here, as a bundle. */
  readonly patch: Uint8Array;
  readonly names: readonly NamedParams[];
  /** What could not be done again, in words. */
  readonly misfits: readonly string[];
}

export const editTask = defineTask<EditInput, EditMade>({ lane: 'working' });

import type { FindingTold } from '../core/contracts/waiver';
import type { HandedMotion } from '../core/contracts/handed-motion';
import type { Brief } from '../core/house/brief';
import { type Wire, defineTask } from './task';

export interface StandingInput {
  readonly wire: Wire;
  readonly brief: Brief;
  /** Whether it is moved as well, see `audit`. */
  readonly isMoved?: boolean;
  /** How it bent when it was handed over last. */
  readonly handed?: HandedMotion | null;
}

/** What checks measure of a revision, and what they find under a brief. */
export interface StandingUnderBrief {
  readonly measured: Readonly<Record<string, unknown>>;
  readonly findings: readonly FindingTold[];
}

export const standingTask = defineTask<StandingInput, StandingUnderBrief>({ lane: 'working' });

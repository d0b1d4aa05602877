import type { Brief } from '../core/house/brief';
import type { HandedMotion } from '../core/contracts/handed-motion';
import type { Moment, Waiver } from '../core/contracts/waiver';
import type { Receiver } from '../core/rooms/docket/receivers';
import type { ReportFacts } from '../core/rooms/docket/report';
import { type EarlierAudit, type Wire, defineTask } from './task';

export interface ReportInput {
  readonly wire: Wire;
  readonly brief: Brief;
  readonly facts: ReportFacts;
  readonly picture: string | null;
  /** Those that stand, and when they are asked. */
  readonly waivers: readonly Waiver[];
  readonly moment: Moment;
  /** The audit of this very revision, where there is one. */
  readonly audited?: EarlierAudit;
  /** How the character bent when it was handed over last. */
  readonly handed: HandedMotion | null;
  /** The receiver that it is held against. */
  readonly receiver?: Receiver;
}

export interface Reported {
  readonly html: string;
}

export const reportTask = defineTask<ReportInput, Reported>({ lane: 'auditing' });

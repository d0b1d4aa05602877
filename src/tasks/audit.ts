import type { HandedMotion } from '../core/contracts/handed-motion';
import type { Brief } from '../core/house/brief';
import { type Audited, type Wire, defineTask } from './task';

export interface AuditInput {
  readonly wire: Wire;
  readonly brief: Brief;
  /** Whether the figure is moved as well, which takes seconds. */
  readonly isMoved?: boolean;
  /** How it bent when it was handed over last. */
  readonly handed?: HandedMotion | null;
}

export const auditTask = defineTask<AuditInput, Audited>({ lane: 'auditing' });

import type { Brief } from '../core/house/brief';
import { type Audited, type Wire, defineTask } from './task';

export interface AuditInput {
  readonly wire: Wire;
  readonly brief: Brief;
  /** Whether the figure is moved as well, which takes seconds. */
  readonly isMoved?: boolean;
}

export const auditTask = defineTask<AuditInput, Audited>({ lane: 'auditing' });

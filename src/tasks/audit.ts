import type { Brief } from '../core/house/brief';
import { type Audited, type Wire, defineTask } from './task';

export interface AuditInput {
  readonly wire: Wire;
  readonly brief: Brief;
}

export const auditTask = defineTask<AuditInput, Audited>({ lane: 'auditing' });

import type { Brief } from '../../core/house/brief';
import { type Audited, type Tell, type Wire, auditCharacter, openWire } from '../task';

export interface AuditInput {
  readonly wire: Wire;
  readonly brief: Brief;
}

/** Audits a revision under a brief. Throws RemedyError where there is no such brief. */
export const auditRevision = ({ wire, brief }: AuditInput, tell: Tell): Audited =>
  auditCharacter(openWire(wire), brief, { tell });

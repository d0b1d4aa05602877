import type { AuditInput } from '../../tasks/audit';
import type { Audited, Tell } from '../../tasks/task';
import { auditCharacter, openWire } from '../task';

/** Audits a revision under a brief. Throws RemedyError where there is no such brief. */
export const auditRevision = ({ wire, brief, isMoved, handed }: AuditInput, tell: Tell): Audited =>
  auditCharacter(openWire(wire), brief, { tell, isMoved, handed });

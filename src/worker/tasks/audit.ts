import { type Audited, type Tell, type Wire, auditCharacter, needBrief, openWire } from '../task';

export interface AuditInput {
  readonly wire: Wire;
  readonly brief: string;
}

/** Audits a revision under a brief. Throws RemedyError where there is no such brief. */
export const auditRevision = ({ wire, brief }: AuditInput, tell: Tell): Audited =>
  auditCharacter(openWire(wire), needBrief(brief), { tell });

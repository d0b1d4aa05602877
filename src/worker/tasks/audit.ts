import { type Audited, type Tell, type Wire, auditCharacter, needBrief, openWire } from '../task';

export interface AuditInput {
  readonly wire: Wire;
  readonly brief: string;
}

export const auditRevision = ({ wire, brief }: AuditInput, tell: Tell): Audited =>
  auditCharacter(openWire(wire), needBrief(brief), { tell });

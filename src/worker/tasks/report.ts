import { unpack } from '../../core/character/bundle';
import type { Finding } from '../../core/contracts/finding';
import { audit } from '../../core/house/audit';
import { type ReportFacts, reportHtml } from '../../core/rooms/docket/report';
import { measuresOf } from '../../core/rooms/placement/measures';
import { type EarlierAudit, type Wire, needBrief, openWire } from '../task';

export interface ReportInput {
  readonly wire: Wire;
  readonly brief: string;
  readonly facts: ReportFacts;
  readonly picture: string | null;
  /** The audit of this very revision, where there is one. */
  readonly audited?: EarlierAudit;
}

/** The report of a revision as HTML. */
export function reportRevision({ wire, brief: id, facts, picture, audited }: ReportInput): { html: string } {
  const character = openWire(wire);
  const brief = needBrief(id);
  const findings =
    audited?.brief === id ? (unpack(audited.findings.slice().buffer) as Finding[]) : audit(character, brief);
  const measures = measuresOf(character, brief);
  return { html: reportHtml({ character, brief, measures, findings, facts, picture }) };
}

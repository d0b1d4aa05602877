/** Audits as JUnit XML, so that any build shows them: a suite a file, a case a check. */
import { DOMImplementation, type Element, XMLSerializer } from '@xmldom/xmldom';
import type { Finding } from '../core/contracts/finding';
import type { AuditOptions } from '../core/house/audit';
import type { Brief } from '../core/house/brief';
import { CHECKS } from '../core/house/registry';

/** One file that was audited. */
export interface AuditedFile {
  readonly file: string;
  readonly open: readonly Finding[];
  readonly waived: readonly {
    readonly finding: Finding;
    readonly waiver: { readonly reason: string; readonly by: string };
  }[];
}

/** The XML of some audits. What stops hand-off is a failure, what is waived or not asked is skipped. */
export function junitOf(
  audits: readonly AuditedFile[],
  brief: Brief,
  { isMoved, handedOver }: Pick<AuditOptions, 'isMoved' | 'handedOver'>,
): string {
  const doc = new DOMImplementation().createDocument(null, 'testsuites', null);
  const root = doc.documentElement as Element;
  const add = (
    to: Element,
    name: string,
    attributes: Readonly<Record<string, string | number>>,
    text = '',
  ) => {
    const element = doc.createElement(name);
    for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, String(value));
    if (text) element.appendChild(doc.createTextNode(text));
    to.appendChild(element);
    return element;
  };
  for (const { file, open, waived } of audits) {
    const of = (check: string) => open.filter((finding) => finding.check === check);
    const isFailed = (check: string) => of(check).some((finding) => finding.gravity === 'stops');
    const suite = add(root, 'testsuite', {
      name: file,
      tests: CHECKS.length,
      failures: CHECKS.filter((check) => isFailed(check.id)).length,
      errors: 0,
    });
    for (const check of CHECKS) {
      const test = add(suite, 'testcase', { classname: check.room, name: check.title });
      const stops = of(check.id).filter((finding) => finding.gravity === 'stops');
      const told = of(check.id).filter((finding) => finding.gravity !== 'stops');
      const mine = waived.filter((item) => item.finding.check === check.id);
      if (stops.length > 0)
        add(
          test,
          'failure',
          { message: stops[0].message, type: check.id },
          stops.map((stop) => stop.message).join('\n'),
        );
      else if (brief.checks?.[check.id] === 'off')
        add(test, 'skipped', { message: 'the brief does not ask it' });
      else if (check.isSinceHandedOver && !handedOver)
        add(test, 'skipped', { message: 'held against nothing that was handed over' });
      else if (check.isInMotion && !(isMoved && brief.trials))
        add(test, 'skipped', { message: 'the figure was not moved' });
      else if (mine.length > 0)
        add(test, 'skipped', { message: `waived by ${mine[0].waiver.by}: ${mine[0].waiver.reason}` });
      if (told.length > 0) add(test, 'system-out', {}, told.map((finding) => finding.message).join('\n'));
    }
  }
  return `<?xml version="1.0" encoding="UTF-8"?>\n${new XMLSerializer().serializeToString(doc)}\n`;
}

import { audit } from '../../core/house/audit';
import { waiverFor } from '../../core/contracts/waiver';
import { CHECKS } from '../../core/house/registry';
import { type Command, READING, briefOf, print, readOptionsOf, textOf } from '../command';
import { UsageError } from '../errors';
import { readFile } from '../files';
import { addWaiver } from '../waivers';

/** Accepts all findings of a check on a file, as they are now, with a reason and a name. */
export const waiveCommand: Command = {
  name: 'waive',
  takes: 'FILE',
  options: {
    check: { value: 'ID', needed: true },
    reason: { value: 'WHY', needed: true },
    by: { value: 'NAME', needed: true },
    out: { value: 'W', needed: true },
    until: { value: 'DAY' },
    brief: { value: 'B' },
    ...READING,
  },
  run(given, files) {
    if (files.length !== 1) throw new UsageError('Name one file whose findings are to be waived.');
    const [check, reason, by, out] = ['check', 'reason', 'by', 'out'].map((name) => {
      const text = textOf(given, name)?.trim();
      if (!text)
        throw new UsageError(`Say --${name}: a waiver names its check, its reason, and who accepts it.`);
      return text;
    });
    const until = textOf(given, 'until');
    if (until !== undefined && !/^\d{4}-\d{2}-\d{2}$/.test(until))
      throw new UsageError(`--until takes a day as 2027-03-31, not “${until}”.`);
    const asked = CHECKS.filter(({ id }) => id === check);
    if (asked.length === 0) throw new UsageError(`There is no check “${check}”; “bough checks” lists them.`);
    const findings = audit(readFile(files[0], readOptionsOf(given)), briefOf(given), { checks: asked });
    if (findings.length === 0)
      throw new UsageError(`“${check}” finds nothing on “${files[0]}”; there is nothing to waive.`);
    addWaiver(out, waiverFor(findings, { reason, by, until }));
    for (const finding of findings) print(`waived by ${by}: ${finding.message}`);
    return 0;
  },
};

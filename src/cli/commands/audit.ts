import { inUnit } from '../../core/contracts/units';
import { type Brief } from '../../core/house/brief';
import { audit } from '../../core/house/audit';
import { countGravity } from '../../core/contracts/finding';
import { type Finding, GRAVITIES, GRAVITY_WORDS } from '../../core/contracts/finding';
import { bonesOf } from '../../core/character/hierarchy';
import { bodyBox, skeletonBox } from '../../core/character/measure';
import type { Character } from '../../core/character/model';
import { type Command, READING, briefOf, print, printJson, readOptionsOf } from '../command';
import { UsageError } from '../errors';
import { readFile } from '../files';

/** What a file is under a brief: exit 1 where something stops hand-off. */
export const auditCommand: Command = {
  name: 'audit',
  takes: 'FILE…',
  options: { brief: { value: 'B' }, json: {}, ...READING },
  run(given, files) {
    if (files.length === 0) throw new UsageError('Name at least one file to audit.');
    const brief = briefOf(given);
    const reports = files.map((file) => reportOn(file, readFile(file, readOptionsOf(given)), brief));
    if (given.json) printJson(reports.length === 1 ? reports[0] : reports);
    else for (const r of reports) printReport(r, brief);
    return reports.some((r) => r.counts.stops > 0) ? 1 : 0;
  },
};

type Report = ReturnType<typeof reportOn>;

function reportOn(file: string, character: Character, brief: Brief) {
  const findings = audit(character, brief);
  const body = bodyBox(character);
  const skeleton = skeletonBox(character);
  return {
    file,
    brief: brief.id,
    version: brief.version,
    measures: {
      unit: brief.unit,
      bodyHeight: body ? inUnit(body.max[1] - body.min[1], brief.unit) : null,
      skeletonHeight: skeleton ? inUnit(skeleton.max[1] - skeleton.min[1], brief.unit) : null,
      lowest: body ? inUnit(body.min[1], brief.unit) : null,
      bones: bonesOf(character).length,
      vertices: character.meshes.reduce((n, m) => n + m.vertexCount, 0),
      polygons: character.meshes.reduce((n, m) => n + m.polygonOffsets.length - 1, 0),
    },
    counts: countGravity(findings),
    notes: character.notes,
    findings: findings.map(summaryOf),
  };
}

function summaryOf(f: Finding) {
  const { check, room, gravity, message, measured, expected, unit, count } = f;
  return {
    check,
    room,
    gravity,
    subject: f.subject.name,
    message,
    measured,
    expected,
    unit,
    count,
    remedies: f.remedies.map((r) => r.id),
  };
}

function printReport(r: Report, brief: Brief): void {
  const counts = GRAVITIES.map((g) => `${r.counts[g]} ${GRAVITY_WORDS[g]}`);
  print(`${r.file} for ${brief.title}: ${counts.join(', ')}`);
  for (const group of gatheredFindings(r)) {
    const [{ gravity, room, message }] = group;
    const more = group.length > 1 ? `; and ${group.length - 1} more of this kind (--json lists them)` : '';
    print(`  ${GRAVITY_WORDS[gravity].padEnd(14)} ${room.padEnd(10)} ${message}${more}`);
  }
  for (const note of r.notes) print(`  ${'note'.padEnd(25)} ${note}`);
}

/** Findings of one check and one gravity beyond this many are told in one line. */
const MOST_APART = 5;

function gatheredFindings(r: Report): Report['findings'][] {
  const kinds = new Map<string, Report['findings']>();
  for (const f of r.findings) {
    const key = `${f.check} ${f.gravity}`;
    kinds.set(key, [...(kinds.get(key) ?? []), f]);
  }
  return [...kinds.values()].flatMap((some) => (some.length > MOST_APART ? [some] : some.map((f) => [f])));
}

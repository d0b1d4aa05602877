import { inUnit } from '../../core/contracts/units';
import { type Brief } from '../../core/house/brief';
import { bodyKindOf } from '../../core/anatomy/body-kind';
import { BODY_KINDS, BODY_KIND_WORDS, type BodyKind } from '../../core/character/body-kinds';
import { audit, checksInMotion, silentChecks } from '../../core/house/audit';
import { countGravity } from '../../core/contracts/finding';
import { type Finding, GRAVITIES, GRAVITY_WORDS } from '../../core/contracts/finding';
import { bonesOf } from '../../core/character/hierarchy';
import { bodyBox, skeletonBox } from '../../core/character/measure';
import type { Character } from '../../core/character/model';
import { type Moment, WAIVER_WORDS, type Waived, applyWaivers } from '../../core/contracts/waiver';
import { type Command, READING, briefOf, print, printJson, readOptionsOf, textOf } from '../command';
import { completeFinding } from '../../core/contracts/check';
import { arrivalFindings, onArrivalCheck } from '../../core/rooms/docket/checks/on-arrival';
import type { Receiver } from '../../core/rooms/docket/receivers';
import type { HandedMotion } from '../../core/contracts/handed-motion';
import { docketOf } from '../docket';
import { UsageError } from '../errors';
import { receiverOf } from '../receiver';
import { isKeyInMotion } from '../../core/house/registry';
import { readFile, writeBytes } from '../files';
import { junitOf } from '../junit';
import { waiversOf } from '../waivers';

/** What a file is under a brief: exit 1 where something stops hand-off. */
export const auditCommand: Command = {
  name: 'audit',
  takes: 'FILE…',
  options: {
    brief: { value: 'B' },
    waivers: { value: 'W' },
    revision: { value: 'N' },
    kind: { value: 'K' },
    receiver: { value: 'R' },
    junit: { value: 'X' },
    'in-motion': {},
    since: { value: 'D' },
    json: {},
    ...READING,
  },
  run(given, files) {
    if (files.length === 0) throw new UsageError('Name at least one file to audit.');
    const brief = briefOf(given);
    const waivers = waiversOf(textOf(given, 'waivers'));
    const moment = momentOf(textOf(given, 'revision'));
    const named = textOf(given, 'receiver');
    const receiver = named === undefined ? null : receiverOf(named);
    const bodyKind = kindFrom(textOf(given, 'kind'));
    const isMoved = given['in-motion'] === true;
    const since = textOf(given, 'since');
    const handedOver = since === undefined ? null : handedMotionIn(since);
    if (handedOver && !isMoved)
      throw new UsageError('--since holds motion against a docket; add --in-motion.');
    const audits = files.map((file): Audit => {
      const character = { ...readFile(file, readOptionsOf(given)), ...(bodyKind && { bodyKind }) };
      const findings = receiver
        ? [
            ...audit(character, { ...brief, receiver: null }, { isMoved, handedOver }),
            ...arrivalOf(character, receiver, brief),
          ]
        : audit(character, brief, { isMoved, handedOver });
      const apart = applyWaivers(findings, waivers, moment);
      const notes = isMoved ? apart.notes : apart.notes.filter(({ key }) => !isKeyInMotion(key));
      return { file, character, ...apart, notes };
    });
    const junit = textOf(given, 'junit');
    if (junit) writeBytes(junit, junitOf(audits, brief, { isMoved, handedOver }));
    const reports = audits.map((audit) => reportOn(audit, brief, isMoved));
    if (given.json) printJson(reports.length === 1 ? reports[0] : reports);
    else for (const report of reports) printReport(report, brief);
    return reports.some((report) => report.counts.stops > 0) ? 1 : 0;
  },
};

interface Audit extends Waived {
  readonly file: string;
  readonly character: Character;
}

function momentOf(revision: string | undefined): Moment {
  const today = new Date().toISOString().slice(0, 10);
  if (revision === undefined) return { today };
  if (!/^[1-9]\d*$/.test(revision))
    throw new UsageError(`--revision takes the number of a revision, not “${revision}”.`);
  return { today, revision: Number(revision) };
}

/** How what a docket is of bent. Throws UsageError where the docket does not say it. */
function handedMotionIn(file: string): HandedMotion {
  const { motion } = docketOf(file);
  if (!motion)
    throw new UsageError(
      `The docket “${file}” does not say how the figure bent; its brief asked nothing of motion.`,
    );
  return motion;
}

/** What a receiver that was named makes of it, in place of the brief's machine. */
const arrivalOf = (character: Character, receiver: Receiver, brief: Brief): Finding[] =>
  arrivalFindings(character, receiver, brief).map((found) => completeFinding(onArrivalCheck, found));

function kindFrom(kind: string | undefined): BodyKind | undefined {
  if (kind === undefined || BODY_KINDS.includes(kind as BodyKind)) return kind as BodyKind | undefined;
  throw new UsageError(`--kind takes one of ${BODY_KINDS.join(', ')}, not “${kind}”.`);
}

type Report = ReturnType<typeof reportOn>;

function reportOn({ file, character, open, waived, notes }: Audit, brief: Brief, isMoved: boolean) {
  const body = bodyBox(character);
  const skeleton = skeletonBox(character);
  const { kind, confidence, reasons } = bodyKindOf(character);
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
      vertices: character.meshes.reduce((sum, mesh) => sum + mesh.vertexCount, 0),
      polygons: character.meshes.reduce((sum, mesh) => sum + mesh.polygonOffsets.length - 1, 0),
    },
    body: { kind, confidence, reasons },
    notAsked: silentChecks(kind, brief).map((check) => check.id),
    notMoved: isMoved ? [] : checksInMotion(brief).map((check) => check.id),
    counts: countGravity(open),
    notes: character.notes,
    findings: open.map(summaryOf),
    waived: waived.map(({ finding, waiver: { reason, by, until, untilRevision } }) => ({
      ...summaryOf(finding),
      reason,
      by,
      until,
      untilRevision,
    })),
    waivers: notes.map(({ key, state, waiver }) => ({ key, state, reason: waiver.reason, by: waiver.by })),
  };
}

function summaryOf(finding: Finding) {
  const { check, room, gravity, message, measured, expected, unit, count } = finding;
  return {
    key: finding.key,
    check,
    room,
    gravity,
    subject: finding.subject.name,
    message,
    measured,
    expected,
    unit,
    count,
    remedies: finding.remedies.map((remedy) => remedy.id),
  };
}

function printReport(row: Report, brief: Brief): void {
  const counts = GRAVITIES.map((gravity) => `${row.counts[gravity]} ${GRAVITY_WORDS[gravity]}`);
  print(`${row.file} for ${brief.title}: ${counts.join(', ')}`);
  if (row.notAsked.length > 0)
    print(
      `  ${'not asked'.padEnd(25)} ${row.notAsked.join(', ')}; the body is ${BODY_KIND_WORDS[row.body.kind]}: ${row.body.reasons.join('; ')} (--kind says otherwise)`,
    );
  if (row.notMoved.length > 0)
    print(`  ${'not tried in motion'.padEnd(25)} what shows then is not told (--in-motion asks it)`);
  for (const group of gatheredFindings(row)) {
    const [{ gravity, room, message }] = group;
    const more = group.length > 1 ? `; and ${group.length - 1} more of this kind (--json lists them)` : '';
    print(`  ${GRAVITY_WORDS[gravity].padEnd(14)} ${room.padEnd(10)} ${message}${more}`);
  }
  for (const { message, by, reason } of row.waived)
    print(`  ${'waived'.padEnd(14)} ${`by ${by}`.padEnd(10)} ${message} (${reason})`);
  for (const { key, state, by } of row.waivers)
    print(`  ${'waiver'.padEnd(14)} ${`by ${by}`.padEnd(10)} ${key}: ${WAIVER_WORDS[state]}`);
  for (const note of row.notes) print(`  ${'note'.padEnd(25)} ${note}`);
}

/** Findings of one check and one gravity beyond this many are told in one line. */
const MOST_APART = 5;

function gatheredFindings(row: Report): Report['findings'][] {
  const kinds = new Map<string, Report['findings']>();
  for (const finding of row.findings) {
    const key = `${finding.check} ${finding.gravity}`;
    kinds.set(key, [...(kinds.get(key) ?? []), finding]);
  }
  return [...kinds.values()].flatMap((some) =>
    some.length > MOST_APART ? [some] : some.map((finding) => [finding]),
  );
}

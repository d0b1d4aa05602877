import Papa from 'papaparse';
import type { Character } from '../../core/character/model';
import { countGravity } from '../../core/contracts/finding';
import { GRAVITY_WORDS } from '../../core/contracts/finding';
import { type TrialLimits, USUAL_LIMITS } from '../../core/contracts/trials';
import { audit, checksInMotion } from '../../core/house/audit';
import type { Brief } from '../../core/house/brief';
import { CHECKS } from '../../core/house/registry';
import { clipSeconds, clipWorld } from '../../core/motion/pose';
import { BorrowedMotion } from '../../core/rooms/crosswalk/borrowed';
import { type ClipFigures, clipFigures } from '../../core/rooms/trials/clip-figures';
import {
  type JointOverMoments,
  type MotionMoment,
  type RowChange,
  type MotionFigures,
  jointsOverMoments,
  rowChanges,
  trialRows,
} from '../../core/rooms/trials/rows';
import { type Command, READING, briefOf, print, printJson, readOptionsOf, textOf } from '../command';
import { UsageError } from '../errors';
import { readFile } from '../files';

/** A figure in motion, joint by joint: exit 1 where a limit of the brief is passed so far that it stops hand-off. */
export const trialCommand: Command = {
  name: 'trial',
  takes: 'FILE',
  options: {
    brief: { value: 'B' },
    motion: { value: 'FILE' },
    against: { value: 'FILE' },
    json: {},
    csv: {},
    ...READING,
  },
  run(given, files) {
    if (files.length !== 1) throw new UsageError('Name one file to try.');
    if (given.json && given.csv) throw new UsageError('Choose one of --json and --csv.');
    const brief = briefOf(given);
    const read = (file: string) => readFile(file, readOptionsOf(given));
    const [motion, against] = ['motion', 'against'].map((name) => textOf(given, name));
    const report = reportOf(files[0], read(files[0]), brief, {
      motion: motion === undefined ? null : read(motion),
      against: against === undefined ? null : read(against),
    });
    if (given.json) printJson(report);
    else if (given.csv) print(Papa.unparse(report.joints.map(({ node: _node, ...row }) => row)));
    else printReport(report, brief);
    return countGravity(report.findings).stops > 0 ? 1 : 0;
  },
};

/** What a brief asks of a figure in motion and of its clips. */
function checksOfTrials(brief: Brief) {
  const inMotion = new Set(checksInMotion(brief));
  return CHECKS.filter((check) => inMotion.has(check) || (check.room === 'trials' && !check.isInMotion));
}

/** Moments of each clip. */
const MOMENTS = 24;

interface Others {
  readonly motion: Character | null;
  readonly against: Character | null;
}

function reportOf(file: string, character: Character, brief: Brief, { motion, against }: Others) {
  const limits = brief.trials ?? USUAL_LIMITS;
  const joints = trialRows(character, limits);
  const findings = audit(character, brief, { checks: checksOfTrials(brief) });
  const moments = [...ownMoments(character), ...(motion ? borrowedMoments(motion, character) : [])];
  return {
    file,
    brief: brief.id,
    // A brief without limits asks nothing: the figures stand for themselves.
    asked: brief.trials !== null,
    poses: joints.length,
    joints,
    clips: jointsOverMoments(character, moments, limits.skinning),
    clipFigures: clipFigures(character, brief.clips ?? undefined),
    moments: moments.length,
    changes: against ? changesSince(against, character, limits, joints) : [],
    findings: findings.map(({ check, gravity, subject, message, measured, expected, unit, pose }) => ({
      check,
      gravity,
      subject: subject.name,
      message,
      measured,
      expected,
      unit,
      pose: pose?.words ?? '',
    })),
  };
}

/** What differs from another character, bone by bone that stand for each other. */
function changesSince(
  against: Character,
  character: Character,
  limits: TrialLimits,
  joints: readonly MotionFigures[],
): RowChange[] {
  const counterparts = new BorrowedMotion(against, character);
  if (!counterparts.isAlike)
    throw new UsageError(
      `The bones of “${against.name}” are too unlike those of “${character.name}” to be held against each other.`,
    );
  return rowChanges(trialRows(against, limits), joints, (node) => counterparts.counterpartOf(node));
}

const ownMoments = (character: Character): MotionMoment[] =>
  character.clips.flatMap((clip, i) =>
    timesOf(clipSeconds(clip)).map((time) => ({
      label: `${clip.name || `clip ${i + 1}`} at ${time.toFixed(2)} s`,
      world: clipWorld(character, clip, time),
    })),
  );

/** Moments of a motion that another file holds. Throws UsageError where its bones are none of the character's. */
function borrowedMoments(from: Character, character: Character): MotionMoment[] {
  const borrowed = new BorrowedMotion(from, character);
  if (from.clips.length === 0)
    throw new UsageError(`“${from.name}” holds no motion; name a file that has a clip.`);
  if (!borrowed.isAlike)
    throw new UsageError(
      `The bones of “${from.name}” are too unlike those of “${character.name}” for its motion to be taken over.`,
    );
  return from.clips.flatMap((clip, i) =>
    timesOf(clipSeconds(clip)).map((time) => ({
      label: `${clip.name || `clip ${i + 1}`} of ${from.name} at ${time.toFixed(2)} s`,
      world: borrowed.worldAt(i, time),
    })),
  );
}

const timesOf = (seconds: number): number[] =>
  Array.from({ length: MOMENTS }, (_, i) => (seconds * (i + 0.5)) / MOMENTS);

/** Rows that are printed; the rest is in --json and --csv. */
const PRINTED = 16;

const percent = (share: number | null): string => (share === null ? '—' : `${Math.round(share * 100)} %`);

function printReport(
  {
    file,
    asked,
    joints,
    clips,
    clipFigures: figures,
    moments,
    changes,
    findings,
  }: ReturnType<typeof reportOf>,
  brief: Brief,
) {
  print(`${file} for ${brief.title}: ${joints.length} motions tried`);
  if (!asked) print('  The brief asks nothing of a figure in motion: nothing here stops hand-off.');
  const lossOf = ({ volume }: MotionFigures) => (volume === null ? 0 : 1 - volume);
  const worst = [...joints].sort((a, b) => lossOf(b) - lossOf(a)).slice(0, PRINTED);
  const width = Math.max(5, ...worst.map(({ bone }) => bone.length));
  print(
    `  ${'joint'.padEnd(width)}  ${'motion'.padEnd(26)} ${'volume'.padStart(7)} ${'stretch'.padStart(8)} ${'through'.padStart(9)}`,
  );
  for (const row of worst)
    print(
      `  ${row.bone.padEnd(width)}  ${row.words.padEnd(26)} ${percent(row.volume).padStart(7)} ${`${row.stretch.toFixed(2)} ×`.padStart(8)} ${`${Math.round(row.through * 1000)} mm`.padStart(9)}`,
    );
  if (joints.length > worst.length)
    print(`  and ${joints.length - worst.length} more (--csv and --json have all)`);
  if (moments > 0) printClips(clips, moments);
  for (const clip of figures) printClip(clip);
  for (const change of changes.slice(0, PRINTED)) printChange(change, width);
  for (const { gravity, message } of findings) print(`  ${GRAVITY_WORDS[gravity].padEnd(14)} ${message}`);
  if (findings.length === 0 && asked && joints.length > 0) print('  Nothing passes a limit of the brief.');
  if (joints.length === 0) print('  Nothing bends: there is no mesh that is bound to bones that turn.');
}

function printClips(clips: readonly JointOverMoments[], moments: number): void {
  const worst = clips.reduce<JointOverMoments | null>(
    (one, other) => ((other.volume ?? 1) < (one?.volume ?? 1) ? other : one),
    null,
  );
  const what = worst
    ? `least volume ${percent(worst.volume)} at “${worst.bone}”, ${worst.label}`
    : 'no volume is lost';
  print(`  over ${moments} moments of clips: ${what}`);
}

function printClip({ name, seconds, rate, travel, gap, jumps }: ClipFigures): void {
  const frames = rate === null ? 'uneven keys' : `${rate} frames a second`;
  const told = [
    `${seconds.toFixed(2)} s`,
    frames,
    `${travel.toFixed(2)} m over the ground`,
    `ends ${gap.toFixed(1)}° from its beginning`,
    `${jumps} ${jumps === 1 ? 'jump' : 'jumps'}`,
  ];
  print(`  clip “${name}”: ${told.join(', ')}`);
}

function printChange({ before, after, volume }: RowChange, width: number): void {
  print(
    `  ${after.bone.padEnd(width)}  ${after.motion.padEnd(26)} ${percent(before.volume)} → ${percent(after.volume)}${volume !== null && volume < 0 ? ' (worse)' : ''}, ${before.stretch.toFixed(2)} → ${after.stretch.toFixed(2)} ×`,
  );
}

import { bodyKindOf, bodyKindText } from '../anatomy/body-kind';
import type { BodyKind } from '../character/body-kinds';
import type { Character } from '../character/model';
import { type Check, completeFinding } from '../contracts/check';
import { type Finding, GRAVITIES, theCharacter } from '../contracts/finding';
import { type Aspect, LANDMARKS, changedAspects } from '../contracts/aspect';
import type { HandedMotion } from '../contracts/handed-motion';
import type { Brief, CheckRule } from './brief';
import { ROOM_IDS } from '../contracts/rooms';
import { CHECKS } from './registry';

/** What is asked, who is told, and what is known already. */
export interface AuditOptions {
  readonly checks?: readonly Check<Brief>[];
  /** Whether the figure is moved as well, which takes seconds; where it is not, checks in motion say nothing. */
  readonly isMoved?: boolean;
  /** How it bent when it was handed over last; null and undefined where that was never, or is not known. */
  readonly handedOver?: HandedMotion | null;
  /** Called after every check with what it found. */
  onCheck?(check: Check<Brief>, findings: readonly Finding[], done: number, of: number): void;
  readonly cancelled?: () => boolean;
  /**
   * The audit of an earlier state under the same brief: a check whose parts did not change keeps its answer.
   */
  readonly earlier?: { readonly character: Character; readonly findings: readonly Finding[] };
}

/**
 * Runs every check. A check that throws becomes a finding about itself. Findings come sorted: rooms in the
 * order of the work, then by gravity, then in the order in which they were found.
 */
export function audit(character: Character, brief: Brief, options: AuditOptions = {}): Finding[] {
  const rules = brief.checks ?? {};
  const { kind } = bodyKindOf(character);
  const asked = options.checks ?? CHECKS.filter((check) => options.isMoved || !check.isInMotion);
  const checks = asked.filter((check) => rules[check.id] !== 'off');
  const { earlier } = options;
  const changed = earlier ? changedAspects(earlier.character, character) : null;
  const all: Finding[] = [];
  checks.forEach((check, i) => {
    if (options.cancelled?.()) return;
    const isKept = earlier && changed && !check.isSinceHandedOver && isUntouched(check, changed);
    const found = isKept
      ? earlier.findings.filter((finding) => finding.check === check.id)
      : countNamesakes(
          underRule(
            rules[check.id],
            askedOf(check, kind) ? runCheck(check, character, brief, options.handedOver) : [],
          ),
        );
    all.push(...found);
    options.onCheck?.(check, found, i + 1, checks.length);
  });
  return inOrderOfWork(all);
}

/** Findings in the order of the work: by room, then by gravity, then as they stand. */
export function inOrderOfWork(findings: readonly Finding[]): Finding[] {
  const rank = ({ room, gravity }: Finding) => ROOM_IDS.indexOf(room) * 10 + GRAVITIES.indexOf(gravity);
  return [...findings].sort((a, b) => rank(a) - rank(b));
}

/** The checks that move a figure, for a brief that has limits for what it does then. */
export const checksInMotion = (brief: Brief): readonly Check<Brief>[] =>
  CHECKS.filter((check) => check.isInMotion && isAskedBy(brief, check));

/** Whether a check speaks for bodies of a kind. */
const askedOf = (check: Pick<Check<Brief>, 'kinds'>, kind: BodyKind): boolean =>
  !check.kinds || check.kinds.includes(kind);

/** The checks of a brief that have no answer for a body of this kind. */
export function silentChecks(kind: BodyKind, brief: Brief): readonly Check<Brief>[] {
  return CHECKS.filter(
    (check) => brief.checks?.[check.id] !== 'off' && isAskedBy(brief, check) && !askedOf(check, kind),
  );
}

/** Whether a brief asks what a check checks: not where all that it reads of the brief is left out (null). */
function isAskedBy(brief: Brief, { settings }: Check<Brief>): boolean {
  const fields = Object.keys(settings.fields);
  return fields.length === 0 || fields.some((field) => (brief as Record<string, unknown>)[field] !== null);
}

/** What was not asked of a body of this kind, or of a figure that was not moved, and why, in sentences; '' where everything was. */
export function silenceText(
  character: Character,
  brief: Brief,
  { isMoved = false }: Pick<AuditOptions, 'isMoved'> = {},
): string {
  const reading = bodyKindOf(character);
  const titles = silentChecks(reading.kind, brief).map((check) => `“${check.title}”`);
  const ofKind =
    titles.length > 0 && `Not asked: ${titles.join(', ')}; the body is ${bodyKindText(reading)}.`;
  const ofMotion =
    !isMoved &&
    checksInMotion(brief).length > 0 &&
    'It was not tried in motion: what shows then is not told here.';
  return [ofKind, ofMotion].filter(Boolean).join(' ');
}

/** Findings of the gravity that the brief gives their check; those that are only told stay so. */
const underRule = (rule: CheckRule | undefined, findings: Finding[]): Finding[] =>
  rule === undefined || rule === 'off'
    ? findings
    : findings.map((finding) => (finding.gravity === 'note' ? finding : { ...finding, gravity: rule }));

/** True where nothing that a check reads is among the parts that changed. */
const isUntouched = (
  { reads, kinds }: Pick<Check<Brief>, 'reads' | 'kinds'>,
  changed: ReadonlySet<Aspect>,
): boolean =>
  !reads.some((aspect) => changed.has(aspect)) && !(kinds && LANDMARKS.some((aspect) => changed.has(aspect)));

/** Findings of one check on several things of one name are counted, so that each has a key of its own. */
function countNamesakes(findings: readonly Finding[]): Finding[] {
  const seen = new Map<string, number>();
  return findings.map((finding) => {
    const count = (seen.get(finding.key) ?? 0) + 1;
    seen.set(finding.key, count);
    return count === 1 ? finding : { ...finding, key: `${finding.key}/${count}` };
  });
}

/** Runs one check; one that throws becomes a finding about itself. */
export function runCheck(
  check: Check<Brief>,
  character: Character,
  brief: Brief,
  handed?: HandedMotion | null,
): Finding[] {
  try {
    return check.run(character, brief, handed);
  } catch (error) {
    return [
      completeFinding(check, {
        gravity: 'worth',
        subject: theCharacter(character),
        message: `The check “${check.title}” broke off and has no answer: ${error instanceof Error ? error.message : String(error)}`,
        measured: 'broke off',
        expected: 'an answer',
        count: 1,
        mark: 'broke-off',
      }),
    ];
  }
}

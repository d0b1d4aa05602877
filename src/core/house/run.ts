import type { Character } from '../character/model';
import type { Brief } from '../contracts/brief';
import { CHECKS } from './registry';
import { type Check, type Finding, GRAVITIES, type Gravity, finding, theCharacter } from '../contracts/types';

export interface AuditOptions {
  readonly checks?: readonly Check[];
  /** Called after every check with what it found. */
  onCheck?(check: Check, findings: readonly Finding[], done: number, of: number): void;
  readonly cancelled?: () => boolean;
}

/**
 * Runs every check. A check that throws becomes a finding about itself. Findings come sorted: rooms in the order of the
 * work, then by gravity, then in the order in which they were found.
 */
export function audit(character: Character, brief: Brief, options: AuditOptions = {}): Finding[] {
  const checks = options.checks ?? CHECKS;
  const all: Finding[] = [];
  checks.forEach((check, i) => {
    if (options.cancelled?.()) return;
    const found = runCheck(check, character, brief);
    all.push(...found);
    options.onCheck?.(check, found, i + 1, checks.length);
  });
  const rooms = [...new Set(checks.map((c) => c.room))];
  const rank = (f: Finding) => rooms.indexOf(f.room) * 10 + GRAVITIES.indexOf(f.gravity);
  return keyedApart(
    all
      .map((f, i) => [f, i] as const)
      .sort((a, b) => rank(a[0]) - rank(b[0]) || a[1] - b[1])
      .map(([f]) => f),
  );
}

/** Findings of one check on several things of one name are counted, so that each has a key of its own. */
function keyedApart(findings: readonly Finding[]): Finding[] {
  const seen = new Map<string, number>();
  return findings.map((f) => {
    const n = (seen.get(f.key) ?? 0) + 1;
    seen.set(f.key, n);
    return n === 1 ? f : { ...f, key: `${f.key}/${n}` };
  });
}

export function runCheck(check: Check, character: Character, brief: Brief): Finding[] {
  try {
    return check.run(character, brief);
  } catch (error) {
    return [
      finding(
        check,
        {
          gravity: 'worth',
          subject: theCharacter(character),
          message: `The check “${check.title}” broke off and has no answer: ${error instanceof Error ? error.message : String(error)}`,
          measured: 'broke off',
          expected: 'an answer',
          count: 1,
        },
        'broke-off',
      ),
    ];
  }
}

export type Counts = Record<Gravity, number>;

export function countGravity(findings: readonly Pick<Finding, 'gravity'>[]): Counts {
  const counts: Counts = { stops: 0, worth: 0, note: 0 };
  for (const f of findings) counts[f.gravity]++;
  return counts;
}

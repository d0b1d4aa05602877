/** Findings that somebody has accepted, with a reason: they stand apart and stop nothing, as long as they do not grow. */
import { type InferType, array, mixed, object, string } from 'yup';
import type { Finding } from './finding';

/** One finding that is accepted, or several of a kind. */
export const waiverSchema = object({
  /** Keys of the findings: what it is, of what; they stay over new audits, steps and deliveries. */
  keys: array(string().required().max(2000)).required().min(1).max(10_000),
  reason: string().required().trim().min(1).max(2000),
  by: string().required().trim().min(1).max(200),
  /** The last day on which it holds, as 2027-03-31; absent for always. */
  until: string()
    .matches(/^\d{4}-\d{2}-\d{2}$/)
    .optional(),
  /** What was accepted, by key: the number that was measured then, and how many things were concerned. */
  accepted: mixed<Readonly<Record<string, Accepted>>>().optional(),
}).noUnknown();

/** What a finding said when it was waived. */
export interface Accepted {
  readonly measured?: number | string;
  readonly count?: number;
}

export type Waiver = InferType<typeof waiverSchema>;

/** The waivers of a project, as a file. */
export const waiverFileSchema = object({
  kind: string().oneOf(['young-bough-waivers']).required(),
  waivers: array(waiverSchema).required().max(10_000),
}).noUnknown();

export type WaiverFile = InferType<typeof waiverFileSchema>;

/** What became of a waiver's key. */
export interface WaiverNote {
  readonly key: string;
  readonly waiver: Waiver;
  /**
   * idle: the finding is gone, it is no longer needed. grown: more than was waived, so that the finding is open again.
   * over: its last day has passed.
   */
  readonly state: 'idle' | 'grown' | 'over';
}

/** Findings apart: those that are open, and those that are waived. */
export interface Waived {
  readonly open: readonly Finding[];
  readonly waived: readonly { readonly finding: Finding; readonly waiver: Waiver }[];
  readonly notes: readonly WaiverNote[];
}

/** Sets waived findings apart. `today`: as 2027-03-31. */
export function applyWaivers(
  findings: readonly Finding[],
  waivers: readonly Waiver[],
  today: string,
): Waived {
  const byKey = new Map(findings.map((f) => [f.key, f]));
  const holds = new Map<string, Waiver>();
  const notes: WaiverNote[] = [];
  for (const waiver of waivers)
    for (const key of waiver.keys) {
      const finding = byKey.get(key);
      const state = stateOf(finding, waiver, key, today);
      if (state === 'holds') holds.set(key, waiver);
      else notes.push({ key, waiver, state });
    }
  const isWaived = (f: Finding) => holds.has(f.key);
  return {
    open: findings.filter((f) => !isWaived(f)),
    waived: findings
      .filter(isWaived)
      .map((finding) => ({ finding, waiver: holds.get(finding.key) as Waiver })),
    // What one waiver does not cover another may.
    notes: notes.filter((n) => !holds.has(n.key)),
  };
}

function stateOf(
  finding: Finding | undefined,
  waiver: Waiver,
  key: string,
  today: string,
): WaiverNote['state'] | 'holds' {
  if (waiver.until !== undefined && waiver.until < today) return 'over';
  if (!finding) return 'idle';
  return hasGrown(finding, waiver.accepted?.[key]) ? 'grown' : 'holds';
}

/** How much a measured value may differ from the accepted one and be the same. */
const SAME = 1e-6;

/** Whether a finding says more than was accepted: of more things, or farther from what is wanted. */
export function hasGrown(
  finding: Pick<Finding, 'measured' | 'expected' | 'count'>,
  accepted?: Accepted,
): boolean {
  if (!accepted) return false;
  if (accepted.count !== undefined && finding.count > accepted.count) return true;
  const { measured, expected } = finding;
  if (typeof measured !== 'number' || typeof accepted.measured !== 'number') return false;
  const wanted = typeof expected === 'number' ? expected : 0;
  const [now, then] = [Math.abs(measured - wanted), Math.abs(accepted.measured - wanted)];
  return now > then + SAME * Math.max(1, then);
}

/** A waiver for findings as they are now. */
export const waiverFor = (
  findings: readonly Finding[],
  { reason, by, until }: Pick<Waiver, 'reason' | 'by' | 'until'>,
): Waiver => ({
  keys: findings.map((f) => f.key),
  reason,
  by,
  ...(until && { until }),
  accepted: Object.fromEntries(findings.map((f) => [f.key, { measured: f.measured, count: f.count }])),
});

/** Reads the waivers of a file. Throws an Error that names the field that is missing, wrong or unknown. */
export const waiversFrom = (json: unknown): readonly Waiver[] =>
  waiverFileSchema.validateSync(json, { strict: true }).waivers;

/**
 * Findings that somebody has accepted, with a reason: they stand apart and stop nothing, as long as they do
 * not grow.
 */
import { type InferType, array, mixed, number, object, string } from 'yup';
import { checkedBy } from './checked';
import type { Finding } from './finding';

/** A day that the calendar has, as 2027-03-31. */
export const day = () =>
  string().test(
    'day',
    '${path} is no day of the calendar (as 2027-03-31)',
    (text) => text === undefined || isDay(text),
  );

function isDay(text: string): boolean {
  if (!/^\d{4}-\d{2}-\d{2}$/.test(text)) return false;
  const time = Date.parse(`${text}T00:00:00Z`);
  return Number.isFinite(time) && new Date(time).toISOString().startsWith(text);
}

const acceptedSchema = object({
  measured: mixed<number | string>((x): x is number | string => Number.isFinite(x) || isShort(x)),
  count: number().integer().min(0),
}).noUnknown();

const isShort = (x: unknown): x is string => typeof x === 'string' && x.length <= 2000;

/** Whether a value says what was accepted, key by key; nothing says nothing. */
function isAccepted(value: unknown): boolean {
  if (value === undefined) return true;
  if (!value || typeof value !== 'object' || Array.isArray(value)) return false;
  return Object.values(value).every(
    (x) => x !== undefined && acceptedSchema.isValidSync(x, { strict: true }),
  );
}

/** One finding that is accepted, or several of a kind. */
export const waiverSchema = object({
  /** Keys of the findings: what it is, of what; they stay over new audits, steps and deliveries. */
  keys: array(string().required().max(2000)).required().min(1).max(10_000),
  reason: string().required().trim().min(1).max(2000),
  by: string().required().trim().min(1).max(200),
  /** The last day on which it holds, as 2027-03-31; absent for always. */
  until: day().optional(),
  /** The last revision in the character's ledger on which it holds; absent for all. */
  untilRevision: number().integer().min(1).optional(),
  /** What was accepted, by key: the number that was measured then, and how many things were concerned. */
  accepted: mixed<Readonly<Record<string, Accepted>>>()
    .optional()
    .test('accepted', '${path} holds something else than what was measured and counted', (x) =>
      isAccepted(x),
    ),
}).noUnknown();

/** What a finding said when it was waived. */
export interface Accepted {
  readonly measured?: number | string;
  readonly count?: number;
}

export type Waiver = InferType<typeof waiverSchema>;

const KIND = 'young-bough-waivers';

/** The waivers of a project, as a file. */
export const waiverFileSchema = object({
  kind: string()
    .oneOf([KIND] as const)
    .required(),
  waivers: array(waiverSchema).required().max(10_000),
}).noUnknown();

export type WaiverFile = InferType<typeof waiverFileSchema>;

/** A finding as far as waivers look at it. */
export type FindingTold = Pick<
  Finding,
  'key' | 'check' | 'gravity' | 'message' | 'measured' | 'expected' | 'count'
>;

/** A finding as far as waivers look at it. */
export const toldOf = (finding: Finding): FindingTold => ({
  key: finding.key,
  check: finding.check,
  gravity: finding.gravity,
  message: finding.message,
  measured: finding.measured,
  expected: finding.expected,
  count: finding.count,
});

/** When waivers are asked: the day, as 2027-03-31, and the revision by its number, where that is known. */
export interface Moment {
  readonly today: string;
  readonly revision?: number;
}

/** What became of a waiver's key. */
export interface WaiverNote<W extends Waiver = Waiver> {
  readonly key: string;
  readonly waiver: W;
  /**
   * idle: the finding is gone, it is no longer needed. grown: more than was waived, so that the finding is
   * open again. over: its last day, or its last revision, has passed. undated: it holds up to a revision,
   * and nobody said which one this is.
   */
  readonly state: 'idle' | 'grown' | 'over' | 'undated';
}

/** Findings apart: those that are open, and those that are waived. */
export interface Waived<F extends FindingTold = Finding, W extends Waiver = Waiver> {
  readonly open: readonly F[];
  readonly waived: readonly { readonly finding: F; readonly waiver: W }[];
  readonly notes: readonly WaiverNote<W>[];
}

/** Sets waived findings apart. */
export function applyWaivers<F extends FindingTold, W extends Waiver>(
  findings: readonly F[],
  waivers: readonly W[],
  moment: Moment,
): Waived<F, W> {
  const byKey = new Map(findings.map((finding) => [finding.key, finding]));
  const holds = new Map<string, W>();
  const notes: WaiverNote<W>[] = [];
  for (const waiver of waivers)
    for (const key of waiver.keys) {
      const finding = byKey.get(key);
      const state = stateOf(finding, waiver, key, moment);
      if (state === 'holds') holds.set(key, waiver);
      else notes.push({ key, waiver, state });
    }
  return {
    open: findings.filter((finding) => !holds.has(finding.key)),
    waived: findings.flatMap((finding) => {
      const waiver = holds.get(finding.key);
      return waiver ? [{ finding, waiver }] : [];
    }),
    // What one waiver does not cover another may.
    notes: notes.filter((note) => !holds.has(note.key)),
  };
}

function stateOf(
  finding: FindingTold | undefined,
  waiver: Waiver,
  key: string,
  moment: Moment,
): WaiverNote['state'] | 'holds' {
  if (hasPassed(waiver, moment)) return 'over';
  if (!finding) return 'idle';
  if (waiver.untilRevision !== undefined && moment.revision === undefined) return 'undated';
  return hasGrown(finding, waiver.accepted?.[key]) ? 'grown' : 'holds';
}

/** Whether the last day of a waiver, or its last revision, has passed. */
function hasPassed({ until, untilRevision }: Waiver, { today, revision }: Moment): boolean {
  if (until !== undefined && until < today) return true;
  return untilRevision !== undefined && revision !== undefined && revision > untilRevision;
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
  findings: readonly FindingTold[],
  { reason, by, until, untilRevision }: Pick<Waiver, 'reason' | 'by' | 'until' | 'untilRevision'>,
): Waiver => ({
  keys: findings.map((finding) => finding.key),
  reason,
  by,
  ...(until && { until }),
  ...(untilRevision && { untilRevision }),
  accepted: Object.fromEntries(
    findings.map((finding) => [finding.key, { measured: finding.measured, count: finding.count }]),
  ),
});

/** Waivers as a file. */
export const waiverFile = (waivers: readonly Waiver[]): WaiverFile => ({
  kind: KIND,
  waivers: waivers.map(({ keys, reason, by, until, untilRevision, accepted }) => ({
    keys,
    reason,
    by,
    ...(until && { until }),
    ...(untilRevision && { untilRevision }),
    ...(accepted && { accepted }),
  })),
});

/** What of other waivers concerns a character: those of findings that it has, and how many were left. */
export interface WaiversTaken<F extends FindingTold = FindingTold> {
  readonly taken: readonly { readonly waiver: Waiver; readonly findings: readonly F[] }[];
  readonly left: {
    /** They stand on the character already. */
    readonly known: number;
    /** The character has none of their findings. */
    readonly elsewhere: number;
    /** Their last day, or their last revision, has passed. */
    readonly over: number;
  };
}

/**
 * Takes waivers that were made elsewhere onto a character. Of each, the keys of findings that the character does not
 * have stay behind; what was accepted stays as it was accepted, also where the finding says more by now.
 * @param stands the waivers that stand on the character
 */
export function takeWaivers<F extends FindingTold>(
  offered: readonly Waiver[],
  found: readonly F[],
  stands: readonly Waiver[],
  moment: Moment,
): WaiversTaken<F> {
  const byKey = new Map(found.map((finding) => [finding.key, finding]));
  const said = new Set(stands.flatMap(statements));
  const taken: { waiver: Waiver; findings: readonly F[] }[] = [];
  const left = { known: 0, elsewhere: 0, over: 0 };
  for (const waiver of offered) {
    const findings = [...new Set(waiver.keys)].flatMap((key) => byKey.get(key) ?? []);
    const here = onlyOf(waiver, new Set(findings.map((finding) => finding.key)));
    const says = statements(here);
    if (hasPassed(waiver, moment)) left.over++;
    else if (findings.length === 0) left.elsewhere++;
    else if (says.every((statement) => said.has(statement))) left.known++;
    else {
      taken.push({ waiver: here, findings });
      for (const statement of says) said.add(statement);
    }
  }
  return { taken, left };
}

/** A waiver for some of its keys. */
function onlyOf({ accepted, ...waiver }: Waiver, keys: ReadonlySet<string>): Waiver {
  const kept = Object.entries(accepted ?? {}).filter(([key]) => keys.has(key));
  return { ...waiver, keys: [...keys], ...(accepted && { accepted: Object.fromEntries(kept) }) };
}

/** What a waiver says of each of its keys, to be compared. */
const statements = ({ keys, reason, by, until, untilRevision, accepted }: Waiver): string[] =>
  keys.map((key) => {
    const { measured, count } = accepted?.[key] ?? {};
    return JSON.stringify([key, reason, by, until, untilRevision, measured, count]);
  });

/** What a waiver's state is, in words. */
export const WAIVER_WORDS: Readonly<Record<WaiverNote['state'], string>> = {
  idle: 'no longer needed, the finding is gone',
  grown: 'more than was waived; the finding is open again',
  over: 'its last day or revision has passed',
  undated: 'it holds up to a revision, and nobody said which one this is',
};

/** Reads the waivers of a file. Throws an Error that names the field that is missing, wrong or unknown. */
export function waiversFrom(json: unknown): readonly Waiver[] {
  if ((json as { kind?: unknown } | null)?.kind !== KIND)
    throw new Error(`its “kind” does not say “${KIND}”`);
  return checkedBy(waiverFileSchema, json, { strict: true }).waivers;
}

/** A brief learned from a character that is right: what the checks measure of it, with tolerances that it passes. */
import { type AnyObject, type AnyObjectSchema, type Schema, reach } from 'yup';
import type { Character } from '../character/model';
import { bodyKindOf } from '../anatomy/body-kind';
import { fingerprintOf, skeletonOf } from '../anatomy/skeleton';
import { SKELETONS } from '../anatomy/skeletons';
import { OWN_SKELETON, ownSkeletonOf } from '../anatomy/skeletons/wanted';
import type { Measured } from '../contracts/check';
import type { Bound } from '../contracts/setting';
import { audit } from './audit';
import { type Brief, briefSchema } from './brief';
import { valueAt } from './brief-form';
import { PLAIN_BRIEFS, PLAIN_FIGURE } from './plain-briefs';
import { CHECKS } from './registry';

/** One setting that was learned. */
export interface Learned {
  readonly path: string;
  readonly measured: Measured;
  /** What the brief says now, and what it said before. */
  readonly now: unknown;
  readonly before: unknown;
  /** What a plain brief for such a thing says. */
  readonly plain: unknown;
  /** Why it is more likely a fault of the model than a wish, as a sentence; null where nothing speaks for that. */
  readonly doubt: string | null;
}

/** A brief with what was learned for it. */
export interface LearnedBrief {
  readonly brief: Brief;
  readonly settings: readonly Learned[];
  /** Checks whose findings on the very model are only told from now on. */
  readonly eased: readonly string[];
}

/** What all checks measure of a character, by the paths of their settings. */
export function measuredSettings(character: Character): ReadonlyMap<string, Measured> {
  const out = new Map<string, Measured>();
  for (const check of CHECKS)
    for (const [path, value] of Object.entries(check.measures?.(character) ?? {}))
      if (!out.has(path)) out.set(path, value);
  return out;
}

/**
 * The brief that a character fulfils: what is wanted is what it is, what is allowed is as much as it needs
 * and a tenth more. What nothing could be measured of stays as `base` has it, and so does what that makes of
 * checks; what is found all the same is told, and stops nothing.
 */
export function learnBrief(
  character: Character,
  base: Brief,
  names: Pick<Brief, 'id' | 'title' | 'about'>,
): LearnedBrief {
  const plain = structuredClone(base) as AnyObject;
  const before = structuredClone(base) as AnyObject;
  const settings: Learned[] = [];
  const usualBrief = plainFor(character) as AnyObject;
  for (const [path, measured] of measuredSettings(character)) {
    if (measured === null) continue;
    const [group, name] = path.split('.');
    // What was not asked is asked now: what is not measured of it is as of any plain figure.
    if (name && plain[group] === null) plain[group] = structuredClone((PLAIN_FIGURE as AnyObject)[group]);
    const now = boundBy(fieldAt(path), measured, valueAt(plain, path));
    if (name) plain[group] = { ...plain[group], [name]: now };
    else plain[group] = now;
    const usual = valueAt(usualBrief, path);
    const doubt = doubtOf(path, fieldAt(path), now, usual);
    settings.push({ path, measured, now, before: valueAt(before, path), plain: usual, doubt });
  }
  const learned = { ...plain, ...names, ...skeletonOfModel(character), version: 1 } as unknown as Brief;
  const eased = [
    ...new Set(
      audit(character, learned)
        .filter((finding) => finding.gravity !== 'note')
        .map((finding) => finding.check),
    ),
  ];
  const checks = { ...base.checks, ...Object.fromEntries(eased.map((id) => [id, 'note' as const])) };
  const brief = { ...learned, ...(eased.length > 0 && { checks }) };
  return { brief: briefSchema.validateSync(brief), settings, eased };
}

/** The plain brief for what a character is. */
function plainFor(character: Character): Brief {
  const { kind } = bodyKindOf(character);
  const id = { hand: 'plain-hands', machine: 'plain-machine' }[kind as string] ?? PLAIN_FIGURE.id;
  return PLAIN_BRIEFS.find((brief) => brief.id === id) ?? PLAIN_FIGURE;
}

/** What the machine can take is a wish however much it is. */
const WISHES = /^limits\./;

/** Why a setting that was learned may be a fault of the model: it allows what no plain brief does. */
function doubtOf(path: string, field: Schema, now: unknown, usual: unknown): string | null {
  const { bound } = (field.meta() ?? {}) as { bound?: Bound };
  if (typeof now !== 'number' || typeof usual !== 'number' || WISHES.test(path)) return null;
  if (bound === 'most' && now > usual)
    return 'It allows more than a plain brief does: a fault of the model is no wish.';
  if (bound === 'least' && now < usual)
    return 'It asks for less than a plain brief does: a fault of the model is no wish.';
  // The longest of some names is no bound on all that will come.
  return path === 'naming.longest' && now < usual ? 'It is as long as its longest name happens to be.' : null;
}

/** The brief with only some of what was learned; the rest stays as it was, or as a plain brief has what was not asked. */
export function withLearned(
  { brief, settings }: Pick<LearnedBrief, 'brief' | 'settings'>,
  taken: ReadonlySet<string>,
): Brief {
  const out = structuredClone(brief) as AnyObject;
  for (const { path, before, plain } of settings) {
    if (taken.has(path)) continue;
    const value = before ?? plain;
    const [group, name] = path.split('.');
    if (name && out[group]) out[group] = { ...out[group], [name]: value };
    else if (!name) out[group] = value;
  }
  return briefSchema.validateSync(out);
}

/** What of it is taken until somebody says otherwise: all that nothing speaks against. */
export const takenAtFirst = (settings: readonly Pick<Learned, 'path' | 'doubt'>[]): Set<string> =>
  new Set(settings.filter((setting) => setting.doubt === null).map((setting) => setting.path));

/**
 * The model's own skeleton as what is wanted; one of the house's where it is that. Nothing of a model without
 * bones.
 */
function skeletonOfModel(character: Character): Partial<Pick<Brief, 'skeleton' | 'ownSkeleton'>> {
  const own = skeletonOf(character);
  if (own.bones.length === 0) return {};
  const print = fingerprintOf(own);
  const ours = SKELETONS.find((skeleton) => fingerprintOf(skeleton) === print);
  if (ours) return { skeleton: ours.id, ownSkeleton: null };
  return { skeleton: OWN_SKELETON, ownSkeleton: ownSkeletonOf(own, character.name || 'the model') };
}

const fieldAt = (path: string): Schema => reach(briefSchema as unknown as AnyObjectSchema, path) as Schema;

/** How much more is allowed than the model needs. */
const MORE = 1.1;

/** What a setting becomes for what was measured. */
function boundBy(field: Schema, measured: Measured, now: unknown): unknown {
  const { bound = 'is', quantity } = (field.meta() ?? {}) as { bound?: Bound; quantity?: string };
  if (typeof measured !== 'number') return measured;
  const known = typeof now === 'number' ? now : null;
  if (bound === 'is') return inSteps(measured, quantity, Math.round);
  if (quantity === 'count') return measured;
  if (bound === 'most') return Math.max(known ?? 0, inSteps(measured * MORE, quantity, Math.ceil));
  const least = inSteps(measured / MORE, quantity, Math.floor);
  return Math.min(known ?? least, least);
}

/** The finest step that is worth writing down: a tenth of a millimetre or of a degree, a thousandth. */
const STEPS: Readonly<Record<string, number>> = { length: 1e-4, angle: 0.1, share: 1e-3, count: 1 };

/** A number in such steps; what has no step of its own in two figures. */
function inSteps(x: number, quantity: string | undefined, round: (x: number) => number): number {
  const step = STEPS[quantity ?? ''] ?? 10 ** (Math.floor(Math.log10(Math.abs(x) || 1)) - 1);
  return Number((round(x / step) * step).toPrecision(12));
}

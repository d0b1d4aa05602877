/** A crosswalk that was saved for one character, taken up for another on nearly the same skeleton. */
import type { Crosswalk } from '../../anatomy/crosswalk';
import { type Skeleton, fingerprintOf } from '../../anatomy/skeleton';
import { suggest } from '../../anatomy/suggest';
import { type CrosswalkFile, rulesByName } from './file';

/** A saved crosswalk as it fits another skeleton. */
export interface Adopted {
  /** Name of the skeleton that it was saved for. */
  readonly from: string;
  readonly crosswalk: Crosswalk;
  /** Bones here that it has no rule for; their rules are suggested. */
  readonly added: readonly string[];
  /** Bones that it has rules for and that are not here. */
  readonly gone: readonly string[];
}

/** Below this share of bones in common, of either, it is another skeleton. */
const ENOUGH = 0.8;

/**
 * The saved crosswalk that fits best, or null where none does: the same names for four of five bones of
 * both, onto this very target. What it has no rule for is suggested around it.
 */
export function adopt(files: readonly CrosswalkFile[], source: Skeleton, target: Skeleton): Adopted | null {
  const onto = fingerprintOf(target);
  let best: { file: CrosswalkFile; rules: Crosswalk; gone: string[] } | null = null;
  for (const file of files) {
    if (file.target.fingerprint !== onto) continue;
    const found = rulesByName(file, source, target);
    const share = found.rules.length / Math.max(source.bones.length, file.rules.length, 1);
    if (share >= ENOUGH && found.rules.length > (best?.rules.length ?? 0)) best = { file, ...found };
  }
  if (!best) return null;
  const known = new Map(best.rules.map((rule) => [rule.source, rule]));
  const all = suggest(
    source,
    target,
    best.rules.map((rule) => ({ ...rule, locked: true })),
  );
  return {
    from: best.file.source.title,
    crosswalk: all.map((rule) => ({ ...rule, locked: known.get(rule.source)?.locked ?? false })),
    added: source.bones.flatMap((bone, i) => (known.has(i) ? [] : [bone.name])),
    gone: best.gone,
  };
}

/** Which pairs want a look: by how sure they are, by what else may be meant, and by what the proof shows. */
import type { Crosswalk, Rule } from '../../anatomy/crosswalk';
import type { Skeleton } from '../../anatomy/skeleton';
import type { BoneProof, Proof } from './proof';

/** Below this a pair wants a look: one in four of those near it is wrong. */
export const SURE = 0.8;

/** What was found fine stays so until it lies this much farther off. */
const FARTHER = 1.1;

/** What the proof shows of every bone of the source, by its index; null where it shows nothing. */
export function proofOfRules(source: Skeleton, { bones }: Pick<Proof, 'bones'>): (BoneProof | null)[] {
  const byNode = new Map(bones.map((bone) => [bone.node, bone]));
  return source.bones.map((bone) => byNode.get(bone.node) ?? null);
}

/** Why a pair wants a look. */
export type Doubt = 'unsure' | 'two readings' | 'off';

/**
 * Why a pair wants a look; null where it does not. `shown`: what the proof shows of its bone; `allowed`: metres.
 * A pair that a person has set or locked is doubted by the proof alone, until a person has found that fine as well.
 */
export function doubtOf(rule: Rule, shown: BoneProof | null, allowed: number): Doubt | null {
  if (shown && shown.max > allowed && shown.max > FARTHER * (rule.accepted ?? 0)) return 'off';
  if (rule.locked || rule.accepted !== undefined) return null;
  if (rule.other !== undefined) return 'two readings';
  return rule.confidence < SURE ? 'unsure' : null;
}

/** A person has looked at these pairs and finds them fine as they are. */
export function accept(
  crosswalk: Crosswalk,
  sources: ReadonlySet<number>,
  shown: readonly (BoneProof | null)[],
): Crosswalk {
  return crosswalk.map((rule) =>
    sources.has(rule.source) ? { ...rule, locked: true, accepted: shown[rule.source]?.max ?? 0 } : rule,
  );
}

/** The rules of a crosswalk as the command line tells them. */
import { type Crosswalk, targetsOf } from '../core/anatomy/crosswalk';
import type { Skeleton } from '../core/anatomy/skeleton';

/** One row a rule: the bones by name, what becomes of them, how sure that is and why. */
export function pairRows(source: Skeleton, target: Skeleton, crosswalk: Crosswalk) {
  return crosswalk.map((rule) => ({
    source: [source.bones[rule.source].name],
    target: targetsOf(rule).map((otherTarget) => target.bones[otherTarget].name),
    rule: rule.kind,
    confidence: Number(rule.confidence.toFixed(3)),
    reasons: rule.reasons,
    ...(rule.other === undefined ? {} : { other: target.bones[rule.other].name }),
  }));
}

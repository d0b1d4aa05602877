/** The rules of a crosswalk as the command line tells them. */
import { type Crosswalk, targetsOf } from '../core/anatomy/crosswalk';
import type { Skeleton } from '../core/anatomy/skeleton';

/** One row a rule: the bones by name, what becomes of them, how sure that is and why. */
export function pairRows(source: Skeleton, target: Skeleton, crosswalk: Crosswalk) {
  return crosswalk.map((r) => ({
    source: [source.bones[r.source].name],
    target: targetsOf(r).map((t) => target.bones[t].name),
    rule: r.kind,
    confidence: Number(r.confidence.toFixed(3)),
    reasons: r.reasons,
    ...(r.other === undefined ? {} : { other: target.bones[r.other].name }),
  }));
}

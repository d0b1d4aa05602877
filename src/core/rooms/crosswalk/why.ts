/** Why the points of a bone lie off, in a sentence, as far as the two skeletons tell. */
import { type Crosswalk, type Rule, arrivalOf, hasTarget, leadsToTarget } from '../../anatomy/crosswalk';
import { isFlat } from '../../anatomy/flat';
import { type Skeleton, bonesAbove, childrenOfBones } from '../../anatomy/skeleton';

/** The reason that the skeletons themselves give; null where it can only be the weights or the pair. */
export function whyOff(
  source: Skeleton,
  target: Skeleton,
  crosswalk: Crosswalk,
  bone: number,
): string | null {
  const rule = crosswalk[bone];
  const { name } = source.bones[bone];
  const onto = target.bones[arrivalOf(source, target, crosswalk, bone)]?.name ?? '';
  if (isFlat(source) && !isFlat(target) && hasTarget(rule))
    return `Here ${name} hangs beside its neighbours; there what follows it hangs below ${onto}, and goes along when it turns.`;
  if (sharesLead(rule))
    return `${onto} stands for several bones there: when ${name} turns by itself, nothing on that skeleton turns just so.`;
  if (rule.kind === 'release') return `${name} is not there any more; what it moved goes with ${onto}.`;
  const folded = childrenOfBones(source)[bone].filter((child) => sharesLead(crosswalk[child]));
  if (folded.length > 0)
    return `${source.bones[folded[0]].name} below it has no bone of its own there, so that what blends between them goes otherwise.`;
  const lost = bonesAbove(source, bone).find((b) => sharesLead(crosswalk[b]));
  if (lost !== undefined)
    return `${source.bones[lost].name} above it has no bone of its own there, and its share of the turn is missing.`;
  return null;
}

/** Whether a bone goes onto one that another leads. */
const sharesLead = (rule: Rule) => hasTarget(rule) && !leadsToTarget(rule);

/** Which bones of a template a character has, whatever they are called; what it lacks, and what it has besides. */
import { hasTarget, leadsToTarget, targetsOf, type Rule } from './crosswalk';
import { skeletonOfBones } from './lone';
import { looksOf } from './looks';
import { type Skeleton, bonesAbove } from './skeleton';
import { type SkeletonTemplate, TEMPLATES } from './skeletons/templates';
import { suggest } from './suggest';

/** A pair this sure is taken for what it says. */
export const SURE_PAIR = 0.75;

/** How a skeleton answers to a template. Bones of the template by name, those of the skeleton by index. */
export interface ExpectedBones {
  /** Rules of the skeleton's bones that lead to bones of the template. */
  readonly pairs: readonly Rule[];
  /** Needed, and nothing that is there can be it. */
  readonly missing: readonly string[];
  /** Needed and not found, but where it belongs stands a bone that answers to nothing. */
  readonly doubtful: readonly string[];
  /** Whether names say what most bones are. */
  readonly isNamed: boolean;
  /** Not there, and may be. */
  readonly leftOut: readonly string[];
  /** Bones of the body that answer to none of the template. */
  readonly surplus: readonly number[];
}

const known = new WeakMap<Skeleton, Map<SkeletonTemplate, ExpectedBones>>();

/** Holds a skeleton against a template by the matching of names and shapes. Worked out once. */
export function expectedBonesOf(skeleton: Skeleton, template: SkeletonTemplate): ExpectedBones {
  const before = known.get(skeleton) ?? new Map<SkeletonTemplate, ExpectedBones>();
  known.set(skeleton, before);
  let answer = before.get(template);
  if (!answer) before.set(template, (answer = heldAgainst(skeleton, template)));
  return answer;
}

/** So many of the pairs must be of bones whose names say what they are. */
const MOSTLY = 0.6;

function heldAgainst(skeleton: Skeleton, template: SkeletonTemplate): ExpectedBones {
  const { skeleton: wanted, optional, isExact } = template;
  const rules = rulesFor(skeleton, wanted);
  const pairs = rules.filter(leadsToTarget);
  const reached = new Set(rules.filter(hasTarget).flatMap(targetsOf));
  const { readings } = looksOf(wanted);
  const own = looksOf(skeleton).readings;
  const absent = wanted.bones.flatMap((_, i) => (reached.has(i) ? [] : [i]));
  // Twists, ends and helpers of a template are nobody's need.
  const isNeeded = (i: number) => !optional.has(wanted.bones[i].name) && readings[i].kind === 'bone';
  const mayBe = unpairedUnder(skeleton, rules);
  const sourceOf = new Map(pairs.map(({ source, target }) => [target, source]));
  const hasBelow = new Set([...reached].flatMap((i) => bonesAbove(wanted, i)));
  const isDoubtful = (i: number) => {
    if (!isExact && hasBelow.has(i)) return true;
    const above = bonesAbove(wanted, i).find((up) => sourceOf.has(up));
    const candidates = above === undefined ? null : mayBe.get(sourceOf.get(above) as number);
    if (above === undefined || !candidates) return above === undefined;
    // What its name calls otherwise is none; the joints of beasts are called all kinds of things.
    const { part } = readings[i];
    return !isExact || candidates.some((b) => mayBeCalled(own[b].part, part));
  };
  const names = (list: readonly number[]) => list.map((i) => wanted.bones[i].name);
  const needed = absent.filter(isNeeded);
  const named = pairs.filter(({ source }) => own[source].part !== '').length;
  return {
    pairs,
    missing: names(needed.filter((i) => !isDoubtful(i))),
    doubtful: names(needed.filter(isDoubtful)),
    isNamed: named > MOSTLY * pairs.length,
    leftOut: names(absent.filter((i) => !isNeeded(i))),
    surplus: rules.flatMap((rule, i) => {
      const isOfBody = own[i].kind === 'bone' && own[i].part !== '' && own[i].part !== 'root';
      return !hasTarget(rule) && isOfBody && skeleton.bones[i].weight > 0 ? [i] : [];
    }),
  };
}

/** What answers to nothing: cloth, ends, controls. */
const released = (source: number): Rule => ({
  source,
  kind: 'release',
  target: -1,
  confidence: 1,
  reasons: [],
  locked: false,
});

/** Rules for all bones; only those that a template can ask for are matched, since a coat may have hundreds of others. */
function rulesFor(skeleton: Skeleton, wanted: Skeleton): Rule[] {
  const { readings } = looksOf(skeleton);
  const some = skeleton.bones.flatMap((_, i) =>
    readings[i].kind === 'bone' || readings[i].kind === 'twist' ? [i] : [],
  );
  const rules = skeleton.bones.map((_, i) => released(i));
  for (const rule of suggest(skeletonOfBones(skeleton, some), wanted)) {
    const source = some[rule.source];
    rules[source] = { ...rule, source };
  }
  return rules;
}

/** Whether a bone that its name calls one part may be another: some number all of a trunk by one name, up to the head. */
function mayBeCalled(called: string, part: string): boolean {
  return called === '' || called === part || (called === 'spine' && (part === 'neck' || part === 'head'));
}

/** For bones with a counterpart those under them that have none of their own, carry weight and are no cloth, twist or end. */
function unpairedUnder(skeleton: Skeleton, rules: readonly Rule[]): Map<number, number[]> {
  const { readings } = looksOf(skeleton);
  // Of a skeleton by itself every bone may be one that carries.
  const isBound = skeleton.bones.some(({ weight }) => weight > 0);
  const out = new Map<number, number[]>();
  rules.forEach((rule, i) => {
    if (leadsToTarget(rule) || readings[i].kind !== 'bone') return;
    if (isBound && !(skeleton.bones[i].weight > 0)) return;
    const above = bonesAbove(skeleton, i).find((up) => leadsToTarget(rules[up]));
    if (above !== undefined) out.set(above, [...(out.get(above) ?? []), i]);
  });
  return out;
}

/** Of the templates for whole bodies that of whose needed bones a skeleton has most; none where it lacks many of them. */
export function likeliestTemplate(skeleton: Skeleton): SkeletonTemplate | undefined {
  let best: SkeletonTemplate | undefined;
  let most = 0;
  for (const id of ['vrm', 'four-legged', 'winged', 'finned']) {
    const template = TEMPLATES[id];
    const { isNamed, missing, doubtful } = expectedBonesOf(skeleton, template);
    const needed = template.skeleton.bones.filter(({ name }) => !template.optional.has(name)).length;
    const there = needed - missing.length - doubtful.length;
    if (isNamed && there > MOSTLY * needed && there > most) [best, most] = [template, there];
  }
  return best;
}

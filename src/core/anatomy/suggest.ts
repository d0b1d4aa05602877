import {
  type Crosswalk,
  type Rule,
  carriesBelow,
  leadsToTarget,
  targetsOf,
  normaliseRule,
} from './crosswalk';
import { looksTogether } from './beast-looks';
import type { SkeletonReading } from './looks';
import { type BonePair, matchSkeletons } from './match';
import { type Skeleton, bonesAbove } from './skeleton';

/**
 * Proposes a rule for every bone of the source: its counterpart in the target where it has one, else where its
 * weight goes. Rules in `locked` stay, and the pairs around them respect them.
 */
export function suggest(source: Skeleton, target: Skeleton, locked: Crosswalk = []): Crosswalk {
  const held = new Map(locked.filter((rule) => rule.locked).map((rule) => [rule.source, rule]));
  const fixed = new Map([...held].map(([i, rule]) => [i, leadsToTarget(rule) ? rule.target : -1]));
  const pairs = new Map(matchSkeletons(source, target, fixed).map((pair) => [pair.source, pair]));
  joinRoots(source, target, pairs, held);
  const loose = new Loose(source, target, pairs);
  const rules = source.bones.map((_, i): Rule => {
    const hold = held.get(i);
    if (hold) return hold;
    const pair = pairs.get(i);
    return pair ? carryRule(pair) : loose.ruleOf(i);
  });
  return normaliseRule(joined(source, target, shared(source, target, normaliseRule(rules))));
}

/**
 * Bones of the target that lie between two that have counterparts, in a chain of one part (a spine of five
 * above one of three, a metacarpal that the source does not have): the bone above is shared over them, so
 * that what moves them moves the mesh.
 */
function shared(source: Skeleton, target: Skeleton, rules: Crosswalk): Crosswalk {
  const [, { readings }] = looksTogether(source, target);
  const hit = new Set(rules.flatMap(targetsOf));
  const further = new Map<number, number[]>();
  target.bones.forEach((bone, index) => {
    if (hit.has(index) || readings[index].kind !== 'bone' || readings[index].part === '') return;
    const above = bonesAbove(target, index).find((b) => hit.has(b));
    const below = target.bones.findIndex(
      (_, otherIndex) => hit.has(otherIndex) && bonesAbove(target, otherIndex).includes(index),
    );
    if (above === undefined || below < 0) return;
    const { part } = readings[index];
    const isOfChain = part === readings[above].part || isFinger(part, readings[below].part);
    const list = further.get(above) ?? [];
    if (isOfChain && (bone.parent === above || list.includes(bone.parent)))
      further.set(above, [...list, index]);
  });
  return rules.map((rule) => {
    const list = leadsToTarget(rule) && !rule.locked ? further.get(rule.target) : undefined;
    if (!list || !(source.bones[rule.source].weight > 0)) return rule;
    const names = list.map((bone) => target.bones[bone].name).join(', ');
    return { ...rule, kind: 'share', further: list, reasons: [...rule.reasons, `goes on over ${names}`] };
  });
}

/**
 * Bones of the source that lie between two with counterparts, in a chain of one part that is longer here:
 * their weight goes over the counterparts of both, and what lies between those in the target.
 */
function joined(source: Skeleton, target: Skeleton, rules: Crosswalk): Crosswalk {
  const [{ readings }] = looksTogether(source, target);
  return rules.map((rule) => {
    const { part, kind } = readings[rule.source];
    if (rule.kind !== 'fold' || rule.locked || kind !== 'bone' || part === '') return rule;
    if (!(source.bones[rule.source].weight > 0)) return rule;
    const above = bonesAbove(source, rule.source).find((b) => leadsToTarget(rules[b]));
    const below = rules.find(
      (otherRule) =>
        leadsToTarget(otherRule) &&
        readings[otherRule.source].part === part &&
        bonesAbove(source, otherRule.source).includes(rule.source),
    );
    if (above === undefined || !below) return rule;
    if (readings[above].part !== part && !FINGERS.includes(part)) return rule;
    const up = bonesAbove(target, below.target);
    const end = up.indexOf(rules[above].target);
    const way = [...up.slice(0, end + 1).reverse(), below.target];
    if (end < 0 || !way.includes(rule.target)) return rule;
    const further = way.filter((bone) => bone !== rule.target);
    const names = way.map((bone) => target.bones[bone].name).join(', ');
    return { ...rule, kind: 'share', joins: true, further, reasons: [...rule.reasons, `goes over ${names}`] };
  });
}

const FINGERS = ['thumb', 'index', 'long', 'ring', 'little'];

/** A metacarpal before the finger that it belongs to. */
const isFinger = (part: string, below: string) => part === below && FINGERS.includes(part);

const carryRule = ({ source, target, confidence, reasons, other }: BonePair): Rule => ({
  source,
  kind: 'carry',
  target,
  confidence,
  reasons,
  locked: false,
  ...(other >= 0 ? { other } : {}),
});

/**
 * Two roots that nothing else claims, each above its side's pairs, stand for each other: the whole character
 * moves by them.
 */
function joinRoots(
  source: Skeleton,
  target: Skeleton,
  pairs: Map<number, BonePair>,
  held: ReadonlyMap<number, unknown>,
): void {
  const taken = new Set([...pairs.values()].map((pair) => pair.target));
  const above = (skeleton: Skeleton, bones: Iterable<number>) =>
    new Set([...bones].flatMap((bone) => bonesAbove(skeleton, bone)));
  const [mine, theirs] = [above(source, pairs.keys()), above(target, taken)];
  const boneIndex = source.bones.findIndex((bone, i) => bone.parent < 0 && mine.has(i));
  const otherTarget = target.bones.findIndex((bone, j) => bone.parent < 0 && theirs.has(j));
  if (
    boneIndex < 0 ||
    otherTarget < 0 ||
    pairs.has(boneIndex) ||
    held.has(boneIndex) ||
    taken.has(otherTarget)
  )
    return;
  const reasons = ['both stand above everything else'];
  pairs.set(boneIndex, { source: boneIndex, target: otherTarget, confidence: 0.9, reasons, other: -1 });
}

/** Bones without a counterpart: folded into a neighbour, kept, or released. */
class Loose {
  private readonly below: readonly boolean[];
  /** True of a skeleton by itself: nothing in it carries anything, and nothing is said of weight. */
  private readonly isBare: boolean;
  private readonly looks: SkeletonReading;

  constructor(
    private readonly source: Skeleton,
    private readonly target: Skeleton,
    private readonly pairs: ReadonlyMap<number, BonePair>,
  ) {
    this.isBare = source.bones.every((bone) => bone.weight === 0 && !bone.holds);
    this.below = this.isBare ? source.bones.map(() => true) : carriesBelow(source);
    [this.looks] = looksTogether(source, target);
  }

  ruleOf(i: number): Rule {
    const { source, looks, pairs, target } = this;
    const { kind, part } = looks.readings[i];
    const weight = source.bones[i].weight;
    if (this.isOwnRoot(i))
      return keep(i, 0.8, `${target.title} has no root at the origin; this one stays above it`);
    if (!this.below[i])
      return release(
        i,
        0.9,
        weight > 0 ? 'nothing below it carries weight' : 'carries no weight, nor does anything below it',
      );
    if (kind === 'end') return release(i, 0.85, 'an end: its weight goes to the bone above');
    const above = bonesAbove(source, i).find((b) => pairs.has(b));
    const limb = source.bones[i].parent;
    if ((kind === 'twist' || looks.shape.beside[i]) && above !== undefined)
      return this.foldInto(
        i,
        above,
        0.85,
        above === limb
          ? 'a twist goes with the limb that it lies along'
          : 'a twist goes with the limb above it',
      );
    const kin = this.kinOf(i);
    if (part && kin >= 0 && above !== undefined)
      return this.foldInto(i, kin, 0.8, 'between two bones of the same part');
    const isBetween = above !== undefined && [...pairs.keys()].some((k) => bonesAbove(source, k).includes(i));
    if (isBetween) return this.foldInto(i, above, 0.8, 'lies between two bones that have counterparts');
    if (above === undefined && weight === 0)
      return release(i, 0.8, 'stands above the body and carries nothing');
    if (this.isBare) return keep(i, 0.8, `no counterpart in ${target.title}; it comes along`);
    const carried = weight > 0 ? 'weight' : 'something below';
    return keep(i, 0.8, `no counterpart in ${target.title}; it carries ${carried} and comes along`);
  }

  /** A root that stands at the origin above the body and carries nothing, where the target has none of its own. */
  private isOwnRoot(i: number): boolean {
    const { source, target, pairs } = this;
    const { parent, place, weight } = source.bones[i];
    if (parent >= 0 || weight > 0) return false;
    const holdsAll = [...pairs.keys()].every((k) => bonesAbove(source, k).includes(i));
    return (
      holdsAll &&
      isNearOrigin(source, place) &&
      !target.bones.some((bone) => isNearOrigin(target, bone.place) && bone.parent < 0)
    );
  }

  private foldInto(i: number, onto: number, confidence: number, reason: string): Rule {
    const target = (this.pairs.get(onto) as BonePair).target;
    return { source: i, kind: 'fold', target, confidence, reasons: [reason], locked: false };
  }

  /** The nearest bone of the same part and side that has a counterpart, in line with it; −1 for none. */
  private kinOf(i: number): number {
    const { source, looks, pairs } = this;
    const { readings, side } = looks;
    const inLine = (k: number) => bonesAbove(source, k).includes(i) || bonesAbove(source, i).includes(k);
    let nearest = -1;
    for (const k of pairs.keys()) {
      if (readings[k].part !== readings[i].part || side[k] !== side[i] || readings[k].kind !== 'bone')
        continue;
      if (inLine(k) && (nearest < 0 || distance(source, k, i) < distance(source, nearest, i))) nearest = k;
    }
    return nearest;
  }
}

const release = (source: number, confidence: number, reason: string): Rule => ({
  source,
  kind: 'release',
  target: -1,
  confidence,
  reasons: [reason],
  locked: false,
});

const keep = (source: number, confidence: number, reason: string): Rule => ({
  ...release(source, confidence, reason),
  kind: 'keep',
});

/** Roots nearer to the origin than this share of the skeleton's reach mark it. */
const AT_ORIGIN = 0.1;

function isNearOrigin({ bones }: Skeleton, place: readonly number[]): boolean {
  const reach = Math.max(
    ...bones.map((bone) => Math.hypot(...[0, 1, 2].map((k) => bone.place[k] - bones[0].place[k]))),
  );
  return Math.hypot(...place) <= AT_ORIGIN * reach;
}

const distance = (skeleton: Skeleton, a: number, b: number) =>
  Math.hypot(...[0, 1, 2].map((x) => skeleton.bones[a].place[x] - skeleton.bones[b].place[x]));

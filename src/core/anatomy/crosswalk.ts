import { type Skeleton, bonesAbove, childrenOfBones } from './skeleton';

/**
 * What becomes of one source bone.
 * carry: one bone to one bone. fold: joins others on one target; weights add. share: one bone over several
 * of a chain; every point's weight is split by where it lies along them, and what folds into the one that it
 * leads is shared as well. Bones that others lead may be among them: so a chain goes over one that is
 * shorter. keep: comes along, under the counterpart of its nearest carried ancestor. release: goes, and its
 * weight goes to that counterpart.
 */
export type RuleKind = 'carry' | 'fold' | 'share' | 'keep' | 'release';

/** All kinds of rule, in the order in which they are offered. */
export const RULE_KINDS: readonly RuleKind[] = ['carry', 'fold', 'share', 'keep', 'release'];

/** What becomes of one bone of the source. */
export interface Rule {
  /** Index of the source bone. */
  readonly source: number;
  readonly kind: RuleKind;
  /** Index of the target bone for carry, fold and share; −1 otherwise. */
  readonly target: number;
  /** The further target bones of a share, in one piece with its target; absent for other kinds. */
  readonly further?: readonly number[];
  /** Of a share whose target another bone leads; absent otherwise. */
  readonly joins?: true;
  /** 0 … 1. */
  readonly confidence: number;
  /** Why, in words. */
  readonly reasons: readonly string[];
  /** Another target bone that is about as good; absent where there is none. */
  readonly other?: number;
  /** A person said so; suggesting again leaves it alone. */
  readonly locked: boolean;
  /** A person has seen that its points lie up to this far off, and finds it fine, metres; absent for not seen. */
  readonly accepted?: number;
}

/** A rule for every bone of the source, in the source's order. */
export type Crosswalk = readonly Rule[];

/** Whether a bone has a counterpart, or several. */
export const hasTarget = ({ kind }: Pick<Rule, 'kind'>): boolean =>
  kind === 'carry' || kind === 'fold' || kind === 'share';

/** Whether a bone's counterpart goes as it goes: a carried one, or one that is shared and does not join another. */
export const leadsToTarget = ({ kind, joins }: Pick<Rule, 'kind' | 'joins'>): boolean =>
  kind === 'carry' || (kind === 'share' && joins !== true);

/** All target bones of a rule. */
export const targetsOf = ({ target, further }: Pick<Rule, 'target' | 'further'>): number[] =>
  target < 0 ? [] : [target, ...(further ?? [])];

/**
 * The target bone that a source bone's weight arrives at: its own counterpart, or that of its nearest
 * ancestor that has one; else the target's first root.
 */
export function arrivalOf(source: Skeleton, target: Skeleton, crosswalk: Crosswalk, bone: number): number {
  for (const b of [bone, ...bonesAbove(source, bone)]) {
    const rule = crosswalk[b];
    if (hasTarget(rule) && rule.target >= 0) return rule.target;
  }
  // Nothing above has a counterpart: the topmost one that anything has, so that weight never goes to a bone
  // above the body.
  const used = crosswalk.flatMap((rule) => (leadsToTarget(rule) ? [rule.target] : []));
  const depth = (bone: number) => bonesAbove(target, bone).length;
  return used.length > 0 ? used.reduce((a, b) => (depth(b) < depth(a) ? b : a)) : 0;
}

/**
 * For every target bone the source bone it stands for: the carried or shared one, or the first folded one;
 * −1 for none.
 */
export function counterparts(target: Skeleton, crosswalk: Crosswalk): Int32Array {
  const out = new Int32Array(target.bones.length).fill(-1);
  for (const rule of crosswalk)
    if (leadsToTarget(rule) && rule.target >= 0 && out[rule.target] < 0) out[rule.target] = rule.source;
  for (const rule of crosswalk)
    if (rule.kind === 'fold' && rule.target >= 0 && out[rule.target] < 0) out[rule.target] = rule.source;
  return out;
}

/** Target bones that nothing arrives at. */
export function unmatchedTargets(target: Skeleton, crosswalk: Crosswalk): number[] {
  const hit = new Set(crosswalk.flatMap(targetsOf));
  return target.bones.flatMap((_, index) => (hit.has(index) ? [] : [index]));
}

/** The reason of a rule that a person has set. */
export const BY_HAND = 'set by hand';

/** Whether a person has set a rule: how sure it is nobody knows, and the proof doubts it like any other. */
export const isByHand = ({ reasons }: Pick<Rule, 'reasons'>): boolean => reasons.includes(BY_HAND);

/** How sure a rule is, in words. */
export const surenessText = (rule: Pick<Rule, 'reasons' | 'confidence'>): string =>
  isByHand(rule) ? 'by hand' : `${Math.round(rule.confidence * 100)} % sure`;

/**
 * Changes the rule of one bone by hand and locks it. A second bone carried to the same target becomes a fold,
 * and the other way round: what is left alone on a target carries.
 */
export function withRule(
  crosswalk: Crosswalk,
  source: number,
  kind: Exclude<RuleKind, 'share'>,
  target: number,
): Crosswalk {
  return put(crosswalk, byHand(source, kind, target));
}

/**
 * Shares a bone over a target bone and those of `further` that are in one piece with it; with none of them it is
 * carried. Where another bone leads that target, it goes on doing so. Set by hand and locked.
 */
export function withShare(
  crosswalk: Crosswalk,
  target: Skeleton,
  source: number,
  first: number,
  further: readonly number[],
): Crosswalk {
  const joins = crosswalk.some(
    (rule) => rule.source !== source && leadsToTarget(rule) && rule.target === first,
  );
  const piece = inOnePiece(target, first, further);
  if (piece.length === 0) return withRule(crosswalk, source, joins ? 'fold' : 'carry', first);
  const plain = { ...byHand(source, 'carry', first), kind: 'share' as const, further: piece };
  return put(crosswalk, joins ? { ...plain, joins } : plain);
}

/** Those of some bones that hang together with a first one, in the order of the skeleton. */
function inOnePiece({ bones }: Skeleton, first: number, some: readonly number[]): number[] {
  const on = new Set([first]);
  const wanted = new Set(some);
  const queue = [first];
  for (let at = queue.pop(); at !== undefined; at = queue.pop())
    for (const bone of wanted) {
      if (on.has(bone) || (bones[bone].parent !== at && bones[at].parent !== bone)) continue;
      on.add(bone);
      queue.push(bone);
    }
  on.delete(first);
  return [...on].sort((a, b) => a - b);
}

/** Puts a rule in its place. Bones that only the shares of others had, and that it goes onto, are theirs no more. */
function put(crosswalk: Crosswalk, rule: Rule): Crosswalk {
  const led = new Set(crosswalk.flatMap((rule) => (leadsToTarget(rule) ? [rule.target] : [])));
  const taken = new Set(targetsOf(rule).filter((target) => !led.has(target)));
  const changed = crosswalk.map((otherRule): Rule => {
    if (otherRule.source === rule.source) return rule;
    if (!otherRule.further?.some((bone) => taken.has(bone))) return otherRule;
    return { ...otherRule, further: otherRule.further.filter((bone) => !taken.has(bone)) };
  });
  return normaliseRule(changed, rule.source);
}

/**
 * What a share goes on over where nothing is said: the chain below its target as long as nothing else has
 * it; else the next bone of the target on the way that the source's chain goes.
 */
export function openChain(
  crosswalk: Crosswalk,
  source: Skeleton,
  target: Skeleton,
  bone: number,
  first: number,
): number[] {
  const others = crosswalk.filter((rule) => rule.source !== bone);
  const taken = new Set(others.flatMap(targetsOf));
  const chain = longestChain(target, first).slice(1);
  const end = chain.findIndex((bone) => taken.has(bone));
  const free = end < 0 ? chain : chain.slice(0, end);
  if (free.length > 0 && !others.some((other) => leadsToTarget(other) && other.target === first)) return free;
  const leader = (target: number) =>
    others.find((other) => leadsToTarget(other) && other.target === target)?.source ?? -1;
  const isBelow = (bone: number, above: number) => bone >= 0 && bonesAbove(source, bone).includes(above);
  const next = childrenOfBones(target)[first].find((child) => isBelow(leader(child), bone));
  if (next !== undefined) return [next];
  const { parent } = target.bones[first];
  return parent >= 0 && isBelow(bone, leader(parent)) ? [parent] : chain.slice(0, 1);
}

/** The bones beside those that a share goes over: it may go on over them as well. */
export const beside = ({ bones }: Skeleton, joints: readonly number[]): number[] =>
  bones.flatMap(({ parent }, index) => {
    if (joints.includes(index)) return [];
    return joints.includes(parent) || joints.some((j) => bones[j].parent === index) ? [index] : [];
  });

const byHand = (source: number, kind: RuleKind, target: number): Rule => ({
  source,
  kind,
  target: hasTarget({ kind }) ? target : -1,
  confidence: 1,
  reasons: [BY_HAND],
  locked: true,
});

/** Changes the rules of several bones to one and the same by hand, and locks them. */
export const withRules = (
  crosswalk: Crosswalk,
  sources: readonly number[],
  kind: Exclude<RuleKind, 'share'>,
  target: number,
): Crosswalk => sources.reduce((crosswalk, source) => withRule(crosswalk, source, kind, target), crosswalk);

/**
 * Carries several bones, in their order, onto the target's chain that begins at a bone: each onto the next one down
 * the longest way. What the chain is too short for folds into its last bone. All are locked.
 */
export function withChain(
  crosswalk: Crosswalk,
  target: Skeleton,
  sources: readonly number[],
  first: number,
): Crosswalk {
  const chain = longestChain(target, first);
  return sources.reduce((crosswalk, source, k) => {
    const kind = k < chain.length ? 'carry' : 'fold';
    return withRule(crosswalk, source, kind, chain[Math.min(k, chain.length - 1)]);
  }, crosswalk);
}

/** A bone and what follows it down the way with the most bones. */
function longestChain(skeleton: Skeleton, first: number): number[] {
  const children = childrenOfBones(skeleton);
  const depth = new Int32Array(skeleton.bones.length).fill(1);
  for (let i = skeleton.bones.length - 1; i >= 0; i--)
    for (const child of children[i]) depth[i] = Math.max(depth[i], depth[child] + 1);
  const out: number[] = [];
  for (let at: number | undefined = first; at !== undefined;) {
    out.push(at);
    const [next]: number[] = [...children[at]].sort((a, b) => depth[b] - depth[a]);
    at = next;
  }
  return out;
}

/** One leads a target; the others fold or join. `first` wins a quarrel. */
export function normaliseRule(crosswalk: Crosswalk, first = -1): Crosswalk {
  const leader = new Map<number, number>();
  const ranked = [...crosswalk].sort(
    (a, b) =>
      Number(b.source === first && leadsToTarget(b)) - Number(a.source === first && leadsToTarget(a)) ||
      Number(leadsToTarget(b)) - Number(leadsToTarget(a)) ||
      b.confidence - a.confidence,
  );
  for (const rule of ranked)
    if (rule.target >= 0 && hasTarget(rule) && !leader.has(rule.target)) leader.set(rule.target, rule.source);
  return crosswalk.map((rule): Rule => {
    if (rule.target < 0) return rule;
    const isFirst = leader.get(rule.target) === rule.source;
    const { further = [], joins: _, ...plain } = rule;
    if (further.length === 0) return { ...plain, kind: isFirst ? 'carry' : 'fold' };
    return { ...plain, kind: 'share', further, ...(!isFirst && { joins: true }) };
  });
}

/** Whether a bone or anything below it carries weight or holds a rigid mesh. */
export function carriesBelow(skeleton: Skeleton): boolean[] {
  const out = skeleton.bones.map((bone) => bone.weight > 0 || bone.holds);
  const children = childrenOfBones(skeleton);
  for (let i = skeleton.bones.length - 1; i >= 0; i--)
    if (children[i].some((child) => out[child])) out[i] = true;
  return out;
}

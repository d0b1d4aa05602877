import { type Skeleton, bonesAbove, childrenOfBones } from './skeleton';

/**
 * What becomes of one source bone.
 * carry: one bone to one bone. fold: joins others on one target; weights add. keep: comes along, under the
 * counterpart of its nearest carried ancestor. release: goes, and its weight goes to that counterpart.
 */
export type RuleKind = 'carry' | 'fold' | 'keep' | 'release';

/** All kinds of rule, in the order in which they are offered. */
export const RULE_KINDS: readonly RuleKind[] = ['carry', 'fold', 'keep', 'release'];

/** What becomes of one bone of the source. */
export interface Rule {
  /** Index of the source bone. */
  readonly source: number;
  readonly kind: RuleKind;
  /** Index of the target bone for carry and fold; −1 otherwise. */
  readonly target: number;
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

/**
 * The target bone that a source bone's weight arrives at: its own counterpart, or that of its nearest
 * ancestor that has one; else the target's first root.
 */
export function arrivalOf(source: Skeleton, target: Skeleton, crosswalk: Crosswalk, bone: number): number {
  for (const b of [bone, ...bonesAbove(source, bone)]) {
    const r = crosswalk[b];
    if ((r.kind === 'carry' || r.kind === 'fold') && r.target >= 0) return r.target;
  }
  // Nothing above has a counterpart: the topmost one that anything has, so that weight never goes to a bone
  // above the body.
  const used = crosswalk.flatMap((r) => (r.kind === 'carry' ? [r.target] : []));
  const depth = (t: number) => bonesAbove(target, t).length;
  return used.length > 0 ? used.reduce((a, b) => (depth(b) < depth(a) ? b : a)) : 0;
}

/**
 * For every target bone the source bone it stands for: the carried one, or the first folded one; −1 for none.
 */
export function counterparts(target: Skeleton, crosswalk: Crosswalk): Int32Array {
  const out = new Int32Array(target.bones.length).fill(-1);
  for (const r of crosswalk)
    if (r.kind === 'carry' && r.target >= 0 && out[r.target] < 0) out[r.target] = r.source;
  for (const r of crosswalk)
    if (r.kind === 'fold' && r.target >= 0 && out[r.target] < 0) out[r.target] = r.source;
  return out;
}

/** Target bones that nothing arrives at. */
export function unmatchedTargets(target: Skeleton, crosswalk: Crosswalk): number[] {
  const hit = new Set(crosswalk.map((r) => r.target));
  return target.bones.flatMap((_, t) => (hit.has(t) ? [] : [t]));
}

/**
 * Changes the rule of one bone by hand and locks it. A second bone carried to the same target becomes a fold,
 * and the other way round: what is left alone on a target carries.
 */
export function withRule(crosswalk: Crosswalk, source: number, kind: RuleKind, target: number): Crosswalk {
  const changed = crosswalk.map((r) => (r.source === source ? byHand(source, kind, target) : r));
  return tidy(changed, source);
}

const byHand = (source: number, kind: RuleKind, target: number): Rule => ({
  source,
  kind,
  target: kind === 'carry' || kind === 'fold' ? target : -1,
  confidence: 1,
  reasons: ['set by hand'],
  locked: true,
});

/** Changes the rules of several bones to one and the same by hand, and locks them. */
export const withRules = (
  crosswalk: Crosswalk,
  sources: readonly number[],
  kind: RuleKind,
  target: number,
): Crosswalk => sources.reduce((walk, s) => withRule(walk, s, kind, target), crosswalk);

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
  return sources.reduce((walk, s, k) => {
    const kind = k < chain.length ? 'carry' : 'fold';
    return withRule(walk, s, kind, chain[Math.min(k, chain.length - 1)]);
  }, crosswalk);
}

/** A bone and what follows it down the way with the most bones. */
function longestChain(skeleton: Skeleton, first: number): number[] {
  const children = childrenOfBones(skeleton);
  const depth = new Int32Array(skeleton.bones.length).fill(1);
  for (let i = skeleton.bones.length - 1; i >= 0; i--)
    for (const c of children[i]) depth[i] = Math.max(depth[i], depth[c] + 1);
  const out: number[] = [];
  for (let at: number | undefined = first; at !== undefined;) {
    out.push(at);
    const [next]: number[] = [...children[at]].sort((a, b) => depth[b] - depth[a]);
    at = next;
  }
  return out;
}

/** One carry a target; the rest of them are folds. `first` wins a quarrel. */
export function tidy(crosswalk: Crosswalk, first = -1): Crosswalk {
  const carrier = new Map<number, number>();
  const ranked = [...crosswalk].sort(
    (a, b) =>
      Number(b.source === first && b.kind === 'carry') - Number(a.source === first && a.kind === 'carry') ||
      Number(b.kind === 'carry') - Number(a.kind === 'carry') ||
      b.confidence - a.confidence,
  );
  for (const r of ranked)
    if (r.target >= 0 && (r.kind === 'carry' || r.kind === 'fold') && !carrier.has(r.target))
      carrier.set(r.target, r.source);
  return crosswalk.map((r) => {
    if (r.target < 0) return r;
    const kind = carrier.get(r.target) === r.source ? 'carry' : 'fold';
    return kind === r.kind ? r : { ...r, kind };
  });
}

/** Whether a bone or anything below it carries weight or holds a rigid mesh. */
export function carriesBelow(skeleton: Skeleton): boolean[] {
  const out = skeleton.bones.map((b) => b.weight > 0 || b.holds);
  const children = childrenOfBones(skeleton);
  for (let i = skeleton.bones.length - 1; i >= 0; i--) if (children[i].some((c) => out[c])) out[i] = true;
  return out;
}

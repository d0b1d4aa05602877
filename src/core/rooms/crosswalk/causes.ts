/**
 * Which pair is likely to be wrong where a proof shows points far off: pairs are changed one at a time, and the change
 * that takes most of the deviation away names the cause. It is tried on a share of the points, in the poses that are
 * farthest off. After the first cause the rest is looked through again, so that two wrong pairs are both found.
 */
import { transferPose } from '../../motion/pose';
import { sampleCharacter } from '../../character/sample';
import type { Character } from '../../character/model';
import { type Crosswalk, type Rule, isByHand, targetsOf, withRule, withShare } from '../../anatomy/crosswalk';
import { type Skeleton, skeletonOf } from '../../anatomy/skeleton';
import { suggest } from '../../anatomy/suggest';
import { twinOf } from '../../anatomy/twins';
import { doubtOf, proofOfRules } from './doubts';
import type { TrialPose } from './poses';
import { type Proof, prove } from './proof';
import { type RemapOptions, remap } from './remap';

/** A pair whose change takes much of the deviation away. */
export interface Cause {
  /** Index of the bone in the source. */
  readonly source: number;
  /** What takes it away. */
  readonly instead: Pick<Rule, 'kind' | 'target' | 'further'>;
  /** How much of the mean square deviation goes with that change, 0 … 1. */
  readonly taken: number;
  /** A person has set the pair. */
  readonly isByHand: boolean;
}

/** A proof that shows points far off, and what it was made in. */
export interface FailedProof {
  readonly poses: readonly TrialPose[];
  readonly proof: Proof;
  /** What the brief allows, metres. */
  readonly allowed: number;
}

/** Points that a change is tried on, and poses: those farthest off. */
const POINTS = 1500;
const POSES = 8;

/** Pairs that are looked at, those first that are likelier. */
const CANDIDATES = 16;

/** What takes less than this of the deviation away is no cause. */
const LEAST = 0.15;

/** So many causes at most. */
const MOST = 4;

/** Of two changes that take nearly as much away, the one of a pair set by hand counts. */
const BY_HAND_COUNTS = 1.25;

/** The rules with one of them changed, as by hand. */
export function withCauseRemoved(
  crosswalk: Crosswalk,
  target: Skeleton,
  { source, instead }: Pick<Cause, 'source' | 'instead'>,
): Crosswalk {
  if (instead.kind === 'share')
    return withShare(crosswalk, target, source, instead.target, instead.further ?? []);
  return withRule(crosswalk, source, instead.kind, instead.target);
}

/**
 * The pairs that are likely to be wrong: those set by hand first, then by how much goes with them. None where nothing
 * lies farther off than allowed. Yields how much is done, 0 … 1.
 */
export function* causesOf(
  character: Character,
  target: Skeleton,
  crosswalk: Crosswalk,
  options: RemapOptions,
  failed: FailedProof,
): Generator<number, Cause[]> {
  if (failed.proof.max <= failed.allowed) return [];
  const sample = sampleCharacter(character, { inAll: POINTS }).character;
  const poses = farthestPoses(failed);
  const squareOf = (crosswalk: Crosswalk) => {
    const moved = remap(sample, target, crosswalk, { ...options, weights: 'rules', rest: 'posed' });
    // Turned joint by joint: fitting the motion would take a hundred times as long, and hide what is looked for.
    const carry = (world: Float64Array) =>
      transferPose(moved.motionSource, world, moved.character, moved.sourceNodeOf);
    const { rms, max } = prove({ ...moved, carry }, poses);
    return { square: rms * rms, max };
  };
  const changes = changesOf(skeletonOf(character), target, crosswalk, failed);
  const begin = squareOf(crosswalk);
  const found: Cause[] = [];
  let walk = crosswalk;
  let now = begin;
  let open = changes;
  while (found.length < MOST && now.max > failed.allowed && open.length > 0) {
    const tried: { change: Change; square: number; max: number }[] = [];
    for (const change of open) {
      tried.push({ change, ...squareOf(withCauseRemoved(walk, target, change)) });
      yield (found.length + tried.length / open.length) / MOST;
    }
    const worth = (attempt: (typeof tried)[number]) =>
      (now.square - attempt.square) * (attempt.change.isByHand ? BY_HAND_COUNTS : 1);
    const best = tried.reduce((a, b) => (worth(b) > worth(a) ? b : a));
    const taken = (now.square - best.square) / begin.square;
    if (!(taken >= LEAST)) break;
    found.push({ ...best.change, taken });
    walk = withCauseRemoved(walk, target, best.change);
    // What changes nothing by itself is not tried once more.
    open = tried
      .filter(
        (attempt) =>
          attempt.change.source !== best.change.source && worth(attempt) > LEAST * LEAST * begin.square,
      )
      .map((attempt) => attempt.change);
    now = best;
  }
  return found.sort((a, b) => Number(b.isByHand) - Number(a.isByHand) || b.taken - a.taken);
}

type Change = Omit<Cause, 'taken'>;

const farthestPoses = ({ poses, proof }: FailedProof): TrialPose[] =>
  proof.poses
    .map(({ max }, i) => ({ max, i }))
    .sort((a, b) => b.max - a.max)
    .slice(0, POSES)
    .map(({ i }) => poses[i]);

/** Every change of one pair that is worth trying: those of pairs set by hand, then of those that the proof doubts. */
function changesOf(
  source: Skeleton,
  target: Skeleton,
  crosswalk: Crosswalk,
  { proof, allowed }: FailedProof,
): Change[] {
  const shown = proofOfRules(source, proof);
  const free = suggest(
    source,
    target,
    crosswalk.filter((rule) => rule.locked && !isByHand(rule)),
  );
  const rankOf = (rule: Rule): number => {
    const off = shown[rule.source]?.max ?? 0;
    if (isByHand(rule)) return Infinity;
    return doubtOf({ ...rule, locked: false }, shown[rule.source], allowed) ? off : 0;
  };
  return crosswalk
    .map((rule) => ({ rule, rank: rankOf(rule) }))
    .filter(({ rank }) => rank > 0)
    .sort((a, b) => (a.rank === b.rank ? 0 : b.rank - a.rank))
    .slice(0, CANDIDATES)
    .flatMap(({ rule }) =>
      insteadOf(source, target, free, rule).map((instead) => ({
        source: rule.source,
        instead,
        isByHand: isByHand(rule),
      })),
    );
}

/** What else a pair could be: what would be suggested, its second reading, or the mirror of its twin's. */
function insteadOf(source: Skeleton, target: Skeleton, free: Crosswalk, rule: Rule): Cause['instead'][] {
  const twin = twinOf(source, rule.source);
  const twinTarget = twin >= 0 ? free[twin].target : -1;
  const mirrored = twinTarget >= 0 ? twinOf(target, twinTarget) : -1;
  const carried = [rule.other ?? -1, mirrored]
    .filter((bone) => bone >= 0)
    .map((target): Cause['instead'] => ({ kind: 'carry', target }));
  const seen = new Set([keyOf(rule)]);
  return [free[rule.source], ...carried].filter((rule) => {
    const key = keyOf(rule);
    const isNew = !seen.has(key);
    seen.add(key);
    return isNew;
  });
}

const keyOf = (rule: Cause['instead']): string =>
  [rule.kind === 'fold' ? 'carry' : rule.kind, ...targetsOf(rule)].join(' ');

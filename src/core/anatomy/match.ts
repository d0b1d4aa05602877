/**
 * The right pairs of two skeletons: names read in any habit, shape in any stance, all pairs at once.
 */
import { BY_HAND } from './crosswalk';
import { type Cells, alignTrees, makeCells } from './align';
import { keepsLimbs, looksTogether, turnedLooks } from './beast-looks';
import { type PairFacts, confidenceOf } from './confidence';
import { handedness, pairedAbove } from './facing';
import { bonesOfFlesh, fleshOf } from './flesh';
import { isFlat } from './flat';
import { Likeness } from './likeness';
import { handOf, sideInNames, skeletonOfBones } from './lone';
import { type LegJoints, type Side, sideOf } from './looks';
import { type Shape, topDownOf } from './shape';
import type { Skeleton } from './skeleton';

/** A pair of bones. */
export interface BonePair {
  readonly source: number;
  readonly target: number;
  /** How sure, 0 … 1: of the pairs that are said with c, the share c is right. */
  readonly confidence: number;
  readonly reasons: readonly string[];
  /** Another target that is about as good; −1 for none. */
  readonly other: number;
  /** What it was judged by; absent for what was set or joined otherwise. */
  readonly facts?: PairFacts;
}

/** Pairs that a person has set: source bone to target bone, −1 for none at all. */
export type Held = ReadonlyMap<number, number>;

/** The pairs of two skeletons. A limb by itself is matched with the same limb of a body. */
export function matchSkeletons(source: Skeleton, target: Skeleton, held: Held = new Map()): BonePair[] {
  if (source.bones.length === 0 || target.bones.length === 0) return [];
  const limb = limbFor(source, target, held);
  if (saysNothing(source, target)) return [...held].flatMap(([i, j]) => (j < 0 ? [] : [pairByHand(i, j)]));
  if (!limb) return pairsOfFlesh(source, target, held);
  const [mine, theirs] = [limb.source, limb.target];
  const of = (skeleton: Skeleton, bones: readonly number[]) =>
    sideOf(bones.length === skeleton.bones.length ? skeleton : skeletonOfBones(skeleton, bones));
  return within(mine, theirs, held, (inside) =>
    new Matching(of(source, mine), of(target, theirs), inside).pairs(),
  );
}

/** Pairs of some bones of two skeletons, which count from 0 inside; what a person has set of the others stays. */
function within(
  mine: readonly number[],
  theirs: readonly number[],
  held: Held,
  match: (inside: Held) => BonePair[],
): BonePair[] {
  const at = new Map(mine.map((b, k) => [b, k]));
  const to = new Map(theirs.map((b, k) => [b, k]));
  const inside = new Map<number, number>();
  for (const [i, j] of held) {
    const k = at.get(i);
    if (k !== undefined && (j < 0 || to.has(j))) inside.set(k, to.get(j) ?? -1);
  }
  const found = match(inside).map((p): BonePair => ({
    ...p,
    source: mine[p.source],
    target: theirs[p.target],
    other: p.other < 0 ? -1 : theirs[p.other],
  }));
  const outside = [...held].filter(([i, j]) => j >= 0 && !found.some((p) => p.source === i));
  return [...found, ...outside.map(([i, j]) => pairByHand(i, j))];
}

/** The pairs of two whole bodies; what hangs on them and carries nothing follows what it hangs on. */
function pairsOfFlesh(source: Skeleton, target: Skeleton, held: Held): BonePair[] {
  const [mine, theirs] = [bonesOfFlesh(source), bonesOfFlesh(target)];
  if ((!mine && !theirs) || areOneRig(source, target)) return pairsOfWholes(source, target, held);
  const all = ({ bones }: Skeleton) => bones.map((_, i) => i);
  const pairs = within(mine ?? all(source), theirs ?? all(target), held, (inside) =>
    pairsOfWholes(fleshOf(source), fleshOf(target), inside),
  );
  return [...pairs, ...pairsOfHanging(source, target, pairs, held)];
}

/** How sure it is of two bones that carry nothing that they are the same: each alone hangs there. */
const HANGING = 0.6;

/** Pairs of bones that carry nothing, of which just one hangs on both bones of a pair. */
function pairsOfHanging(
  source: Skeleton,
  target: Skeleton,
  pairs: readonly BonePair[],
  held: Held,
): BonePair[] {
  const hanging = (skeleton: Skeleton) => {
    const flesh = new Set(bonesOfFlesh(skeleton) ?? skeleton.bones.keys());
    const under = new Map<number, number[]>();
    skeleton.bones.forEach(({ parent }, i) => {
      if (!flesh.has(i) && flesh.has(parent)) under.set(parent, [...(under.get(parent) ?? []), i]);
    });
    return under;
  };
  const [mine, theirs] = [hanging(source), hanging(target)];
  const taken = new Set(pairs.map((p) => p.target));
  return pairs.flatMap((p): BonePair[] => {
    const [own, other] = [mine.get(p.source) ?? [], theirs.get(p.target) ?? []];
    if (own.length !== 1 || other.length !== 1 || held.has(own[0]) || taken.has(other[0])) return [];
    const reasons = ['hangs under the same bone'];
    return [{ source: own[0], target: other[0], confidence: HANGING, reasons, other: -1 }];
  });
}

/** The pairs of two whole bodies. */
function pairsOfWholes(source: Skeleton, target: Skeleton, held: Held): BonePair[] {
  const own = [sideOf(source), sideOf(target)] as const;
  const looks = looksTogether(source, target);
  const byTheirTrees = () => new Matching(...own, held).pairs();
  if (looks[0] === own[0] || areOneRig(source, target)) return byTheirTrees();
  if (own.every((side) => side.speaks)) return new Matching(...looks, held).pairs();
  const [seen, pairs] = beastsWithoutNames(looks, held);
  const plain = byTheirTrees();
  if (!keepsLimbs(seen, plain)) return pairs;
  const sure = Math.min(seen[0].endsSure, seen[1].endsSure);
  return plain.map((p) => (held.has(p.source) ? p : { ...p, confidence: Math.min(p.confidence, sure) }));
}

/** The pairs of two beasts whose names do not tell front from back: the first as it seems to look, or the other way. */
function beastsWithoutNames(
  [s, t]: readonly [Side, Side],
  held: Held,
): readonly [readonly [Side, Side], BonePair[]] {
  const turned = turnedLooks(s);
  const [asIs, other] = [s, turned].map((side) => {
    const matching = new Matching(side, t, held);
    return { pairs: matching.pairs(), worth: matching.worth };
  });
  const vote = Math.min(s.legs?.vote ?? 0, t.legs?.vote ?? 0);
  return asIs.worth + VOTE * vote >= other.worth ? [[s, t], asIs.pairs] : [[turned, t], other.pairs];
}

/** What a vote for the front of a beast is worth beside how well two skeletons fit. */
const VOTE = 4;

/**
 * Whether there is nothing to go by: the joints of one hang side by side, those of the other in a tree, and no names
 * say which is which.
 */
export function saysNothing(source: Skeleton, target: Skeleton): boolean {
  const [s, t] = [sideOf(source), sideOf(target)];
  const isUnknown = (side: Side) => isFlat(side.skeleton) && !side.isRebuilt;
  return isUnknown(s) !== isUnknown(t) && !(s.speaks && t.speaks) && !sharesNames(s, t);
}

const pairByHand = (source: number, target: number): BonePair => ({
  source,
  target,
  confidence: 1,
  reasons: [BY_HAND],
  other: -1,
});

/** Bones of both skeletons that a limb by itself and a body have in common. */
interface CommonLimb {
  readonly source: readonly number[];
  readonly target: readonly number[];
  /** The side of the body that it was taken for, and how that was known. */
  readonly side: 1 | -1;
  readonly from: 'name' | 'shape' | 'person' | 'guess';
  readonly lone: 'source' | 'target';
  readonly word: 'hand' | 'arm' | 'leg';
}

/**
 * What a limb by itself on one side is to be matched with on the other: the same limb, of the side that a person has
 * set, that the names say, or that the hand has by its shape. Null where neither or both are such a limb.
 */
export function limbFor(source: Skeleton, target: Skeleton, held: Held = new Map()): CommonLimb | null {
  const [s, t] = [sideOf(source), sideOf(target)];
  if (!s.lone === !t.lone) return null;
  const lone = s.lone ? s : t;
  const body = s.lone ? t : s;
  const parts = lone.lone as ReadonlySet<string>;
  const all = lone.skeleton.bones.map((_, i) => i);
  const onSide = (side: number) =>
    body.skeleton.bones.flatMap((_, i) =>
      body.side[i] === side && parts.has(body.readings[i].part) ? [i] : [],
    );
  const limbs = { 1: onSide(1), '-1': onSide(-1) };
  if (limbs[1].length === 0 || limbs[-1].length === 0) return null;
  let by = 0;
  for (const [i, j] of held) if (j >= 0) by += body.side[s.lone ? j : i];
  const { side, from } = sideFor(lone, body, limbs, by);
  const word = wordOfLimb(parts);
  return s.lone
    ? { source: all, target: limbs[side], side, from, word, lone: 'source' }
    : { source: limbs[side], target: all, side, from, word, lone: 'target' };
}

function wordOfLimb(parts: ReadonlySet<string>): CommonLimb['word'] {
  if (parts.has('foot')) return 'leg';
  return parts.has('upperarm') ? 'arm' : 'hand';
}

/** Which side of a body a limb by itself is taken for. */
function sideFor(
  lone: Side,
  body: Side,
  limbs: Readonly<Record<1 | -1, readonly number[]>>,
  held: number,
): Pick<CommonLimb, 'side' | 'from'> {
  if (held !== 0) return { side: held > 0 ? 1 : -1, from: 'person' };
  const named = sideInNames(lone.skeleton);
  if (named !== 0 && body.hasNamedSides) return { side: named > 0 ? 1 : -1, from: 'name' };
  const mine = handednessOf(lone.skeleton);
  const theirs =
    handOf(body.skeleton, body.readings, limbs[1]) - handOf(body.skeleton, body.readings, limbs[-1]);
  if (Math.abs(mine) < TOLD || Math.abs(theirs) < TOLD) return { side: 1, from: 'guess' };
  return { side: mine * theirs > 0 ? 1 : -1, from: 'shape' };
}

/** How clear it must be which of the two a hand is. */
const TOLD = 0.15;

/** Which hand a skeleton is that is a hand by itself: −1 right … 1 left, by how clear it is; 0 for all else. */
export function handednessOf(skeleton: Skeleton): number {
  const { lone, readings } = sideOf(skeleton);
  if (!lone) return 0;
  const named = sideInNames(skeleton);
  if (named !== 0) return named;
  const told = handOf(
    skeleton,
    readings,
    skeleton.bones.map((_, i) => i),
  );
  return Math.abs(told) < TOLD ? 0 : told;
}

/** Sides as they stand before a part. */
const SIDE_WORDS: Readonly<Record<number, string>> = { 1: 'left ', '-1': 'right ', 0: '' };
const SIDE_OF = { left: 1, right: -1, middle: 0, '': 0 } as const;

/** Words for parts whose own would be mistaken. */
const PART_WORDS: ReadonlyMap<string, string> = new Map([
  ['long', 'middle finger'],
  ['index', 'index finger'],
  ['ring', 'ring finger'],
  ['little', 'little finger'],
  ['upperarm', 'upper arm'],
  ['lowerarm', 'forearm'],
  ['upperleg', 'thigh'],
  ['lowerleg', 'shin'],
  ['foreleg', 'front leg'],
  ['hindleg', 'hind leg'],
]);

/**
 * A pair that cannot be, and one that a person has set: worth enough that the others go along with it where the trees
 * allow it, too little to break them where they do not.
 */
const NEVER = -9;
const HELD = 3;

/** How far the very same names agree, and how sure such a pair is at least. */
const SAME_NAME = 1.2;
const SAME = 0.97;

/** How far bones of one leg agree that are called different joints of it. */
const OTHER_JOINT = 0.1;

/** So sure no other target is offered. */
const CLEAR = 0.95;

/** Worth within which two targets are about as good. */
const CLOSE = 0.25;

/** Place of a bone along those of its part and side, 0 … 1. */
const shareOf = ({ rank, alike }: Side, i: number) => (alike[i] > 1 ? rank[i] / (alike[i] - 1) : 0);

/** Whether so many bones of two skeletons are called the very same that names are worth going by. */
function sharesNames(s: Side, t: Side): boolean {
  const theirs = new Set(t.skeleton.bones.map((b) => b.name));
  const n = s.skeleton.bones.filter((b) => theirs.has(b.name)).length;
  return n > 0.3 * Math.min(s.shape.count, t.shape.count);
}

/** Whether a bone is only counted: “bone_012”. */
function isCounted({ readings }: Side, i: number): boolean {
  const { part, words, numbers } = readings[i];
  return part === '' && words.length === 0 && numbers.length > 0;
}

/** Whether two skeletons have the same names in the same tree: one rig, as it was and as it is. */
function areOneRig(a: Skeleton, b: Skeleton): boolean {
  const above = ({ bones }: Skeleton) =>
    new Set(bones.map(({ name, parent }) => JSON.stringify([name, bones[parent]?.name ?? null])));
  const [mine, theirs] = [above(a), above(b)];
  const same = [...mine].filter((x) => theirs.has(x)).length;
  return same >= ONE_RIG * Math.max(mine.size, theirs.size);
}

/** Of the bones of one rig so many are there again. */
const ONE_RIG = 0.95;

/** What the names of a skeleton say, as numbers: the same one for the same word. */
interface Said {
  readonly name: Int32Array;
  /** 0 for none. */
  readonly part: Int32Array;
  readonly words: readonly (readonly number[])[];
  readonly numbers: Int32Array;
}

function saidOf({ skeleton, readings }: Side, ids: Map<string, number>): Said {
  const idOf = (text: string): number => {
    const known = ids.get(text);
    if (known !== undefined) return known;
    ids.set(text, ids.size);
    return ids.size - 1;
  };
  return {
    name: Int32Array.from(skeleton.bones, (b) => idOf(`name ${b.name}`)),
    part: Int32Array.from(readings, (r) => (r.part ? idOf(`part ${r.part}`) : 0)),
    words: readings.map((r) => r.words.map(idOf)),
    numbers: Int32Array.from(readings, (r) => idOf(r.numbers.join('.'))),
  };
}

/** How far two names without a part agree by the words that both have. */
function sharedWords(mine: Said, i: number, theirs: Said, j: number): number {
  const [a, b] = [mine.words[i], theirs.words[j]];
  let shared = 0;
  for (const w of a) if (b.includes(w)) shared++;
  if (shared === 0) return 0;
  const same = mine.numbers[i] === theirs.numbers[j];
  return (same ? 0.9 : 0.4) * (shared / Math.max(a.length, b.length));
}

class Matching {
  private readonly named: boolean;
  private scale: number;
  private flip: 1 | -1 = 1;
  /** How clear it is that sides told by shape are not exchanged. */
  private hand = 1;
  private readonly limbScale = new Map<number, number>();
  /** Agreement of names of every pair: 1 the same, −1 against each other, 0 says nothing. */
  private readonly names: Float64Array;
  private readonly base: Float64Array;
  private readonly likeness: Likeness;
  /** What every pair was worth when the trees were laid over each other last. */
  private readonly judging: Float64Array;
  private cells: Cells | undefined;

  constructor(
    private readonly s: Side,
    private readonly t: Side,
    private readonly held: Held,
  ) {
    this.named = s.speaks && t.speaks;
    this.scale = t.shape.reach / s.shape.reach;
    this.names = this.agreement();
    this.base = this.baseWorth();
    this.likeness = new Likeness(s.shape, t.shape);
    this.judging = new Float64Array(this.base.length);
  }

  /** What all pairs are worth together, once they were found. */
  worth = 0;

  pairs(): BonePair[] {
    const { s, t } = this;
    let pairs = this.bestOver(this.scales());
    if (!(s.hasNamedSides && t.hasNamedSides)) {
      // What a person has set says it for all.
      this.hand = this.heldHand() || handedness(s, t, pairs);
      if (this.hand < 0) {
        this.flip = -1;
        pairs = this.align().pairs;
      }
    }
    this.worth = pairs.reduce((sum, j, i) => sum + (j < 0 ? 0 : this.judging[i * t.shape.count + j]), 0);
    for (const [i, j] of this.held) pairs[i] = j;
    this.addByName(pairs);
    return this.judged(pairs);
  }

  /** Whether pairs that a person has set lie alike (above 0) or exchanged (below 0); 0 where none says. */
  private heldHand(): number {
    let sum = 0;
    for (const [i, j] of this.held) if (j >= 0) sum += this.s.side[i] * this.t.side[j];
    return Math.sign(sum);
  }

  /** What a tree that hangs wrongly has left out, where the names leave no doubt. */
  private addByName(pairs: Int32Array): void {
    const { s, t, held, names } = this;
    const m = t.shape.count;
    const taken = new Set(pairs);
    for (let i = 0; i < s.shape.count; i++) {
      if (pairs[i] >= 0 || held.has(i)) continue;
      let best = -1;
      for (let j = 0; j < m; j++) {
        if (taken.has(j) || names[i * m + j] < 0.9 || !this.sidesMeet(i, j)) continue;
        if (t.readings[j].kind === s.readings[i].kind && (best < 0 || names[i * m + j] > names[i * m + best]))
          best = j;
      }
      if (best < 0) continue;
      pairs[i] = best;
      taken.add(best);
    }
  }

  /** The pairs with how sure they are, why, and what else might be meant. */
  private judged(pairs: Int32Array): BonePair[] {
    const { s, t } = this;
    const worth = this.judging;
    const m = t.shape.count;
    const sourceOf = new Int32Array(m).fill(-1);
    pairs.forEach((j, i) => {
      if (j >= 0) sourceOf[j] = i;
    });
    const out: BonePair[] = [];
    pairs.forEach((j, i) => {
      if (j < 0) return;
      const at = i * m + j;
      const rival = this.rivalOf(i, j, worth);
      const up = pairedAbove(s.shape, pairs, i);
      let above = t.shape.parents[j];
      while (above >= 0 && sourceOf[above] < 0) above = t.shape.parents[above];
      const twin = s.shape.twin[i];
      const isSided = s.side[i] !== 0 || t.side[j] !== 0;
      const facts: PairFacts = {
        name: this.names[at],
        named: this.named ? 1 : 0,
        shape: worth[at] - this.base[at],
        margin: Math.max(-1, Math.min(2, worth[at] - rival)),
        isCoherent: (up < 0 ? -1 : pairs[up]) === above ? 1 : 0,
        hasTwin: isSided && twin >= 0 && pairs[twin] >= 0 && t.shape.twin[j] === pairs[twin] ? 1 : 0,
        isSided: isSided ? 1 : 0,
        facing: isSided && !(s.hasNamedSides && t.hasNamedSides) ? Math.min(1, Math.abs(this.hand)) : 1,
        isFan: s.shape.fan[i] >= 0 ? 1 : 0,
      };
      const fixed = this.held.get(i) === j;
      const told = Math.max(confidenceOf(facts), this.names[at] >= SAME_NAME ? SAME : 0);
      const confidence = Math.min(told, s.endsSure, t.endsSure);
      out.push({
        source: i,
        target: j,
        confidence: fixed ? 1 : confidence,
        reasons: fixed ? [BY_HAND] : this.reasonsOf(i, j, facts),
        other: fixed || confidence >= CLEAR ? -1 : this.otherOf(i, j, worth, sourceOf),
        facts,
      });
    });
    return out;
  }

  /** What a pair’s best rival is worth: another target of the bone, or another bone for the target. */
  private rivalOf(i: number, j: number, worth: Float64Array): number {
    const m = this.t.shape.count;
    let best = 0;
    for (let k = 0; k < m; k++) if (k !== j && worth[i * m + k] > best) best = worth[i * m + k];
    for (let o = 0; o < this.s.shape.count; o++)
      if (o !== i && worth[o * m + j] > best) best = worth[o * m + j];
    return best;
  }

  /**
   * Another target that is about as good: a free one, or one whose own bone would do about as well with this one’s;
   * −1 for none.
   */
  private otherOf(i: number, j: number, worth: Float64Array, sourceOf: Int32Array): number {
    const m = this.t.shape.count;
    let other = -1;
    let best = -CLOSE;
    for (let k = 0; k < m; k++) {
      if (k === j || worth[i * m + k] <= 0) continue;
      const o = sourceOf[k];
      const loss = o < 0 ? 0 : worth[o * m + k] - Math.max(0, worth[o * m + j]);
      const gain = worth[i * m + k] - worth[i * m + j] - loss;
      if (gain > best) [other, best] = [k, gain];
    }
    return other;
  }

  private reasonsOf(i: number, j: number, { name, shape, isCoherent }: PairFacts): string[] {
    const { s, t } = this;
    const a = s.readings[i];
    const out: string[] = [];
    if (s.skeleton.bones[i].name === t.skeleton.bones[j].name) out.push('same name');
    else if (a.part && a.part === t.readings[j].part) {
      const side = SIDE_WORDS[s.legs ? s.side[i] : SIDE_OF[a.side]];
      const place = s.alike[i] > 1 ? `, place ${s.rank[i] + 1} of ${s.alike[i]}` : '';
      // Parts of beasts are told by where they are, whatever the names say.
      const says = s.legs ? 'both are of the' : 'both names say';
      out.push(`${says} ${side}${PART_WORDS.get(a.part) ?? a.part}${place}`);
    } else if (name > 0.2) out.push('the names share a word');
    if (shape > 0.5) out.push('same place along its chain');
    if (isCoherent) out.push('hangs under the same bone');
    if (s.shape.fan[i] >= 0 && s.shape.fan[i] === t.shape.fan[j] && s.shape.fans[i] === t.shape.fans[j])
      out.push(`chain ${s.shape.fan[i] + 1} of ${s.shape.fans[i]} side by side`);
    return out.length > 0 ? out : ['the best that is left'];
  }

  /** Scales that the two may have to each other, from what is long in both. */
  private scales(): number[] {
    const { s, t } = this;
    const whole = t.shape.reach / s.shape.reach;
    if (this.named) return [whole];
    const [mine, theirs] = [limbsOf(s.shape), limbsOf(t.shape)];
    const limbs = mine.length > 0 && theirs.length > 0 ? [theirs[0] / mine[0]] : [];
    return [whole, 0.82 * whole, 1.2 * whole, ...limbs];
  }

  /** The alignment that is worth most of those that begin with these scales, each measured again and refined. */
  private bestOver(scales: readonly number[]): Int32Array {
    let first = { scale: 1, worth: -1 };
    for (const scale of scales.length > 1 ? scales : []) {
      this.scale = scale;
      const { worth } = this.align();
      if (worth > first.worth) first = { scale, worth };
    }
    this.scale = scales.length > 1 ? first.scale : scales[0];
    let found = this.align();
    for (let round = 0; round < (this.named ? 1 : 2); round++) {
      this.measure(found.pairs);
      found = this.align();
    }
    return found.pairs;
  }

  /** How far the names of every pair agree. Numbers stand for words and parts: there are many pairs. */
  private agreement(): Float64Array {
    const { s, t } = this;
    const [n, m] = [s.shape.count, t.shape.count];
    const out = new Float64Array(n * m);
    if (!this.named && !sharesNames(this.s, this.t)) return out;
    const ids = new Map<string, number>([['', 0]]);
    const [mine, theirs] = [saidOf(s, ids), saidOf(t, ids)];
    const isOneRig = areOneRig(s.skeleton, t.skeleton);
    // The same number in two skeletons says nothing, unless one is the other.
    const isTold = (i: number) => isOneRig || !isCounted(s, i);
    for (let i = 0; i < n; i++) {
      const part = mine.part[i];
      for (let j = 0; j < m; j++) {
        const other = theirs.part[j];
        let agreed = 0;
        if (mine.name[i] === theirs.name[j] && isTold(i)) agreed = SAME_NAME;
        else if (part === 0 && other === 0) agreed = sharedWords(mine, i, theirs, j);
        else if (part === 0 || other === 0) agreed = -0.25;
        else agreed = part === other ? this.samePart(i, j) : -1;
        out[i * m + j] = agreed;
      }
    }
    return out;
  }

  /** How far two bones of the same part agree, by their places among the bones of that part. */
  private samePart(i: number, j: number): number {
    const { s, t } = this;
    if (s.legs && t.legs && !Number.isNaN(s.legs.height[i] + t.legs.height[j]))
      return this.sameJoint(s.legs, t.legs, i, j);
    if (s.alike[i] === t.alike[j]) return s.rank[i] === t.rank[j] ? 1 : 0.2;
    return 0.85 - 0.4 * Math.abs(shareOf(s, i) - shareOf(t, j));
  }

  /** How far two bones of one leg agree: by what their names call them, else by how high they stand. */
  private sameJoint(mine: LegJoints, theirs: LegJoints, i: number, j: number): number {
    const { s, t } = this;
    const [a, b] = [mine.called[i], theirs.called[j]];
    if (a && b) return a === b ? 1 : OTHER_JOINT;
    // Another bone of that leg is called what this one is not.
    const isElsewhere =
      (a && theirs.all.has(`${t.readings[j].part} ${t.side[j]} ${a}`)) ||
      (b && mine.all.has(`${s.readings[i].part} ${s.side[i]} ${b}`));
    if (isElsewhere) return OTHER_JOINT;
    return Math.max(OTHER_JOINT, 0.9 - 1.6 * Math.abs(mine.height[i] - theirs.height[j]));
  }

  private align(): { readonly pairs: Int32Array; readonly worth: number } {
    const { s, t } = this;
    this.judge();
    this.cells ??= makeCells(s.shape.count, t.shape.count);
    const trees = {
      source: s.shape.children,
      target: t.shape.children,
      sourceOrder: topDownOf(s.shape),
      targetOrder: topDownOf(t.shape),
      worth: this.judging,
    };
    return alignTrees(trees, this.cells);
  }

  /** Works out what every pair is worth, from names and shape. */
  private judge(): void {
    const { s, t, base, scale, judging } = this;
    const m = t.shape.count;
    judging.set(base);
    const any = !s.isSided || !t.isSided;
    const turned = s.hasNamedSides && t.hasNamedSides ? 1 : this.flip;
    const theirs = t.side.map((side) => side * turned);
    for (let i = 0; i < s.shape.count; i++) {
      const row = judging.subarray(i * m, i * m + m);
      const mine = s.side[i];
      if (!any) for (let j = 0; j < m; j++) if (mine !== theirs[j]) row[j] = NEVER;
      if (this.held.has(i)) continue;
      this.likeness.addRow(i, scale, this.limbScale.get(s.shape.limb[i]) ?? scale, row, NEVER);
    }
  }

  /** What of a pair's worth no measure changes: what is held, the kinds, the names. */
  private baseWorth(): Float64Array {
    const { s, t, held, names } = this;
    const m = t.shape.count;
    const out = new Float64Array(s.shape.count * m).fill(NEVER);
    const isTaken = new Uint8Array(m);
    for (const j of held.values()) if (j >= 0) isTaken[j] = 1;
    const [mine, theirs] = [this.kindsOf(s), this.kindsOf(t)];
    const [x, y] = [s.shape.beside, t.shape.beside];
    const least = this.named ? 0.15 : 0.8;
    for (let i = 0; i < s.shape.count; i++) {
      const fixed = held.get(i);
      for (let j = 0; j < m; j++) {
        const at = i * m + j;
        // What lies along a limb is a twist, whatever the names leave unsaid.
        const isBeside = !this.named && x[i] === 1 && y[j] === 1;
        if (fixed !== undefined) out[at] = fixed === j ? HELD : NEVER;
        else if (isTaken[j] === 1 || names[at] < -0.5) continue;
        else if (!isBeside && mine[i] !== theirs[j]) continue;
        else if (x[i] !== y[j] && names[at] < 0.5) continue;
        else out[at] = least + 1.6 * names[at];
      }
    }
    return out;
  }

  /**
   * Kinds that pair only with their like, as numbers: twists and controls are so in any names, ends only where both
   * sides call theirs so.
   */
  private kindsOf({ readings }: Side): Uint8Array {
    const apart = this.named ? ['twist', 'control', 'attach', 'end'] : ['twist', 'control', 'attach'];
    return Uint8Array.from(readings, (r) => apart.indexOf(r.kind) + 1);
  }

  /** Left pairs with left and middle with middle, where both tell sides at all. */
  private sidesMeet(i: number, j: number): boolean {
    const { s, t } = this;
    if (!s.isSided || !t.isSided) return true;
    return s.side[i] === (s.hasNamedSides && t.hasNamedSides ? t.side[j] : t.side[j] * this.flip);
  }

  /** Takes the measure of the two from pairs that were found: as a whole, and limb by limb. */
  private measure(pairs: Int32Array): void {
    const [x, y] = [this.s.shape, this.t.shape];
    const whole: number[] = [];
    const limbs = new Map<number, number[]>();
    pairs.forEach((j, i) => {
      if (j < 0) return;
      let p = x.parents[i];
      while (p >= 0 && pairs[p] < 0) p = x.parents[p];
      if (p < 0) return;
      const mine = x.way[i] - x.way[p];
      const theirs = y.way[j] - y.way[pairs[p]];
      if (mine < 0.02 * x.reach || theirs < 0.02 * y.reach) return;
      const ratio = theirs / mine;
      whole.push(ratio);
      if (x.fan[i] >= 0) return;
      const limb = x.limb[i];
      limbs.set(limb, [...(limbs.get(limb) ?? []), ratio]);
    });
    if (whole.length >= 4) this.scale = median(whole);
    this.limbScale.clear();
    for (const [limb, list] of limbs) if (list.length >= 2) this.limbScale.set(limb, median(list));
  }
}

/** Lengths of the limbs that stand on both sides, from the one nearest to the core on. */
function limbsOf(shape: Shape): number[] {
  const tops = shape.limb.map((l, i) =>
    l === i && shape.side[i] > 0 && shape.below[i] > 0.2 * shape.reach ? i : -1,
  );
  return [...tops]
    .filter((i) => i >= 0)
    .sort((a, b) => shape.way[a] - shape.way[b])
    .map((i) => shape.below[i] + shape.span[i]);
}

const median = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[list.length >> 1];

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
import { type LegJoints, type SkeletonReading, skeletonReading } from './looks';
import { type SkeletonShape, topDownOf } from './shape';
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
export type LockedPairs = ReadonlyMap<number, number>;

/** The pairs of two skeletons. A limb by itself is matched with the same limb of a body. */
export function matchSkeletons(
  source: Skeleton,
  target: Skeleton,
  locked: LockedPairs = new Map(),
): BonePair[] {
  if (source.bones.length === 0 || target.bones.length === 0) return [];
  const limb = limbFor(source, target, locked);
  if (saysNothing(source, target)) return [...locked].flatMap(([i, j]) => (j < 0 ? [] : [pairByHand(i, j)]));
  if (!limb) return pairsOfFlesh(source, target, locked);
  const [mine, theirs] = [limb.source, limb.target];
  const of = (skeleton: Skeleton, bones: readonly number[]) =>
    skeletonReading(bones.length === skeleton.bones.length ? skeleton : skeletonOfBones(skeleton, bones));
  return within(mine, theirs, locked, (inside) =>
    new Matching(of(source, mine), of(target, theirs), inside).pairs(),
  );
}

/** Pairs of some bones of two skeletons, which count from 0 inside; what a person has set of the others stays. */
function within(
  mine: readonly number[],
  theirs: readonly number[],
  locked: LockedPairs,
  match: (inside: LockedPairs) => BonePair[],
): BonePair[] {
  const at = new Map(mine.map((b, k) => [b, k]));
  const to = new Map(theirs.map((their, k) => [their, k]));
  const inside = new Map<number, number>();
  for (const [i, j] of locked) {
    const k = at.get(i);
    if (k !== undefined && (j < 0 || to.has(j))) inside.set(k, to.get(j) ?? -1);
  }
  const found = match(inside).map((pair): BonePair => ({
    ...pair,
    source: mine[pair.source],
    target: theirs[pair.target],
    other: pair.other < 0 ? -1 : theirs[pair.other],
  }));
  const outside = [...locked].filter(([i, j]) => j >= 0 && !found.some((pair) => pair.source === i));
  return [...found, ...outside.map(([i, j]) => pairByHand(i, j))];
}

/** The pairs of two whole bodies; what hangs on them and carries nothing follows what it hangs on. */
function pairsOfFlesh(source: Skeleton, target: Skeleton, locked: LockedPairs): BonePair[] {
  const [mine, theirs] = [bonesOfFlesh(source), bonesOfFlesh(target)];
  if ((!mine && !theirs) || areOneRig(source, target)) return pairsOfWholes(source, target, locked);
  const all = ({ bones }: Skeleton) => bones.map((_, i) => i);
  const pairs = within(mine ?? all(source), theirs ?? all(target), locked, (inside) =>
    pairsOfWholes(fleshOf(source), fleshOf(target), inside),
  );
  return [...pairs, ...pairsOfHanging(source, target, pairs, locked)];
}

/** How sure it is of two bones that carry nothing that they are the same: each alone hangs there. */
const HANGING = 0.6;

/** Pairs of bones that carry nothing, of which just one hangs on both bones of a pair. */
function pairsOfHanging(
  source: Skeleton,
  target: Skeleton,
  pairs: readonly BonePair[],
  locked: LockedPairs,
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
  const taken = new Set(pairs.map((pair) => pair.target));
  return pairs.flatMap((pair): BonePair[] => {
    const [own, other] = [mine.get(pair.source) ?? [], theirs.get(pair.target) ?? []];
    if (own.length !== 1 || other.length !== 1 || locked.has(own[0]) || taken.has(other[0])) return [];
    const reasons = ['hangs under the same bone'];
    return [{ source: own[0], target: other[0], confidence: HANGING, reasons, other: -1 }];
  });
}

/** The pairs of two whole bodies. */
function pairsOfWholes(source: Skeleton, target: Skeleton, locked: LockedPairs): BonePair[] {
  const own = [skeletonReading(source), skeletonReading(target)] as const;
  const looks = looksTogether(source, target);
  const byTheirTrees = () => new Matching(...own, locked).pairs();
  if (looks[0] === own[0] || areOneRig(source, target)) return byTheirTrees();
  if (own.every((side) => side.speaks)) return new Matching(...looks, locked).pairs();
  const [seen, pairs] = beastsWithoutNames(looks, locked);
  const plain = byTheirTrees();
  if (!keepsLimbs(seen, plain)) return pairs;
  const sure = Math.min(seen[0].endsSure, seen[1].endsSure);
  return plain.map((pair) =>
    locked.has(pair.source) ? pair : { ...pair, confidence: Math.min(pair.confidence, sure) },
  );
}

/** The pairs of two beasts whose names do not tell front from back: the first as it seems to look, or the other way. */
function beastsWithoutNames(
  [sourceSide, targetSide]: readonly [SkeletonReading, SkeletonReading],
  locked: LockedPairs,
): readonly [readonly [SkeletonReading, SkeletonReading], BonePair[]] {
  const turned = turnedLooks(sourceSide);
  const [asIs, other] = [sourceSide, turned].map((side) => {
    const matching = new Matching(side, targetSide, locked);
    return { pairs: matching.pairs(), worth: matching.worth };
  });
  const vote = Math.min(sourceSide.legs?.vote ?? 0, targetSide.legs?.vote ?? 0);
  return asIs.worth + VOTE * vote >= other.worth
    ? [[sourceSide, targetSide], asIs.pairs]
    : [[turned, targetSide], other.pairs];
}

/** What a vote for the front of a beast is worth beside how well two skeletons fit. */
const VOTE = 4;

/**
 * Whether there is nothing to go by: the joints of one hang side by side, those of the other in a tree, and no names
 * say which is which.
 */
export function saysNothing(source: Skeleton, target: Skeleton): boolean {
  const [sourceSide, targetSide] = [skeletonReading(source), skeletonReading(target)];
  const isUnknown = (side: SkeletonReading) => isFlat(side.skeleton) && !side.isRebuilt;
  return (
    isUnknown(sourceSide) !== isUnknown(targetSide) &&
    !(sourceSide.speaks && targetSide.speaks) &&
    !sharesNames(sourceSide, targetSide)
  );
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
export function limbFor(
  source: Skeleton,
  target: Skeleton,
  locked: LockedPairs = new Map(),
): CommonLimb | null {
  const [sourceSide, targetSide] = [skeletonReading(source), skeletonReading(target)];
  if (!sourceSide.lone === !targetSide.lone) return null;
  const lone = sourceSide.lone ? sourceSide : targetSide;
  const body = sourceSide.lone ? targetSide : sourceSide;
  const parts = lone.lone as ReadonlySet<string>;
  const all = lone.skeleton.bones.map((_, i) => i);
  const onSide = (side: number) =>
    body.skeleton.bones.flatMap((_, i) =>
      body.side[i] === side && parts.has(body.readings[i].part) ? [i] : [],
    );
  const limbs = { 1: onSide(1), '-1': onSide(-1) };
  if (limbs[1].length === 0 || limbs[-1].length === 0) return null;
  let by = 0;
  for (const [i, j] of locked) if (j >= 0) by += body.side[sourceSide.lone ? j : i];
  const { side, from } = sideFor(lone, body, limbs, by);
  const word = wordOfLimb(parts);
  return sourceSide.lone
    ? { source: all, target: limbs[side], side, from, word, lone: 'source' }
    : { source: limbs[side], target: all, side, from, word, lone: 'target' };
}

function wordOfLimb(parts: ReadonlySet<string>): CommonLimb['word'] {
  if (parts.has('foot')) return 'leg';
  return parts.has('upperarm') ? 'arm' : 'hand';
}

/** Which side of a body a limb by itself is taken for. */
function sideFor(
  lone: SkeletonReading,
  body: SkeletonReading,
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
  const { lone, readings } = skeletonReading(skeleton);
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
const shareOf = ({ rank, alike }: SkeletonReading, i: number) =>
  alike[i] > 1 ? rank[i] / (alike[i] - 1) : 0;

/** Whether so many bones of two skeletons are called the very same that names are worth going by. */
function sharesNames(sourceSide: SkeletonReading, targetSide: SkeletonReading): boolean {
  const theirs = new Set(targetSide.skeleton.bones.map((bone) => bone.name));
  const count = sourceSide.skeleton.bones.filter((bone) => theirs.has(bone.name)).length;
  return count > 0.3 * Math.min(sourceSide.shape.count, targetSide.shape.count);
}

/** Whether a bone is only counted: “bone_012”. */
function isCounted({ readings }: SkeletonReading, i: number): boolean {
  const { part, words, numbers } = readings[i];
  return part === '' && words.length === 0 && numbers.length > 0;
}

/** Whether two skeletons have the same names in the same tree: one rig, as it was and as it is. */
function areOneRig(a: Skeleton, b: Skeleton): boolean {
  const above = ({ bones }: Skeleton) =>
    new Set(bones.map(({ name, parent }) => JSON.stringify([name, bones[parent]?.name ?? null])));
  const [mine, theirs] = [above(a), above(b)];
  const same = [...mine].filter((text) => theirs.has(text)).length;
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

function saidOf({ skeleton, readings }: SkeletonReading, ids: Map<string, number>): Said {
  const idOf = (text: string): number => {
    const known = ids.get(text);
    if (known !== undefined) return known;
    ids.set(text, ids.size);
    return ids.size - 1;
  };
  return {
    name: Int32Array.from(skeleton.bones, (bone) => idOf(`name ${bone.name}`)),
    part: Int32Array.from(readings, (reading) => (reading.part ? idOf(`part ${reading.part}`) : 0)),
    words: readings.map((reading) => reading.words.map(idOf)),
    numbers: Int32Array.from(readings, (reading) => idOf(reading.numbers.join('.'))),
  };
}

/** How far two names without a part agree by the words that both have. */
function sharedWords(mine: Said, i: number, theirs: Said, j: number): number {
  const [a, b] = [mine.words[i], theirs.words[j]];
  let shared = 0;
  for (const word of a) if (b.includes(word)) shared++;
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
    private readonly source: SkeletonReading,
    private readonly target: SkeletonReading,
    private readonly locked: LockedPairs,
  ) {
    this.named = source.speaks && target.speaks;
    this.scale = target.shape.reach / source.shape.reach;
    this.names = this.agreement();
    this.base = this.baseWorth();
    this.likeness = new Likeness(source.shape, target.shape);
    this.judging = new Float64Array(this.base.length);
  }

  /** What all pairs are worth together, once they were found. */
  worth = 0;

  pairs(): BonePair[] {
    const { source: sourceSide, target: targetSide } = this;
    let pairs = this.bestOver(this.scales());
    if (!(sourceSide.hasNamedSides && targetSide.hasNamedSides)) {
      // What a person has set says it for all.
      this.hand = this.heldHand() || handedness(sourceSide, targetSide, pairs);
      if (this.hand < 0) {
        this.flip = -1;
        pairs = this.align().pairs;
      }
    }
    this.worth = pairs.reduce(
      (sum, j, i) => sum + (j < 0 ? 0 : this.judging[i * targetSide.shape.count + j]),
      0,
    );
    for (const [i, j] of this.locked) pairs[i] = j;
    this.addByName(pairs);
    return this.judged(pairs);
  }

  /** Whether pairs that a person has set lie alike (above 0) or exchanged (below 0); 0 where none says. */
  private heldHand(): number {
    let sum = 0;
    for (const [i, j] of this.locked) if (j >= 0) sum += this.source.side[i] * this.target.side[j];
    return Math.sign(sum);
  }

  /** What a tree that hangs wrongly has left out, where the names leave no doubt. */
  private addByName(pairs: Int32Array): void {
    const { source: sourceSide, target: targetSide, locked, names } = this;
    const count = targetSide.shape.count;
    const taken = new Set(pairs);
    for (let i = 0; i < sourceSide.shape.count; i++) {
      if (pairs[i] >= 0 || locked.has(i)) continue;
      let best = -1;
      for (let j = 0; j < count; j++) {
        if (taken.has(j) || names[i * count + j] < 0.9 || !this.sidesMeet(i, j)) continue;
        if (
          targetSide.readings[j].kind === sourceSide.readings[i].kind &&
          (best < 0 || names[i * count + j] > names[i * count + best])
        )
          best = j;
      }
      if (best < 0) continue;
      pairs[i] = best;
      taken.add(best);
    }
  }

  /** The pairs with how sure they are, why, and what else might be meant. */
  private judged(pairs: Int32Array): BonePair[] {
    const { source: sourceSide, target: targetSide } = this;
    const worth = this.judging;
    const count = targetSide.shape.count;
    const sourceOf = new Int32Array(count).fill(-1);
    pairs.forEach((j, i) => {
      if (j >= 0) sourceOf[j] = i;
    });
    const out: BonePair[] = [];
    pairs.forEach((j, i) => {
      if (j < 0) return;
      const at = i * count + j;
      const rival = this.rivalOf(i, j, worth);
      const up = pairedAbove(sourceSide.shape, pairs, i);
      let above = targetSide.shape.parents[j];
      while (above >= 0 && sourceOf[above] < 0) above = targetSide.shape.parents[above];
      const twin = sourceSide.shape.twin[i];
      const isSided = sourceSide.side[i] !== 0 || targetSide.side[j] !== 0;
      const facts: PairFacts = {
        name: this.names[at],
        named: this.named ? 1 : 0,
        shape: worth[at] - this.base[at],
        margin: Math.max(-1, Math.min(2, worth[at] - rival)),
        isCoherent: (up < 0 ? -1 : pairs[up]) === above ? 1 : 0,
        hasTwin: isSided && twin >= 0 && pairs[twin] >= 0 && targetSide.shape.twin[j] === pairs[twin] ? 1 : 0,
        isSided: isSided ? 1 : 0,
        facing:
          isSided && !(sourceSide.hasNamedSides && targetSide.hasNamedSides)
            ? Math.min(1, Math.abs(this.hand))
            : 1,
        isFan: sourceSide.shape.fan[i] >= 0 ? 1 : 0,
      };
      const fixed = this.locked.get(i) === j;
      const told = Math.max(confidenceOf(facts), this.names[at] >= SAME_NAME ? SAME : 0);
      const confidence = Math.min(told, sourceSide.endsSure, targetSide.endsSure);
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
    const count = this.target.shape.count;
    let best = 0;
    for (let k = 0; k < count; k++) if (k !== j && worth[i * count + k] > best) best = worth[i * count + k];
    for (let bone = 0; bone < this.source.shape.count; bone++)
      if (bone !== i && worth[bone * count + j] > best) best = worth[bone * count + j];
    return best;
  }

  /**
   * Another target that is about as good: a free one, or one whose own bone would do about as well with this one’s;
   * −1 for none.
   */
  private otherOf(i: number, j: number, worth: Float64Array, sourceOf: Int32Array): number {
    const count = this.target.shape.count;
    let other = -1;
    let best = -CLOSE;
    for (let k = 0; k < count; k++) {
      if (k === j || worth[i * count + k] <= 0) continue;
      const bone = sourceOf[k];
      const loss = bone < 0 ? 0 : worth[bone * count + k] - Math.max(0, worth[bone * count + j]);
      const gain = worth[i * count + k] - worth[i * count + j] - loss;
      if (gain > best) [other, best] = [k, gain];
    }
    return other;
  }

  private reasonsOf(i: number, j: number, { name, shape, isCoherent }: PairFacts): string[] {
    const { source: sourceSide, target: targetSide } = this;
    const reading = sourceSide.readings[i];
    const out: string[] = [];
    if (sourceSide.skeleton.bones[i].name === targetSide.skeleton.bones[j].name) out.push('same name');
    else if (reading.part && reading.part === targetSide.readings[j].part) {
      const side = SIDE_WORDS[sourceSide.legs ? sourceSide.side[i] : SIDE_OF[reading.side]];
      const place =
        sourceSide.alike[i] > 1 ? `, place ${sourceSide.rank[i] + 1} of ${sourceSide.alike[i]}` : '';
      // Parts of beasts are told by where they are, whatever the names say.
      const says = sourceSide.legs ? 'both are of the' : 'both names say';
      out.push(`${says} ${side}${PART_WORDS.get(reading.part) ?? reading.part}${place}`);
    } else if (name > 0.2) out.push('the names share a word');
    if (shape > 0.5) out.push('same place along its chain');
    if (isCoherent) out.push('hangs under the same bone');
    if (
      sourceSide.shape.fan[i] >= 0 &&
      sourceSide.shape.fan[i] === targetSide.shape.fan[j] &&
      sourceSide.shape.fans[i] === targetSide.shape.fans[j]
    )
      out.push(`chain ${sourceSide.shape.fan[i] + 1} of ${sourceSide.shape.fans[i]} side by side`);
    return out.length > 0 ? out : ['the best that is left'];
  }

  /** Scales that the two may have to each other, from what is long in both. */
  private scales(): number[] {
    const { source: sourceSide, target: targetSide } = this;
    const whole = targetSide.shape.reach / sourceSide.shape.reach;
    if (this.named) return [whole];
    const [mine, theirs] = [limbsOf(sourceSide.shape), limbsOf(targetSide.shape)];
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
    const { source: sourceSide, target: targetSide } = this;
    const [sourceCount, targetCount] = [sourceSide.shape.count, targetSide.shape.count];
    const out = new Float64Array(sourceCount * targetCount);
    if (!this.named && !sharesNames(this.source, this.target)) return out;
    const ids = new Map<string, number>([['', 0]]);
    const [mine, theirs] = [saidOf(sourceSide, ids), saidOf(targetSide, ids)];
    const isOneRig = areOneRig(sourceSide.skeleton, targetSide.skeleton);
    // The same number in two skeletons says nothing, unless one is the other.
    const isTold = (i: number) => isOneRig || !isCounted(sourceSide, i);
    for (let i = 0; i < sourceCount; i++) {
      const part = mine.part[i];
      for (let j = 0; j < targetCount; j++) {
        const other = theirs.part[j];
        let agreed = 0;
        if (mine.name[i] === theirs.name[j] && isTold(i)) agreed = SAME_NAME;
        else if (part === 0 && other === 0) agreed = sharedWords(mine, i, theirs, j);
        else if (part === 0 || other === 0) agreed = -0.25;
        else agreed = part === other ? this.samePart(i, j) : -1;
        out[i * targetCount + j] = agreed;
      }
    }
    return out;
  }

  /** How far two bones of the same part agree, by their places among the bones of that part. */
  private samePart(i: number, j: number): number {
    const { source: sourceSide, target: targetSide } = this;
    if (
      sourceSide.legs &&
      targetSide.legs &&
      !Number.isNaN(sourceSide.legs.height[i] + targetSide.legs.height[j])
    )
      return this.sameJoint(sourceSide.legs, targetSide.legs, i, j);
    if (sourceSide.alike[i] === targetSide.alike[j])
      return sourceSide.rank[i] === targetSide.rank[j] ? 1 : 0.2;
    return 0.85 - 0.4 * Math.abs(shareOf(sourceSide, i) - shareOf(targetSide, j));
  }

  /** How far two bones of one leg agree: by what their names call them, else by how high they stand. */
  private sameJoint(mine: LegJoints, theirs: LegJoints, i: number, j: number): number {
    const { source: sourceSide, target: targetSide } = this;
    const [a, b] = [mine.called[i], theirs.called[j]];
    if (a && b) return a === b ? 1 : OTHER_JOINT;
    // Another bone of that leg is called what this one is not.
    const isElsewhere =
      (a && theirs.all.has(`${targetSide.readings[j].part} ${targetSide.side[j]} ${a}`)) ||
      (b && mine.all.has(`${sourceSide.readings[i].part} ${sourceSide.side[i]} ${b}`));
    if (isElsewhere) return OTHER_JOINT;
    return Math.max(OTHER_JOINT, 0.9 - 1.6 * Math.abs(mine.height[i] - theirs.height[j]));
  }

  private align(): { readonly pairs: Int32Array; readonly worth: number } {
    const { source: sourceSide, target: targetSide } = this;
    this.judge();
    this.cells ??= makeCells(sourceSide.shape.count, targetSide.shape.count);
    const trees = {
      source: sourceSide.shape.children,
      target: targetSide.shape.children,
      sourceOrder: topDownOf(sourceSide.shape),
      targetOrder: topDownOf(targetSide.shape),
      worth: this.judging,
    };
    return alignTrees(trees, this.cells);
  }

  /** Works out what every pair is worth, from names and shape. */
  private judge(): void {
    const { source: sourceSide, target: targetSide, base, scale, judging } = this;
    const count = targetSide.shape.count;
    judging.set(base);
    const any = !sourceSide.isSided || !targetSide.isSided;
    const turned = sourceSide.hasNamedSides && targetSide.hasNamedSides ? 1 : this.flip;
    const theirs = targetSide.side.map((side) => side * turned);
    for (let i = 0; i < sourceSide.shape.count; i++) {
      const row = judging.subarray(i * count, i * count + count);
      const mine = sourceSide.side[i];
      if (!any) for (let j = 0; j < count; j++) if (mine !== theirs[j]) row[j] = NEVER;
      if (this.locked.has(i)) continue;
      this.likeness.addRow(i, scale, this.limbScale.get(sourceSide.shape.limb[i]) ?? scale, row, NEVER);
    }
  }

  /** What of a pair's worth no measure changes: what is held, the kinds, the names. */
  private baseWorth(): Float64Array {
    const { source: sourceSide, target: targetSide, locked, names } = this;
    const count = targetSide.shape.count;
    const out = new Float64Array(sourceSide.shape.count * count).fill(NEVER);
    const isTaken = new Uint8Array(count);
    for (const j of locked.values()) if (j >= 0) isTaken[j] = 1;
    const [mine, theirs] = [this.kindsOf(sourceSide), this.kindsOf(targetSide)];
    const [x, y] = [sourceSide.shape.beside, targetSide.shape.beside];
    const least = this.named ? 0.15 : 0.8;
    for (let i = 0; i < sourceSide.shape.count; i++) {
      const fixed = locked.get(i);
      for (let j = 0; j < count; j++) {
        const at = i * count + j;
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
  private kindsOf({ readings }: SkeletonReading): Uint8Array {
    const apart = this.named ? ['twist', 'control', 'attach', 'end'] : ['twist', 'control', 'attach'];
    return Uint8Array.from(readings, (reading) => apart.indexOf(reading.kind) + 1);
  }

  /** Left pairs with left and middle with middle, where both tell sides at all. */
  private sidesMeet(i: number, j: number): boolean {
    const { source: sourceSide, target: targetSide } = this;
    if (!sourceSide.isSided || !targetSide.isSided) return true;
    return (
      sourceSide.side[i] ===
      (sourceSide.hasNamedSides && targetSide.hasNamedSides
        ? targetSide.side[j]
        : targetSide.side[j] * this.flip)
    );
  }

  /** Takes the measure of the two from pairs that were found: as a whole, and limb by limb. */
  private measure(pairs: Int32Array): void {
    const [x, y] = [this.source.shape, this.target.shape];
    const whole: number[] = [];
    const limbs = new Map<number, number[]>();
    pairs.forEach((j, i) => {
      if (j < 0) return;
      let parent = x.parents[i];
      while (parent >= 0 && pairs[parent] < 0) parent = x.parents[parent];
      if (parent < 0) return;
      const mine = x.way[i] - x.way[parent];
      const theirs = y.way[j] - y.way[pairs[parent]];
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
function limbsOf(shape: SkeletonShape): number[] {
  const tops = shape.limb.map((limb, i) =>
    limb === i && shape.side[i] > 0 && shape.below[i] > 0.2 * shape.reach ? i : -1,
  );
  return [...tops]
    .filter((i) => i >= 0)
    .sort((a, b) => shape.way[a] - shape.way[b])
    .map((i) => shape.below[i] + shape.span[i]);
}

const median = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[list.length >> 1];

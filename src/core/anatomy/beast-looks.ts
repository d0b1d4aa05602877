/**
 * What the bones of a beast on four legs look like when it is matched with another: front and hind legs, neck, head and tail
 * are told by their place, whatever the names call them, and with them which side is left.
 */
import { readBodyKind } from './body-kind';
import { type FourLegs, fourLegsOf, turnedRound } from './beast-limbs';
import { type LegJoints, type SkeletonReading, ranksOf, skeletonReading } from './looks';
import type { BoneReading } from './reading/read';
import { dot, subtract } from '../geometry/matrix';
import { type SkeletonShape, atAndUnder, longestWay, shapeOf } from './shape';
import type { Skeleton } from './skeleton';

/** The looks of both of two skeletons that are matched: those of beasts where both are such, else their own. */
export function looksTogether(
  source: Skeleton,
  target: Skeleton,
): readonly [SkeletonReading, SkeletonReading] {
  const [sourceBeast, targetBeast] = [beastOf(source), beastOf(target)];
  // Beside a beast that leaves no doubt another body of no known kind is taken for one sooner.
  return sourceBeast && targetBeast && (sourceBeast.isClear || targetBeast.isClear)
    ? [sourceBeast.looks, targetBeast.looks]
    : [skeletonReading(source), skeletonReading(target)];
}

/** Parts that a pair of bones of two beasts has in common, or not. */
const JUDGED = new Set(['foreleg', 'hindleg', 'neck', 'head', 'tail']);

/** So many of the pairs, and of the bones of the legs, where two matchings agree. */
const AGREED = 0.8;
const PAIRED = 0.6;

/**
 * Whether pairs of two beasts that were found by their trees as they are go from limb to the same limb, as their places say.
 * Trees as they are tell the joints of a leg apart best, where no name does.
 */
export function keepsLimbs(
  [sourceSide, targetSide]: readonly [SkeletonReading, SkeletonReading],
  pairs: readonly Pairing[],
): boolean {
  let judged = 0;
  let same = 0;
  let legs = 0;
  for (const { source, target } of pairs) {
    const [a, b] = [sourceSide.readings[source].part, targetSide.readings[target].part];
    if (!JUDGED.has(a) || !JUDGED.has(b)) continue;
    judged++;
    if (a === b && sourceSide.side[source] === targetSide.side[target]) same++;
    if (a.endsWith('leg')) legs++;
  }
  const inLegs = (side: SkeletonReading) =>
    side.readings.filter((reading) => reading.part.endsWith('leg')).length;
  return same >= AGREED * judged && legs >= PAIRED * Math.min(inLegs(sourceSide), inLegs(targetSide));
}

interface Pairing {
  readonly source: number;
  readonly target: number;
}

const turned = new WeakMap<SkeletonReading, SkeletonReading>();

/** A beast as it looks where its front is taken for its back. */
export function turnedLooks(beast: SkeletonReading): SkeletonReading {
  let found = turned.get(beast);
  if (!found) {
    const { skeleton } = beast;
    const legs = turnedRound(fourLegsOf(skeleton) as FourLegs, skeletonReading(skeleton).hasNamedSides);
    turned.set(beast, (found = lookAt(skeleton, legs)));
  }
  return found;
}

/** What may be a beast on four legs, and whether there is no doubt of it. */
interface MaybeBeast {
  readonly looks: SkeletonReading;
  readonly isClear: boolean;
}

const known = new WeakMap<Skeleton, MaybeBeast | null>();

function beastOf(skeleton: Skeleton): MaybeBeast | null {
  let found = known.get(skeleton);
  if (found === undefined) {
    const legs = fourLegsOf(skeleton);
    const { kind } = readBodyKind(skeleton);
    const isClear = kind === 'four-legged';
    const mayBe = legs && (kind === 'four-legged' || kind === 'unknown');
    known.set(skeleton, (found = mayBe ? { looks: lookAt(skeleton, legs), isClear } : null));
  }
  return found;
}

/** Joints of legs by what names call them: some call the front legs of beasts arms. */
const JOINTS: Readonly<Record<string, string>> = {
  collar: 'first',
  upperarm: 'upper',
  upperleg: 'upper',
  lowerarm: 'lower',
  lowerleg: 'lower',
  hand: 'foot',
  foot: 'foot',
  toe: 'toe',
};

/** What is known of the joints of the legs. */
function jointsOf(
  own: SkeletonReading,
  parts: readonly string[],
  side: Int8Array,
  legs: FourLegs,
): LegJoints {
  const { places } = own.shape;
  const isLeg = (i: number) => parts[i] === 'foreleg' || parts[i] === 'hindleg';
  const called = own.readings.map((reading, i) => (isLeg(i) ? (JOINTS[reading.part] ?? '') : ''));
  const over = places.map((place) => dot(place, legs.up));
  const ground = Math.min(...over.filter((_, i) => isLeg(i)));
  const trunk = over.filter((_, i) => parts[i] === 'spine');
  const tall = Math.max(1e-9, trunk.reduce((sum, y) => sum + y, 0) / Math.max(1, trunk.length) - ground);
  return {
    called,
    vote: legs.vote,
    all: new Set(called.flatMap((joint, i) => (joint ? [`${parts[i]} ${side[i]} ${joint}`] : []))),
    height: Float64Array.from(over, (y, i) => (isLeg(i) ? (y - ground) / tall : NaN)),
  };
}

function lookAt(skeleton: Skeleton, legs: FourLegs): SkeletonReading {
  const own = skeletonReading(skeleton);
  const { all: parts, parents } = new Parts(own, legs);
  const side = own.hasNamedSides ? own.side : sidesOf(own, legs);
  const readings = own.readings.map((reading, i): BoneReading => ({ ...reading, part: parts[i] }));
  const apart = shapeOf(skeleton, parents);
  const { twin, limb } = own.shape;
  return {
    ...own,
    // All lengths as shares of a leg: how long a neck or a tail is says nothing about the others.
    shape: { ...apart, side, twin, limb, reach: legLength(apart, legs) },
    readings,
    side,
    hasNamedSides: true,
    isSided: true,
    speaks: true,
    endsSure: legs.sure,
    legs: jointsOf(own, parts, side, legs),
    lone: null,
    ...ranksOf(readings, side, apart),
  };
}

/** The way along a leg from its first joint to its tip, the mean of all. */
function legLength({ below }: SkeletonShape, { front, hind }: FourLegs): number {
  const tops = [front.left[0], front.right[0], hind.left[0], hind.right[0]];
  return Math.max(1e-9, tops.reduce((sum, top) => sum + below[top], 0) / tops.length);
}

/** Sides of a beast whose names tell none: of its legs, and of what stands in pairs elsewhere. */
function sidesOf({ shape }: SkeletonReading, { front, hind, left }: FourLegs): Int8Array {
  const out = new Int8Array(shape.count);
  const spread = ([top]: readonly number[], side: number) => {
    for (const i of atAndUnder(shape, top)) out[i] = side;
  };
  for (const pair of [front, hind]) {
    spread(pair.left, 1);
    spread(pair.right, -1);
  }
  shape.twin.forEach((twin, i) => {
    if (twin < 0 || out[i] !== 0 || out[twin] !== 0) return;
    const isLeft = dot(subtract(shape.places[i], shape.places[twin]), left) > 0;
    out[i] = isLeft ? 1 : -1;
    out[twin] = isLeft ? -1 : 1;
  });
  return out;
}

/** Parts that names tell better than places. */
const BY_NAME = new Set(['jaw', 'eye', 'ear', 'root']);

/** Which part of the beast every bone is of. */
class Parts {
  readonly all: string[];
  /**
   * The tree as it is matched: legs, neck, tail and spine each by themselves, since some hang all of them on one bone and
   * others on the two ends of a spine; the spine from the hind legs on.
   */
  readonly parents: Int32Array;

  constructor(
    private readonly own: SkeletonReading,
    private readonly legs: FourLegs,
  ) {
    this.parents = own.shape.parents.slice();
    this.all = own.readings.map((reading) => (BY_NAME.has(reading.part) ? reading.part : ''));
    const { front, hind } = legs;
    for (const [pair, part] of [
      [front, 'foreleg'],
      [hind, 'hindleg'],
    ] as const)
      for (const chain of [pair.left, pair.right]) {
        this.spread(chain[0], part);
        this.parents[chain[0]] = -1;
      }
    this.nameTrunk();
  }

  private spread(top: number, part: string): void {
    for (const i of atAndUnder(this.own.shape, top)) this.all[i] = part;
  }

  /** The spine from the hind legs to the front legs, and what goes on beyond them to the head and to the tail. */
  private nameTrunk(): void {
    const { shape } = this.own;
    const { front, hind } = this.legs;
    const ends = [front, hind].map((pair) => sharedAbove(shape.parents, pair.left[0], pair.right[0]));
    const trunk = pathBetween(shape.parents, ends[0], ends[1]);
    for (const b of trunk) this.all[b] = 'spine';
    const { forward } = this.legs;
    const onward = [...trunk].sort((a, b) => dot(shape.places[a], forward) - dot(shape.places[b], forward));
    onward.forEach((b, k) => (this.parents[b] = onward[k - 1] ?? -1));
    const tops = trunk.flatMap((b) => shape.children[b].filter((child) => this.all[child] === ''));
    const heads = tops.filter((top) => this.reachOf(top) > 0);
    const tails = tops.filter((top) => this.reachOf(top) < 0);
    const [head, tail] = [this.mainOf(heads, 1), this.mainOf(tails, -1)];
    this.nameHead(head);
    this.nameTail(tail);
    for (const top of [head, tail]) if (top >= 0) this.parents[top] = -1;
  }

  /** How far ahead of the trunk's middle the farthest tip under a bone lies; below 0 behind it. */
  private reachOf(bone: number): number {
    const { places } = this.own.shape;
    const { front, hind, forward } = this.legs;
    const middle = [front.left[0], front.right[0], hind.left[0], hind.right[0]].map((b) =>
      dot(places[b], forward),
    );
    const from = middle.reduce((a, b) => a + b, 0) / 4;
    return dot(places[longestWay(this.own.shape, bone).at(-1) as number], forward) - from;
  }

  /** Of the bones that something begins with on one side of the trunk the one that reaches farthest; −1 for none. */
  private mainOf(tops: readonly number[], sign: number): number {
    const named = (b: number) =>
      atAndUnder(this.own.shape, b).some((i) =>
        (sign > 0 ? ['neck', 'head'] : ['tail']).includes(this.own.readings[i].part),
      );
    const told = tops.filter(named);
    const list = told.length > 0 ? told : tops;
    return list.reduce((a, b) => (a < 0 || sign * this.reachOf(b) > sign * this.reachOf(a) ? b : a), -1);
  }

  private nameHead(top: number): void {
    if (top < 0) return;
    const { readings, shape, skeleton } = this.own;
    const all = atAndUnder(this.own.shape, top);
    const named = all.find((i) => readings[i].part === 'head' && readings[i].kind === 'bone');
    const chain = longestWay(this.own.shape, top);
    const isEnd = (i: number) => readings[i].kind === 'end' && !(skeleton.bones[i].weight > 0);
    const fork = chain.find((i) => shape.children[i].filter((child) => !isEnd(child)).length > 1);
    const head = named ?? fork ?? [...chain].reverse().find((i) => !isEnd(i)) ?? top;
    this.all[head] = 'head';
    for (let i = shape.parents[head]; i >= 0 && i !== shape.parents[top]; i = shape.parents[i])
      this.all[i] = 'neck';
  }

  private nameTail(top: number): void {
    if (top < 0) return;
    for (const i of longestWay(this.own.shape, top)) this.all[i] = 'tail';
  }
}

/** The nearest bone above both; −1 for none. */
function sharedAbove(parents: Int32Array, a: number, b: number): number {
  const above = new Set<number>();
  for (let parent = parents[a]; parent >= 0; parent = parents[parent]) above.add(parent);
  for (let parent = parents[b]; parent >= 0; parent = parents[parent]) if (above.has(parent)) return parent;
  return -1;
}

/** All bones from one to the other through the tree, both among them. */
function pathBetween(parents: Int32Array, a: number, b: number): number[] {
  const up = (i: number) => {
    const out: number[] = [];
    for (let parent = i; parent >= 0; parent = parents[parent]) out.push(parent);
    return out;
  };
  const [x, y] = [up(a), up(b)];
  const inY = new Set(y);
  const meeting = x.find((i) => inY.has(i)) ?? -1;
  const until = (list: readonly number[]) => list.slice(0, list.indexOf(meeting) + 1);
  return meeting < 0 ? [...new Set([...x, ...y])] : [...new Set([...until(x), ...until(y)])];
}

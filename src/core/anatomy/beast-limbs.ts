/**
 * The four legs of a beast, and which way it looks: found from where its chains begin and how they hang, whatever they are
 * called, and told which end is the front by names where they say, by head, tail and the way that legs bend where not.
 */
import { type Vec3, cross, dot, length, normalise, subtract } from '../geometry/matrix';
import { skeletonReading } from './looks';
import { wordsOf } from './reading/tokens';
import { FRONT_WORDS, HIND_WORDS, MEANINGS } from './reading/words';
import { type SkeletonShape, longestWay, topDownOf } from './shape';
import type { Skeleton } from './skeleton';

/** A leg and the one on the other side. Chains by bone, from the trunk to the farthest tip. */
export interface LegPair {
  readonly left: readonly number[];
  readonly right: readonly number[];
}

/** How a beast stands on its legs. Unit vectors, world space. */
export interface FourLegs {
  readonly front: LegPair;
  readonly hind: LegPair;
  readonly forward: Vec3;
  readonly up: Vec3;
  readonly left: Vec3;
  /** How sure it is that the front is the front, a half to 1. */
  readonly sure: number;
  /** How much speaks for that, names and shape, from 0 on. */
  readonly vote: number;
  /** How little it looks like a beast that stands, from 0 on. */
  readonly doubt: number;
  /** Whether names tell front legs from hind ones, or call all four legs. */
  readonly isNamed: boolean;
}

/** Chains shorter than this share of the longest way are ears, horns, toes. */
const SHORT = 0.12;

/** A chain that begins on the trunk and does not fork. */
interface Branch {
  readonly bones: readonly number[];
  readonly length: number;
  readonly top: Vec3;
  readonly tip: Vec3;
}

/** More chains than this are no beast's. */
const MOST_BRANCHES = 24;

/** The long chains that begin where the body forks. */
function branchesOf(shape: SkeletonShape): Branch[] {
  const { children, below, span, places, parents, count, beside } = shape;
  let longest = 0;
  for (let i = 0; i < count; i++) longest = Math.max(longest, below[i]);
  // A twist lies along its limb and is no chain of its own.
  const isLong = (bone: number) => beside[bone] === 0 && below[bone] + span[bone] > SHORT * longest;
  const long = children.map((list) => list.filter(isLong));
  // Whether anything at or below a bone forks.
  const forks = new Uint8Array(count);
  for (const i of topDownOf(shape).reverse())
    if (long[i].length > 1 || long[i].some((bone) => forks[bone] === 1)) forks[i] = 1;
  const out: Branch[] = [];
  for (let i = 0; i < count; i++) {
    const parent = parents[i];
    if (parent < 0 || forks[parent] === 0 || forks[i] === 1 || !isLong(i)) continue;
    const bones = longestWay(shape, i);
    let way = 0;
    for (let k = 1; k < bones.length; k++) way += span[bones[k]];
    if (way > 0) out.push({ bones, length: way, top: places[i], tip: places[bones.at(-1) as number] });
  }
  return out;
}

const middleOf = (a: Vec3, b: Vec3): Vec3 => [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2];
const plus = (a: Vec3, b: Vec3, sign = 1): Vec3 => [
  a[0] + sign * b[0],
  a[1] + sign * b[1],
  a[2] + sign * b[2],
];
const unit = (vector: Vec3): Vec3 => (length(vector) > 1e-12 ? normalise(vector) : [0, 0, 0]);

/** The part of a vector that is square to a unit vector. */
const squareTo = (vector: Vec3, on: Vec3): Vec3 => {
  const along = dot(vector, on);
  return [vector[0] - along * on[0], vector[1] - along * on[1], vector[2] - along * on[2]];
};

/** Two branches taken for a leg and its twin. */
interface Twins {
  readonly a: Branch;
  readonly b: Branch;
  /** From b to a. */
  readonly across: Vec3;
  readonly top: Vec3;
  readonly way: Vec3;
  readonly cost: number;
}

/** How unlike two chains may be to be a leg and its twin. */
const UNLIKE = 0.5;

function twinsOf(skeleton: Skeleton, a: Branch, b: Branch): Twins | null {
  const { side, hasNamedSides, shape } = skeletonReading(skeleton);
  const sidesOf = (branch: Branch) => branch.bones.reduce((sum, i) => sum + side[i], 0);
  const isNamed = hasNamedSides && sidesOf(a) !== 0 && sidesOf(b) !== 0;
  if (isNamed && sidesOf(a) * sidesOf(b) > 0) return null;
  // Where bones of both are told sides by name, the left one is given first.
  const [otherBranch, row] = isNamed && sidesOf(a) < 0 ? [b, a] : [a, b];
  const ways = [otherBranch, row].map(({ top, tip }) => subtract(tip, top));
  const tops = subtract(otherBranch.top, row.top);
  // Legs that begin at one place stand apart farther down.
  const across = length(tops) > 0.05 * otherBranch.length ? tops : subtract(otherBranch.tip, row.tip);
  if (length(across) < 1e-9) return null;
  const cost =
    Math.abs(Math.log(otherBranch.length / row.length)) +
    (otherBranch.bones.length === row.bones.length ? spansApart(shape, otherBranch, row) : 0.3) +
    (shape.parents[otherBranch.bones[0]] === shape.parents[row.bones[0]] ? 0 : 0.3);
  if (cost > UNLIKE) return null;
  return {
    a: otherBranch,
    b: row,
    across: unit(across),
    top: middleOf(otherBranch.top, row.top),
    way: plus(ways[0], ways[1]),
    cost,
  };
}

/** How far the bones of two chains of as many differ in length, as a share of the whole. */
function spansApart({ span }: SkeletonShape, a: Branch, b: Branch): number {
  let sum = 0;
  for (let k = 1; k < a.bones.length; k++) sum += Math.abs(span[a.bones[k]] - span[b.bones[k]]);
  return sum / Math.max(a.length, b.length);
}

/** Two pairs of legs and how little they look like those of a beast. */
interface Stand {
  readonly p: Twins;
  readonly q: Twins;
  readonly across: Vec3;
  readonly along: Vec3;
  readonly down: Vec3;
  readonly cost: number;
}

/** Beyond this two pairs of limbs carry no beast. */
const NO_STAND = 1.1;

function standOf(shape: SkeletonShape, twins: Twins, otherTwins: Twins): Stand | null {
  const used = [twins.a, twins.b, otherTwins.a, otherTwins.b];
  if (new Set(used).size < 4) return null;
  const legs = Math.max(twins.a.length, otherTwins.a.length);
  if (Math.min(twins.a.length, otherTwins.a.length) < 0.4 * legs) return null;
  const sign = dot(twins.across, otherTwins.across) < 0 ? -1 : 1;
  const across = unit(plus(twins.across, otherTwins.across, sign));
  if (length(across) === 0) return null;
  const between = subtract(otherTwins.top, twins.top);
  if (length(between) < 0.12 * legs) return null;
  const along = unit(squareTo(between, across));
  const down = unit(squareTo(squareTo(plus(unit(twins.way), unit(otherTwins.way)), across), along));
  if (length(down) === 0 || length(along) === 0) return null;
  const reaches = [twins, otherTwins].map(({ way }) => unit(squareTo(way, across)));
  // Both reach down, square to the trunk, to one ground.
  const steep = reaches.map((reach) => 1 - dot(reach, down));
  const ground =
    Math.abs(
      dot(subtract(middleOf(twins.a.tip, twins.b.tip), middleOf(otherTwins.a.tip, otherTwins.b.tip)), down),
    ) / legs;
  const turned = 1 - Math.abs(dot(twins.across, otherTwins.across));
  const slant = Math.abs(dot(unit(between), across));
  const middle = middleOf(twins.top, otherTwins.top);
  const inLegs = new Set(used.flatMap((branch) => branch.bones));
  let off = 0;
  let others = 0;
  shape.places.forEach((place, i) => {
    if (inLegs.has(i)) return;
    off += Math.min(1, Math.abs(dot(subtract(place, middle), across)) / legs);
    others++;
  });
  const cost =
    twins.cost +
    otherTwins.cost +
    1.5 * (steep[0] + steep[1]) +
    Math.max(0, ground - 0.15) +
    turned +
    slant +
    3 * (others > 0 ? off / others : 0);
  return cost < NO_STAND ? { p: twins, q: otherTwins, across, along, down, cost } : null;
}

const known = new WeakMap<Skeleton, FourLegs | null>();

/** The four legs of a skeleton; null where it does not stand on four. */
export function fourLegsOf(skeleton: Skeleton): FourLegs | null {
  let found = known.get(skeleton);
  if (found === undefined) known.set(skeleton, (found = find(skeleton)));
  return found;
}

function find(skeleton: Skeleton): FourLegs | null {
  const { shape, hasNamedSides } = skeletonReading(skeleton);
  const branches = branchesOf(shape);
  if (branches.length < 4 || branches.length > MOST_BRANCHES) return null;
  const twins = branches.flatMap((branch, i) =>
    branches.slice(i + 1).flatMap((otherBranch) => {
      const pair = twinsOf(skeleton, branch, otherBranch);
      return pair ? [pair] : [];
    }),
  );
  let best: Stand | null = null;
  for (let i = 0; i < twins.length; i++)
    for (let j = i + 1; j < twins.length; j++) {
      const stand = standOf(shape, twins[i], twins[j]);
      if (stand && (!best || stand.cost < best.cost)) best = stand;
    }
  if (!best) return null;
  const vote = endsVote(skeleton, best);
  const [hind, front] = vote >= 0 ? [best.p, best.q] : [best.q, best.p];
  const forward = vote >= 0 ? best.along : plus([0, 0, 0], best.along, -1);
  const up = plus([0, 0, 0], best.down, -1);
  const left = unit(cross(up, forward));
  // Names say which side is which where they do; else it follows from where the beast looks.
  const ordered = ({ a, b }: Twins): LegPair =>
    hasNamedSides || dot(subtract(middleOf(a.top, a.tip), middleOf(b.top, b.tip)), left) >= 0
      ? { left: a.bones, right: b.bones }
      : { left: b.bones, right: a.bones };
  return {
    front: ordered(front),
    hind: ordered(hind),
    forward,
    up,
    left,
    sure: sureOf(skeleton, Math.abs(vote)),
    vote: Math.abs(vote),
    doubt: best.cost,
    isNamed: callsFourLegs(skeleton, best),
  };
}

/**
 * How sure shape alone makes of which end is the front: of such beasts of the bench’s first draw with the least vote, and
 * with a clear one.
 */
const BY_SHAPE = { least: 0.82, most: 0.88 };

/** How sure a vote makes of which end is the front. */
function sureOf(skeleton: Skeleton, vote: number): number {
  if (saysEnds(skeleton)) return 1 / (1 + Math.exp(-vote));
  return BY_SHAPE.least + (BY_SHAPE.most - BY_SHAPE.least) * Math.min(1, vote);
}

/** Whether any name could tell the front from the back. */
const saysEnds = (skeleton: Skeleton): boolean =>
  skeletonReading(skeleton).readings.some((reading) => reading.part !== '' && reading.part !== 'root');

/** The same legs of a beast that looks the other way. */
export function turnedRound(
  { front, hind, forward, left, ...rest }: FourLegs,
  hasNamedSides: boolean,
): FourLegs {
  const mirror = ({ left, right }: LegPair): LegPair =>
    hasNamedSides ? { left, right } : { left: right, right: left };
  return {
    ...rest,
    front: mirror(hind),
    hind: mirror(front),
    forward: plus([0, 0, 0], forward, -1),
    left: plus([0, 0, 0], left, -1),
  };
}

const ARMS = new Set(['collar', 'upperarm', 'lowerarm', 'hand', 'thumb', 'index', 'long', 'ring', 'little']);
const LEGS = new Set(['upperleg', 'lowerleg', 'foot', 'toe', 'pelvis']);
const OF_HEAD = new Set(['head', 'neck', 'jaw', 'eye', 'ear']);

/** Letters for the two ends of a beast. */
const END_LETTERS: readonly (readonly [string, string])[] = [
  ['f', 'b'],
  ['f', 'h'],
  ['f', 'r'],
  ['fr', 'bk'],
  ['fr', 'rr'],
  ['v', 'h'],
];

/** Whether the names of both pairs are those of legs, or say which is the front one. */
function callsFourLegs(skeleton: Skeleton, stand: Stand): boolean {
  const { readings } = skeletonReading(skeleton);
  const areLegs = [stand.p, stand.q].every((pair) =>
    bonesOfPair(pair).some((i) => LEGS.has(readings[i].part)),
  );
  return areLegs || Math.abs(endWordsVote(skeleton, stand)) > 2;
}

/** How much speaks for the second pair being the front one: above 0 it is, below 0 the first is. */
function endsVote(skeleton: Skeleton, stand: Stand): number {
  return wordsVote(skeleton, stand) + headVote(skeleton, stand) + bendVote(skeleton, stand);
}

const bonesOfPair = ({ a, b }: Twins) => [...a.bones, ...b.bones];

function wordsVote(skeleton: Skeleton, stand: Stand): number {
  const { readings } = skeletonReading(skeleton);
  const armShare = (pair: Twins) => {
    const bones = bonesOfPair(pair);
    const arms = bones.filter((i) => ARMS.has(readings[i].part)).length;
    const legs = bones.filter((i) => LEGS.has(readings[i].part)).length;
    return arms + legs > 0 ? arms / (arms + legs) : 0.5;
  };
  return 4 * (armShare(stand.q) - armShare(stand.p)) + endWordsVote(skeleton, stand);
}

/** What words for front and hind say of the second pair being the front one. */
function endWordsVote(skeleton: Skeleton, { p: twins, q: otherTwins }: Stand): number {
  const [mine, theirs] = [twins, otherTwins].map((pair) =>
    bonesOfPair(pair).map((i) => wordsOf(skeleton.bones[i].name)),
  );
  const share = (lists: readonly (readonly string[])[], is: (word: string) => boolean) =>
    lists.filter((list) => list.some(is)).length / lists.length;
  const says = (stems: readonly string[]) => (word: string) =>
    stems.some(
      (stem) => word === stem || (!MEANINGS.has(word) && (word.startsWith(stem) || word.endsWith(stem))),
    );
  const told = (lists: readonly (readonly string[])[]) =>
    share(lists, says(FRONT_WORDS)) - share(lists, says(HIND_WORDS));
  let vote = 3 * (told(theirs) - told(mine));
  for (const [ahead, behind] of END_LETTERS) {
    const toldBy = (lists: readonly (readonly string[])[]) =>
      share(lists, (word) => word === ahead) - share(lists, (word) => word === behind);
    const difference = toldBy(theirs) - toldBy(mine);
    // A letter of a side stands on one side alone.
    if (Math.abs(difference) > 1.2) vote += 3 * Math.sign(difference);
  }
  return vote;
}

/** What head and tail say: by name where they have one; else the head has ears or a jaw, and is held higher. */
function headVote(skeleton: Skeleton, { p: twins, q: otherTwins, along, down, across }: Stand): number {
  const { readings, shape } = skeletonReading(skeleton);
  const { places, children, twin, beside } = shape;
  const inLegs = new Set([...bonesOfPair(twins), ...bonesOfPair(otherTwins)]);
  const start = middleOf(twins.top, otherTwins.top);
  const half = Math.max(1e-9, 0.5 * Math.abs(dot(subtract(otherTwins.top, twins.top), along)));
  const at = (i: number) => dot(subtract(places[i], start), along) / half;
  let named = 0;
  let forks = 0;
  const ends = [-1, -1];
  places.forEach((_, i) => {
    if (inLegs.has(i)) return;
    const where = at(i);
    const { part } = readings[i];
    if (OF_HEAD.has(part)) named += Math.sign(where);
    if (part === 'tail') named -= Math.sign(where);
    if (Math.abs(where) < 1) return;
    // Ears, eyes and horns stand in pairs; a jaw and a skull part ways.
    const isBeside = Math.abs(dot(subtract(places[i], start), across)) > 0.05 * half && twin[i] >= 0;
    if (children[i].filter((child) => beside[child] === 0).length > 1 || isBeside) forks += Math.sign(where);
    const end = where > 0 ? 1 : 0;
    if (ends[end] < 0 || Math.abs(where) > Math.abs(at(ends[end]))) ends[end] = i;
  });
  let vote = 4 * Math.max(-1, Math.min(1, named / 2)) + 2 * Math.max(-1, Math.min(1, forks / 2));
  const height = (i: number) => -dot(subtract(places[i], start), down) / half;
  if (ends[0] >= 0 && ends[1] >= 0) vote += Math.max(-1, Math.min(1, height(ends[1]) - height(ends[0])));
  else if (ends[0] >= 0 || ends[1] >= 0) vote += ends[1] >= 0 ? 0.7 : -0.7;
  return vote;
}

/** How far ahead the joints of legs lie by their height, of a leg's length: elbows behind, stifles before, hocks behind, toes before. */
const FRONT_BENDS: readonly (readonly [height: number, ahead: number])[] = [
  [0, 0.08],
  [0.1, 0.02],
  [0.3, 0],
  [0.6, -0.08],
  [0.8, 0.1],
  [1, 0],
];
const HIND_BENDS: readonly (readonly [height: number, ahead: number])[] = [
  [0, 0.03],
  [0.1, -0.06],
  [0.33, -0.13],
  [0.65, 0.13],
  [1, 0],
];

/** What the way that legs bend says of where ahead is. */
function bendVote(skeleton: Skeleton, { p: twins, q: otherTwins, along, down }: Stand): number {
  const { places } = skeletonReading(skeleton).shape;
  const like = ({ a, b }: Twins, bends: typeof FRONT_BENDS, sign: number) =>
    [a, b].reduce((sum, branch) => sum + likeness(places, branch, bends, along, down, sign), 0);
  const asIs = like(twins, HIND_BENDS, 1) + like(otherTwins, FRONT_BENDS, 1);
  const turned = like(otherTwins, HIND_BENDS, -1) + like(twins, FRONT_BENDS, -1);
  const toes = [twins, otherTwins].reduce((sum, pair) => sum + toesAhead(places, pair, along, down), 0);
  return Math.max(-2, Math.min(2, asIs - turned)) + toes;
}

/** Whether the feet of a pair reach ahead along a direction, −0.5 … 0.5: the last bone of a leg that goes on near the ground. */
function toesAhead(places: readonly Vec3[], { a, b }: Twins, along: Vec3, down: Vec3): number {
  let sum = 0;
  for (const { bones, top, tip } of [a, b]) {
    const tall = Math.max(1e-9, dot(subtract(tip, top), down));
    const low = bones.findIndex((i) => dot(subtract(places[i], top), down) > (1 - LOW) * tall);
    const ankle = bones[Math.min(low, bones.length - 2)];
    const ahead = dot(subtract(tip, places[ankle]), along) / tall;
    sum += Math.max(-0.25, Math.min(0.25, 2 * ahead));
  }
  return sum;
}

/** Ankles and wrists stand lower than this share of a leg. */
const LOW = 0.3;

/** How alike a leg's joints lie to those of a kind of leg, −1 … 1: both as they lie off the line from top to tip. */
function likeness(
  places: readonly Vec3[],
  { bones, top, tip }: Branch,
  bends: typeof FRONT_BENDS,
  along: Vec3,
  down: Vec3,
  sign: number,
): number {
  const tall = Math.max(1e-9, dot(subtract(tip, top), down));
  const lean = dot(subtract(tip, top), along) * sign;
  let [both, mine, theirs] = [0, 0, 0];
  for (const bone of bones) {
    const share = 1 - dot(subtract(places[bone], top), down) / tall;
    const ahead = (dot(subtract(places[bone], top), along) * sign - lean * (1 - share)) / tall;
    const wanted = bentAt(bends, share) - (bentAt(bends, 0) * (1 - share) + bentAt(bends, 1) * share);
    both += ahead * wanted;
    mine += ahead * ahead;
    theirs += wanted * wanted;
  }
  // A leg that is as good as straight says nothing.
  return mine < 1e-4 ? 0 : both / Math.sqrt(mine * theirs + 1e-12);
}

function bentAt(bends: typeof FRONT_BENDS, height: number): number {
  const k = bends.findIndex(([from]) => from >= height);
  if (k < 0) return bends[bends.length - 1][1];
  if (k === 0) return bends[0][1];
  const [[h0, a0], [h1, a1]] = [bends[k - 1], bends[k]];
  return a0 + ((a1 - a0) * (height - h0)) / (h1 - h0);
}

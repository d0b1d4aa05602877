/**
 * What the tree and the lengths of a skeleton say of its bones, and nothing that a turned joint, another unit,
 * another facing or another up axis would change: ways, twins, what stands in a fan, twists beside a limb.
 */
import { distance, dot, length, normalise, subtract, type Vec3 } from '../geometry/matrix';
import { assignAll } from '../geometry/assign';
import type { Skeleton } from './skeleton';

/** A skeleton's shape, by bone. Lengths in the skeleton's own unit. */
export interface SkeletonShape {
  readonly count: number;
  readonly places: readonly Vec3[];
  readonly parents: Int32Array;
  readonly children: readonly (readonly number[])[];
  /** From the parent. */
  readonly span: Float64Array;
  /** The longest way on to a tip. */
  readonly below: Float64Array;
  /** Bones at and under it, and tips under it. */
  readonly size: Int32Array;
  readonly leaves: Int32Array;
  /** The first fork of the body, from which ways are counted; those above it have ways below 0. */
  readonly core: number;
  readonly way: Float64Array;
  /** 1 and −1 on the two sides, 0 in the middle; which is left is not said here. */
  readonly side: Int8Array;
  /** The bone on the other side; −1 for none. */
  readonly twin: Int32Array;
  /** Where the side begins: the topmost bone of the limb; the bone itself in the middle. */
  readonly limb: Int32Array;
  /** Way from the last fork, and place and number in a fan of chains side by side (fingers); −1 for none. */
  readonly local: Float64Array;
  readonly fan: Int8Array;
  readonly fans: Int8Array;
  /** In a fan, the way from its fork as a share of the way to its knuckles; 0 elsewhere. */
  readonly share: Float64Array;
  /** A tip with nothing beyond it, where the skeleton has such on its chains. */
  readonly tip: Uint8Array;
  /** A bone without bones below that lies along its limb. */
  readonly beside: Uint8Array;
  /** The longest way from the core to a tip. */
  readonly reach: number;
}

/** How unlike two chains are: 0 for the same, beyond {@link ALIKE} no pair. */
const ALIKE = 0.42;

const apart = (a: number, b: number, least: number) => Math.abs(a - b) / Math.max(a, b, least);

/** The shape of a skeleton; `parents` where its tree is not the one to go by. */
export function shapeOf(skeleton: Skeleton, parents: Int32Array = parentsOf(skeleton)): SkeletonShape {
  const count = skeleton.bones.length;
  const places = skeleton.bones.map((bone) => bone.place as Vec3);
  const children: number[][] = Array.from({ length: count }, () => []);
  parents.forEach((parent, i) => {
    if (parent >= 0) children[parent].push(i);
  });
  const order = orderOf(parents, children);
  const span = Float64Array.from(parents, (parent, i) =>
    parent < 0 ? 0 : distance(places[i], places[parent]),
  );
  const below = new Float64Array(count);
  const size = new Int32Array(count).fill(1);
  const leaves = new Int32Array(count);
  for (const i of [...order].reverse()) {
    if (children[i].length === 0) leaves[i] = 1;
    for (const child of children[i]) {
      below[i] = Math.max(below[i], below[child] + span[child]);
      size[i] += size[child];
      leaves[i] += leaves[child];
    }
  }
  const core = coreOf(order, children, below, span, size);
  const way = waysFrom(core, order, parents, span);
  const reach = Math.max(below[core] ?? 0, 1e-9);
  const bare = { count, places, parents, children, span, below, size, leaves, core, way, reach };
  const beside = besides(bare);
  const fans = fansOf(bare, order, beside);
  return { ...bare, beside, ...sidesOf(bare, order, beside), ...fans, tip: tipsOf(bare, beside, fans) };
}

const parentsOf = (skeleton: Skeleton) => Int32Array.from(skeleton.bones, (bone) => bone.parent);

type Bare = Pick<
  SkeletonShape,
  | 'count'
  | 'places'
  | 'parents'
  | 'children'
  | 'span'
  | 'below'
  | 'size'
  | 'leaves'
  | 'core'
  | 'way'
  | 'reach'
>;

/** All bones, parents before children. */
export const topDownOf = ({ parents, children }: Pick<SkeletonShape, 'parents' | 'children'>): number[] =>
  orderOf(parents, children);

/** A bone and the longest way on from it to a tip. */
export function longestWay(
  { children, below, span }: Pick<SkeletonShape, 'children' | 'below' | 'span'>,
  from: number,
): number[] {
  const out = [from];
  for (let at = from; children[at].length > 0; out.push(at))
    at = children[at].reduce((a, b) => (below[b] + span[b] > below[a] + span[a] ? b : a));
  return out;
}

/** A bone and all that hangs under it. */
export function atAndUnder({ children }: Pick<SkeletonShape, 'children'>, bone: number): number[] {
  const out = [bone];
  for (let k = 0; k < out.length; k++) out.push(...children[out[k]]);
  return out;
}

/** Parents before children. */
function orderOf(parents: Int32Array, children: readonly (readonly number[])[]): number[] {
  const order: number[] = [];
  parents.forEach((parent, i) => {
    if (parent < 0) order.push(i);
  });
  for (let k = 0; k < order.length; k++) order.push(...children[order[k]]);
  return order;
}

/** The first bone on the way down from the largest root under which more than one long chain begins. */
function coreOf(
  order: readonly number[],
  children: readonly (readonly number[])[],
  below: Float64Array,
  span: Float64Array,
  size: Int32Array,
): number {
  if (order.length === 0) return -1;

  let at = order.reduce((a, b) => (size[b] > size[a] ? b : a), order[0]);
  const whole = below[at];
  for (;;) {
    const long = children[at].filter((child) => below[child] + span[child] > 0.15 * whole && size[child] > 1);
    if (long.length !== 1) return at;
    at = long[0];
  }
}

function waysFrom(
  core: number,
  order: readonly number[],
  parents: Int32Array,
  span: Float64Array,
): Float64Array {
  const way = new Float64Array(parents.length);
  for (const i of order) way[i] = parents[i] < 0 ? 0 : way[parents[i]] + span[i];
  const zero = core < 0 ? 0 : way[core];
  return way.map((length) => length - zero);
}

/** Bones without bones below that lie on the line from their parent to a longer bone beside them. */
function besides({ count, places, parents, children, span }: Bare): Uint8Array {
  const out = new Uint8Array(count);
  for (let i = 0; i < count; i++) {
    const parent = parents[i];
    if (parent < 0 || children[i].length > 0 || children[parent].length > MOST_SIBLINGS) continue;
    for (const child of children[parent]) {
      if (child === i || span[child] <= 0 || (children[child].length === 0 && span[child] <= span[i]))
        continue;
      const way = subtract(places[child], places[parent]);
      const to = subtract(places[i], places[parent]);
      const t = dot(way, to) / (span[child] * span[child]);
      const off = Math.sqrt(Math.max(0, span[i] ** 2 - (t * span[child]) ** 2));
      if (t > 0.12 && t < 0.97 && off < 0.12 * span[child]) out[i] = 1;
    }
  }
  return out;
}

/** More chains than this that begin at one bone cannot be told apart by what they are like. */
const MOST_SIBLINGS = 100;

/** How unlike the chains that begin at two bones are. */
function unlike({ span, below, size, leaves, reach }: Bare, a: number, b: number): number {
  const least = 0.06 * reach;
  return (
    0.6 * apart(span[a], span[b], least) +
    1.2 * apart(below[a], below[b], least) +
    0.12 * Math.abs(Math.log2(size[a] / size[b])) +
    0.15 * Math.abs(Math.log2(leaves[a] / leaves[b]))
  );
}

interface Pair {
  readonly a: number;
  readonly b: number;
  readonly cost: number;
  /** From b to a where the two stand farthest from each other at their beginning. */
  readonly across: Vec3;
}

/** Twins, from the top down: two chains alike that begin at one bone of the middle, one on each side. */
function sidesOf(
  bare: Bare,
  order: readonly number[],
  beside: Uint8Array,
): Pick<SkeletonShape, 'side' | 'twin' | 'limb'> {
  const { count, children, below, span, places } = bare;
  const side = new Int8Array(count);
  const twin = new Int32Array(count).fill(-1);
  const limb = Int32Array.from({ length: count }, (_, i) => i);
  const found: Pair[] = [];
  const isMiddle = new Uint8Array(count).fill(1);
  const acrossOf = (a: number, b: number): Vec3 => {
    const first = subtract(places[a], places[b]);
    if (length(first) > 0.12 * Math.max(below[a], below[b], 1e-9)) return first;
    const [x, y] = [a, b].map((i) =>
      children[i].reduce((most, child) => (most < 0 || below[child] > below[most] ? child : most), -1),
    );
    return x < 0 || y < 0 ? first : subtract(places[x], places[y]);
  };
  const candidates = (p: number): Pair[] => {
    const list = children[p].filter((child) => !beside[child]);
    const out: Pair[] = [];
    if (list.length > MOST_SIBLINGS) return out;
    for (let i = 0; i < list.length; i++)
      for (let j = i + 1; j < list.length; j++) {
        const cost = unlike(bare, list[i], list[j]);
        if (cost < ALIKE) out.push({ a: list[i], b: list[j], cost, across: acrossOf(list[i], list[j]) });
      }
    return out;
  };
  // First those that leave no doubt: of two alike there are just two. They say which way across is.
  const across: [number, number, number] = [0, 0, 0];
  const strong = order
    .flatMap((p) => {
      const list = candidates(p);
      const seen = new Map<number, number>();
      for (const { a, b } of list) for (const c of [a, b]) seen.set(c, (seen.get(c) ?? 0) + 1);
      return list.filter(
        ({ a, b }) => seen.get(a) === 1 && seen.get(b) === 1 && below[a] + span[a] > 0.2 * bare.reach,
      );
    })
    .sort((x, y) => below[y.a] - below[x.a]);
  for (const { across: vector } of strong) {
    const sign = dot(across, vector) < 0 ? -1 : 1;
    for (let k = 0; k < 3; k++) across[k] += sign * vector[k];
  }
  const isKnown = length(across) > 1e-9;
  const normal: Vec3 = isKnown ? normalise(across) : [1, 0, 0];
  const take = ({ a, b, cost, across }: Pair) => {
    const [left, right] = dot(across, normal) >= 0 ? [a, b] : [b, a];
    found.push({ a: left, b: right, cost, across });
  };
  if (isKnown)
    for (const p of order) {
      if (!isMiddle[p]) {
        for (const child of children[p]) isMiddle[child] = 0;
        continue;
      }
      const taken = new Set<number>();
      const list = candidates(p)
        .map((pair) => ({
          c: pair,
          off: pair.cost + 0.6 * (1 - Math.abs(dot(normaliseOr(pair.across), normal))),
        }))
        .sort((x, y) => x.off - y.off);
      for (const { c: pair, off } of list) {
        if (off > 0.6 || taken.has(pair.a) || taken.has(pair.b)) continue;
        taken.add(pair.a).add(pair.b);
        isMiddle[pair.a] = 0;
        isMiddle[pair.b] = 0;
        take(pair);
      }
    }
  for (const { a, b } of found) {
    spread(children, a, 1, side, limb);
    spread(children, b, -1, side, limb);
    pairTwins(bare, a, b, twin);
  }
  return { side, twin, limb };
}

const normaliseOr = (vector: Vec3): Vec3 => (length(vector) > 1e-12 ? normalise(vector) : [0, 0, 0]);

function spread(
  children: readonly (readonly number[])[],
  top: number,
  sign: 1 | -1,
  side: Int8Array,
  limb: Int32Array,
): void {
  const stack = [top];
  while (stack.length > 0) {
    const i = stack.pop() as number;
    side[i] = sign;
    limb[i] = top;
    stack.push(...children[i]);
  }
}

/** Twins below two twins: their children paired so that the chains are as alike as can be. */
function pairTwins(bare: Bare, a: number, b: number, twin: Int32Array): void {
  twin[a] = b;
  twin[b] = a;
  const [x, y] = [bare.children[a], bare.children[b]];
  if (x.length === 0 || y.length === 0 || x.length * y.length > MOST_SIBLINGS ** 2) return;
  const gain = x.map((bone) => y.map((d) => 1 - unlike(bare, bone, d)));
  for (const [i, j] of assignAll(gain)) pairTwins(bare, x[i], y[j], twin);
}

/** Chains side by side under one bone, as fingers are: which of how many, counted from the one that stands apart. */
function fansOf(
  bare: Bare,
  order: readonly number[],
  beside: Uint8Array,
): Pick<SkeletonShape, 'local' | 'fan' | 'fans' | 'share'> {
  const { count, children, span, below, reach, parents } = bare;
  const local = new Float64Array(count);
  const fan = new Int8Array(count).fill(-1);
  const fans = new Int8Array(count).fill(-1);
  const share = new Float64Array(count);
  const knuckles = new Map<number, number>();
  for (const parent of order) {
    const real = children[parent].filter((child) => !beside[child]);
    const forks = real.filter((bone) => below[bone] + span[bone] > 0.02 * reach).length > 1;
    for (const child of children[parent]) {
      local[child] = (forks || parents[parent] < 0 ? 0 : local[parent]) + span[child];
      fan[child] = fan[parent];
      fans[child] = fans[parent];
    }
    const row = fanUnder(bare, parent, real);
    row.forEach((bone, k) => {
      fan[bone] = k;
      fans[bone] = row.length;
    });
    const knuckle = knuckleOf(bare, row);
    for (const c of row) knuckles.set(c, knuckle);
  }
  for (const i of order) {
    if (fan[i] < 0) continue;
    const knuckle = knuckles.get(i) ?? knuckles.get(parents[i]) ?? 0;
    knuckles.set(i, knuckle);
    if (knuckle > 0) share[i] = local[i] / knuckle;
  }
  return { local, fan, fans, share };
}

/**
 * The way from a fan's fork to its knuckles, over all chains but the one apart: to their first joints, or to their
 * second where the first lie near the fork, as metacarpals do.
 */
function knuckleOf({ children, span }: Bare, row: readonly number[]): number {
  const chains = row.slice(1).filter((child) => children[child].length > 0);
  if (chains.length === 0) return 0;
  const first = chains.reduce((sum, chain) => sum + span[chain], 0) / chains.length;
  const second =
    chains.reduce((sum, chain) => sum + span[chain] + span[children[chain][0]], 0) / chains.length;
  return first > 0.52 * second ? first : second;
}

/**
 * Tips: a finger has three joints beyond the palm. Where most chains of a skeleton’s fans have a fourth beyond their
 * knuckle, the last bone of every chain is taken for a tip, in the fans and elsewhere.
 */
function tipsOf(
  { count, children, parents, span }: Bare,
  beside: Uint8Array,
  { fan, share }: Pick<SkeletonShape, 'fan' | 'share'>,
): Uint8Array {
  const out = new Uint8Array(count);
  let long = 0;
  let all = 0;
  for (let i = 0; i < count; i++) {
    if (fan[i] < 1 || children[i].length > 0) continue;
    let joints = 0;
    for (let parent = i; parent >= 0 && fan[parent] === fan[i]; parent = parents[parent])
      if (share[parent] > 0.75) joints++;
    all++;
    if (joints > 3) long++;
  }
  if (all < 2 || long < 0.6 * all) return out;
  for (let i = 0; i < count; i++)
    if (children[i].length === 0 && !beside[i] && parents[i] >= 0 && span[i] > 0) out[i] = 1;
  return out;
}

/** The chains of a fan under a bone, in order from the one that stands apart (a thumb); empty where there is none. */
function fanUnder({ children, places, below, span }: Bare, place: number, real: readonly number[]): number[] {
  const reaches = real.map((bone) => below[bone] + span[bone]);
  const most = Math.max(0, ...reaches);
  const chains = real.filter((_, k) => reaches[k] > 0.45 * most && children[real[k]].length <= 1);
  if (chains.length < 3 || chains.length > 6) return [];
  // Where a chain begins to be itself: its second joint, since metacarpals begin together.
  const tips = chains.map((chain) => tipOf(children, chain));
  const knuckles = chains.map((chain) =>
    children[chain].length > 0 ? places[children[chain][0]] : places[chain],
  );
  const bases = chains.map((chain, k) => mean([places[chain], knuckles[k]]));
  const from = places[place];
  const ahead = normaliseOr(subtract(mean(bases), from));
  if (length(ahead) === 0) return [];
  // A fan lies to one side of where it hangs.
  if (bases.some((base) => dot(normaliseOr(subtract(base, from)), ahead) < 0.2)) return [];
  const apartness = chains.map((_, k) => {
    const others = chains.flatMap((__, j) => (j === k ? [] : [bases[j]]));
    const near = Math.min(...others.map((other) => distance(other, bases[k])));
    const low =
      1 - dot(subtract(bases[k], from), ahead) / Math.max(1e-9, dot(subtract(mean(others), from), ahead));
    const gap = near / Math.max(1e-9, distance(mean(others), from));
    const way = normaliseOr(subtract(places[tips[k]], places[chains[k]]));
    const ways = chains.flatMap((chain, j) =>
      j === k ? [] : [normaliseOr(subtract(places[tips[j]], places[chain]))],
    );
    return 1.6 * low + gap + 0.8 * (1 - dot(way, normaliseOr(mean(ways))));
  });
  const first = apartness.indexOf(Math.max(...apartness));
  // The others lie in a row: along the line on which they are spread most, from the one that stands apart on.
  const rest = chains.map((_, k) => k).filter((k) => k !== first);
  const line = spreadOf(
    rest.map((k) => bases[k]),
    ahead,
  );
  const toFirst = dot(subtract(bases[first], mean(rest.map((k) => bases[k]))), line);
  const sign = toFirst <= 0 ? 1 : -1;
  const along = (k: number) => sign * dot(bases[k], line);
  return [first, ...rest.sort((a, b) => along(a) - along(b))].map((k) => chains[k]);
}

function tipOf(children: readonly (readonly number[])[], top: number): number {
  let at = top;
  while (children[at].length > 0) at = children[at][0];
  return at;
}

function mean(points: readonly Vec3[]): Vec3 {
  const out: [number, number, number] = [0, 0, 0];
  for (const point of points) for (let k = 0; k < 3; k++) out[k] += point[k] / points.length;
  return out;
}

/** The direction square to `ahead` along which points are spread most (power iteration on their covariance). */
function spreadOf(points: readonly Vec3[], ahead: Vec3): Vec3 {
  const middle = mean(points);
  const flat = points.map((point): Vec3 => {
    const vector = subtract(point, middle);
    const t = dot(vector, ahead);
    return [vector[0] - t * ahead[0], vector[1] - t * ahead[1], vector[2] - t * ahead[2]];
  });
  let line = normaliseOr(flat.reduce((a, b) => (length(b) > length(a) ? b : a)));
  for (let node = 0; node < 12; node++) {
    const next: [number, number, number] = [0, 0, 0];
    for (const vector of flat) for (let k = 0; k < 3; k++) next[k] += dot(vector, line) * vector[k];
    if (length(next) > 1e-15) line = normalise(next);
  }
  return line;
}

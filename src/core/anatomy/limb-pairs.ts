/**
 * The pairs of limbs of a skeleton, whatever it is: where they begin on the trunk, how far they reach and which
 * way. Told from the tree and from sides, not from a stance or an axis of the world.
 */
import { type Vec3, distance, dot, length, normalise, subtract } from '../geometry/matrix';
import { looksOf } from './looks';
import { longestWay } from './shape';
import type { Skeleton } from './skeleton';
import { twinOf } from './twins';

/** What the names along a limb say that it is; '' where they do not. */
export type LimbWord = 'leg' | 'arm' | 'wing' | 'fin' | 'other' | '';

/** A limb and its twin. Bones by their index in the skeleton, from the trunk out to the farthest tip. */
export interface LimbPair {
  readonly left: readonly number[];
  readonly right: readonly number[];
  /** Middle between the two first joints, and between the two tips. */
  readonly attach: Vec3;
  readonly tip: Vec3;
  /** From the first joint to the tip as the crow flies, the mean of both, in the skeleton's unit. */
  readonly reach: number;
  /** The same as a share of the way along the bones: 1 for a limb that is straight. */
  readonly straightness: number;
  /** The same directions as unit vectors, left and right. */
  readonly ways: readonly [Vec3, Vec3];
  /** From the right first joint, or tip, to the left one. */
  readonly across: Vec3;
  readonly says: LimbWord;
  /** Whether chains side by side (fingers) end it. */
  readonly hasFingers: boolean;
}

const LEG_PARTS = new Set(['upperleg', 'lowerleg', 'foot', 'toe', 'stub']);
const ARM_PARTS = new Set([
  'collar',
  'upperarm',
  'lowerarm',
  'hand',
  'thumb',
  'index',
  'long',
  'ring',
  'little',
]);
const NO_LIMB = new Set(['ear', 'eye', 'jaw']);
const FIN_WORDS = /^(fin|fins|flipper|flippers|fluke|flukes|pectoral|pelvicfin|dorsal|caudal)$/;

/** Limbs shorter than this share of the longest are ears, horns and the like. */
const SHORTEST = 0.3;

/** Every pair of limbs whose first bones hang on the middle of the body, the longest first. */
export function limbPairsOf(skeleton: Skeleton): LimbPair[] {
  const { readings, shape, side } = looksOf(skeleton);
  const out: LimbPair[] = [];
  const isTop = (i: number) => {
    const parent = shape.parents[i];
    return side[i] !== 0 && (parent < 0 || side[parent] === 0);
  };
  skeleton.bones.forEach((_, i) => {
    if (side[i] <= 0 || !isTop(i)) return;
    const twin = twinOf(skeleton, i) >= 0 ? twinOf(skeleton, i) : shape.twin[i];
    if (twin < 0 || !isTop(twin) || readings[i].kind === 'control') return;
    const pair = pairOf(skeleton, longestWay(shape, i), longestWay(shape, twin));
    if (pair) out.push(pair);
  });
  const longest = Math.max(0, ...out.map((pair) => pair.reach));
  return out
    .filter((pair) => pair.says !== 'other' && pair.reach >= SHORTEST * longest)
    .sort((a, b) => b.reach - a.reach);
}

/** A pair of limbs by their bones, from the trunk out; null where one of them ends where it begins. */
export function pairOf(
  skeleton: Skeleton,
  left: readonly number[],
  right: readonly number[],
): LimbPair | null {
  const { shape } = looksOf(skeleton);
  const at = (bones: readonly number[], k: number) => shape.places[bones.at(k) as number];
  const ways = [left, right].map((bones) => subtract(at(bones, -1), at(bones, 0)));
  const reach = (length(ways[0]) + length(ways[1])) / 2;
  if (ways.some((way) => length(way) < 1e-9)) return null;
  const roots = subtract(at(left, 0), at(right, 0));
  const tips = subtract(at(left, -1), at(right, -1));
  return {
    left,
    right,
    attach: middle(at(left, 0), at(right, 0)),
    tip: middle(at(left, -1), at(right, -1)),
    reach,
    straightness: (2 * reach) / (wayAlong(shape.places, left) + wayAlong(shape.places, right)),
    ways: [normalise(ways[0]), normalise(ways[1])],
    across: length(roots) > 0.02 * reach ? roots : tips,
    says: wordOf(skeleton, left),
    hasFingers: [left, right].some((bones) => bones.slice(1).some((bone) => isPalm(skeleton, bone))),
  };
}

/** The way from joint to joint along a chain. */
function wayAlong(places: readonly Vec3[], bones: readonly number[]): number {
  let way = 0;
  for (let k = 1; k < bones.length; k++) way += distance(places[bones[k - 1]], places[bones[k]]);
  return way;
}

/** Chains side by side that make a palm of the bone that they hang on. */
const FINGERS = 3;

/** Whether three or more chains begin at a bone of a limb. */
function isPalm(skeleton: Skeleton, bone: number): boolean {
  const { shape, readings } = looksOf(skeleton);
  return shape.children[bone].filter((child) => readings[child].kind === 'bone').length >= FINGERS;
}

/** Bones shorter than this share of the limb's reach bend nothing. */
const LONG = 0.25;

/**
 * The largest share of its direction that any long bone of a pair has along the trunk: near 1 for the shins of
 * somebody who sits upright, as for the whole legs of somebody who stands.
 */
export function mostAlong(skeleton: Skeleton, pair: LimbPair, along: Vec3): number {
  const { places } = looksOf(skeleton).shape;
  const ofChain = (bones: readonly number[]) => {
    let most = 0;
    for (let k = 1; k < bones.length; k++) {
      const bone = subtract(places[bones[k]], places[bones[k - 1]]);
      if (length(bone) < LONG * pair.reach) continue;
      most = Math.max(most, Math.abs(dot(normalise(bone), along)));
    }
    return most;
  };
  return (ofChain(pair.left) + ofChain(pair.right)) / 2;
}

/** What most names along a limb say; the words of fins are no part of the list of names. */
function wordOf(skeleton: Skeleton, bones: readonly number[]): LimbWord {
  const { readings } = looksOf(skeleton);
  const count = (is: (b: number) => boolean) => bones.filter(is).length;
  const has = (parts: ReadonlySet<string>) => count((b) => parts.has(readings[b].part));
  // “fin” is an end in other languages: it is a limb only where no other part is named.
  if (count((b) => readings[b].part === '' && readings[b].words.some((word) => FIN_WORDS.test(word))) > 0)
    return 'fin';
  if (count((b) => readings[b].part === 'wing') > 0) return 'wing';
  if (has(NO_LIMB) > 0 || readings[bones[0]].kind === 'cloth') return 'other';
  const [legs, arms] = [has(LEG_PARTS), has(ARM_PARTS)];
  if (legs + arms === 0) return '';
  return legs >= arms ? 'leg' : 'arm';
}

const middle = (a: Vec3, b: Vec3): Vec3 => [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2];

/** A frame of the trunk between two pairs of limbs: along it, across it to the left, and square to both. */
export interface TrunkFrame {
  readonly along: Vec3;
  readonly across: Vec3;
  readonly square: Vec3;
  /** From the hind pair to the fore pair. */
  readonly length: number;
}

/** How a pair reaches, as shares of its direction along the three axes of a trunk; of `across`, outward. */
export interface Reaching {
  readonly along: number;
  readonly outward: number;
  readonly square: number;
}

/** The mean of both limbs' directions in the frame of a trunk. */
export function reachingOf(pair: LimbPair, frame: TrunkFrame): Reaching {
  const [left, row] = pair.ways;
  const mean = (axis: Vec3, sign = 1) => (dot(left, axis) + sign * dot(row, axis)) / 2;
  return {
    along: mean(frame.along),
    outward: mean(frame.across, -1),
    square: mean(frame.square),
  };
}

/** How far apart two places are along a direction. */
export const alongBetween = (from: Vec3, to: Vec3, way: Vec3): number => dot(subtract(to, from), way);

/** Distance of the places where two pairs begin. */
export const trunkLength = (a: LimbPair, b: LimbPair): number => distance(a.attach, b.attach);

/** A limb by itself: a hand or an arm without a body, and which of the two it is. */
import { type Vec3, cross, dot, length, subtract } from '../geometry/matrix';
import { type BoneReading, gluedSide } from './reading/read';
import { wordsOf } from './reading/tokens';
import { MEANINGS } from './reading/words';
import { type Skeleton, withBodyOf } from './skeleton';

const FINGERS = ['thumb', 'index', 'long', 'ring', 'little'] as const;
const HAND: ReadonlySet<string> = new Set(['hand', ...FINGERS]);
const ARM: ReadonlySet<string> = new Set([...HAND, 'collar', 'upperarm', 'lowerarm']);
const LEG: ReadonlySet<string> = new Set(['upperleg', 'lowerleg', 'foot', 'toe']);

/** The smallest limb that a lone skeleton is all of. */
const LIMBS = [HAND, ARM, LEG];

/** Bones of a limb that a skeleton must have, and the share of its bones that they must be. */
const LEAST = 4;
const SHARE = 0.6;

/** Bones of one finger, at most: more of them are two hands. */
const ONE_FINGER = 5;

/**
 * The parts of the body that a skeleton is made of, where it is one limb by itself by its names; null where it is
 * more than that, or where its names do not say.
 */
export function loneLimb(readings: readonly BoneReading[]): ReadonlySet<string> | null {
  const parts = readings.flatMap((reading) =>
    reading.part && reading.part !== 'root' ? [reading.part] : [],
  );
  if (parts.length < LEAST || parts.length < SHARE * readings.length) return null;
  const sides = new Set(
    readings.map((reading) => reading.side).filter((side) => side === 'left' || side === 'right'),
  );
  if (sides.size > 1) return null;
  for (const part of new Set(parts)) {
    const most = (FINGERS as readonly string[]).includes(part) ? ONE_FINGER : 2;
    const count = readings.filter((reading) => reading.part === part && reading.kind === 'bone').length;
    if (count > most) return null;
  }
  return LIMBS.find((limb) => parts.every((part) => limb.has(part))) ?? null;
}

/** Most names of a limb by itself say its side, where they say it. */
const MOST = 0.7;

/** The side that the names of a limb by itself say, each of them the same: 1 left, −1 right, 0 none. */
export function sideInNames({ bones }: Skeleton): number {
  let [left, right] = [0, 0];
  const named = bones.map((bone) => wordsOf(bone.name));
  const glued = gluedSide(named);
  if (glued) return glued === 'l' ? 1 : -1;
  for (const words of named) {
    const says = (side: 'left' | 'right') =>
      words.some((word) => MEANINGS.get(word) === side || LETTERS[side].has(word));
    if (says('left')) left++;
    if (says('right')) right++;
  }
  if (left > MOST * bones.length && right === 0) return 1;
  return right > MOST * bones.length && left === 0 ? -1 : 0;
}

const LETTERS = { left: new Set(['l', 'lt', 'lf']), right: new Set(['r', 'rt', 'rg']) } as const;

/** The bones that are given, as a skeleton of their own; a bone hangs under the nearest of them above it. */
export function skeletonOfBones(skeleton: Skeleton, bones: readonly number[]): Skeleton {
  const at = new Map(bones.map((bone, k) => [bone, k]));
  const some: Skeleton = {
    ...skeleton,
    bones: bones.map((bone) => {
      let above = skeleton.bones[bone].parent;
      while (above >= 0 && !at.has(above)) above = skeleton.bones[above].parent;
      return { ...skeleton.bones[bone], parent: at.get(above) ?? -1 };
    }),
  };
  return withBodyOf(some, skeleton);
}

/**
 * Which hand it is, from −1 (right) to 1 (left), by how clear it is; 0 where it cannot be told. The thumb stands off
 * the plane of wrist and knuckles to the palm, and the fingers close to it. `bones`: those of the one hand.
 */
export function handOf(
  { bones: all }: Skeleton,
  readings: readonly BoneReading[],
  bones: readonly number[],
): number {
  const chain = (part: string) =>
    bones
      .filter((bone) => readings[bone].part === part && readings[bone].kind === 'bone')
      .map((bone) => all[bone].place as Vec3);
  const [wrist] = chain('hand');
  if (!wrist) return 0;
  const fingers = FINGERS.map((part) => chain(part).sort((a, b) => apart(a, wrist) - apart(b, wrist)));
  const [thumb, index, , , little] = fingers;
  if (index.length < 2 || little.length < 2) return 0;
  const normal = cross(subtract(index[1], wrist), subtract(little[1], wrist));
  const size = length(normal);
  const reach = Math.max(...index.map((point) => apart(point, wrist)));
  if (size < 1e-9 * reach * reach || reach <= 0) return 0;
  const above = (point: Vec3, from: Vec3) => dot(subtract(point, from), normal) / size / reach;
  const tip = (list: readonly Vec3[]) => list[list.length - 1];
  let sum = thumb.length > 0 ? above(tip(thumb), wrist) : 0;
  for (const finger of fingers.slice(1)) if (finger.length > 2) sum += 0.5 * above(tip(finger), finger[1]);
  return Math.max(-1, Math.min(1, -sum / CLEAR));
}

/** What is off the plane by this share of the hand leaves no doubt. */
const CLEAR = 0.3;

const apart = (a: Vec3, b: Vec3) => length(subtract(a, b));

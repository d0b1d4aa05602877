/**
 * Which kind of body a character has: by its names where they say (paws, wings, fins), by the way its limbs
 * reach from its trunk where they do not. A standing person's legs go on along the trunk, those of a beast
 * stand square to it; both in any stance, unit and axis. What nothing tells is said to be unknown.
 */
import { BODY_KIND_WORDS, type BodyKind } from '../character/body-kinds';
import type { Character } from '../character/model';
import { type Vec3, cross, dot, length, normalise, subtract } from '../geometry/matrix';
import { fourLegsOf } from './beast-limbs';
import {
  type LimbPair,
  type Reaching,
  type TrunkFrame,
  alongBetween,
  limbPairsOf,
  mostAlong,
  pairOf,
  reachingOf,
  trunkLength,
} from './limb-pairs';
import { skeletonReading } from './looks';
import { wordsOf } from './reading/tokens';
import { MEANINGS } from './reading/words';
import { type Skeleton, skeletonOf } from './skeleton';
import { TREES } from './trees';

/** What kind of body it is, how sure that is, and why. */
export interface BodyKindReading {
  readonly kind: BodyKind;
  /** 0 … 1; 1 where a person has said it. */
  readonly confidence: number;
  readonly reasons: readonly string[];
  readonly isByHand: boolean;
  /** The pairs of limbs nearest the tail and nearest the head, and the wings, where they were found. */
  readonly hind: LimbPair | null;
  readonly fore: LimbPair | null;
  readonly wings: LimbPair | null;
  /** Whether names say which of the pairs is nearer the head, and which side is which. */
  readonly isEndKnown: boolean;
  readonly hasNamedSides: boolean;
}

/** Below this the kind is not said. */
const SURE_ENOUGH = 0.6;

/** Words of bones that only bodies of one kind have. */
const WORDS: readonly (readonly [BodyKind, ReadonlySet<string>])[] = [
  [
    'four-legged',
    new Set(
      'hoof hooves paw paws hock withers croup foreleg forelegs hindleg hindlegs frontleg backleg fetlock pastern mane tusk tusks udder'.split(
        ' ',
      ),
    ),
  ],
  ['winged', new Set('wing wings feather feathers beak pinion talon talons'.split(' '))],
  ['finned', new Set('fin fins flipper flippers fluke flukes gill gills'.split(' '))],
];

const cache = new WeakMap<Character, BodyKindReading>();

/** What kind of body a character has; what a person has said of it goes before what is worked out. */
export function bodyKindOf(character: Character): BodyKindReading {
  let known = cache.get(character);
  if (!known) {
    const read = readBodyKind(skeletonOf(character), () => isOfRigidParts(character));
    known = character.bodyKind
      ? { ...read, kind: character.bodyKind, confidence: 1, reasons: ['set by hand'], isByHand: true }
      : read;
    cache.set(character, known);
  }
  return known;
}

/** The same in a sentence: “four-legged: its trunk lies …”. */
export const bodyKindText = ({ kind, reasons }: BodyKindReading): string =>
  `${BODY_KIND_WORDS[kind]}${reasons.length > 0 ? `: ${reasons.join('; ')}` : ''}`;

/** What kind of body a skeleton is of. `isRigid`: whether what it carries is made of rigid parts. */
export function readBodyKind(skeleton: Skeleton, isRigid: () => boolean = () => false): BodyKindReading {
  const { readings, hasNamedSides } = skeletonReading(skeleton);
  const told = withItsLegs(skeleton, tellKind(skeleton, isRigid));
  const isNamed = told.hind?.says === 'leg' && told.fore?.says === 'arm';
  const isEndKnown =
    isNamed || readings.some((reading) => reading.part === 'head' || reading.part === 'tail');
  return { ...told, isByHand: false, isEndKnown, hasNamedSides };
}

/** Of a beast the pairs of legs that carry it: all four may be called alike. */
function withItsLegs(skeleton: Skeleton, told: Told): Told {
  const legs = told.kind === 'four-legged' ? fourLegsOf(skeleton) : null;
  if (!legs) return told;
  const [hind, fore] = [legs.hind, legs.front].map(({ left, right }) => pairOf(skeleton, left, right));
  return hind && fore ? { ...told, hind, fore } : told;
}

function tellKind(skeleton: Skeleton, isRigid: () => boolean): Told {
  const { lone, readings } = skeletonReading(skeleton);
  const without = limbs(null, null, null);
  if (skeleton.bones.length === 0)
    return { ...without, kind: 'unknown', confidence: 1, reasons: ['it has no bones'] };
  if (lone && !lone.has('foot'))
    return {
      ...without,
      kind: 'hand',
      confidence: 0.95,
      reasons: ['its bones are those of one arm or hand'],
    };
  const told = settle(kindFromLimbs(skeleton, limbPairsOf(skeleton)), kindFromWords(skeleton));
  const said = readings.filter(
    (reading) => reading.part !== '' && reading.part !== 'root' && reading.kind === 'bone',
  ).length;
  // Its names alone would not do: joints of beasts are called so too.
  const standard = told.kind === 'unknown' ? standardOf(skeleton) : null;
  if (standard) return { ...told, ...standard, confidence: 0.9 };
  if (told.kind === 'unknown' && standsOnFour(skeleton))
    return { ...told, kind: 'four-legged', confidence: 0.75, reasons: [ON_FOUR] };
  if (said >= LEAST_PARTS || told.kind === 'two-legged' || !isRigid()) return told;
  const reasons = ['every part goes with one bone, and no name is that of a limb'];
  return { ...without, kind: 'machine', confidence: 0.9, reasons };
}

const ON_FOUR = 'two pairs of limbs reach down from a trunk that lies between them';

/** Whether a body of no known kind leaves little doubt that it stands on four legs. */
function standsOnFour(skeleton: Skeleton): boolean {
  const legs = fourLegsOf(skeleton);
  return legs !== null && (legs.isNamed || legs.doubt < LITTLE_DOUBT);
}

/** Beasts of the bench’s first draw have less than this, people and birds more. */
const LITTLE_DOUBT = 0.55;

/** Names of an open standard's table that make a skeleton one of its own, as a share of the table. */
const OF_STANDARD = 0.6;

/** The open standard whose names most of its table's bones have here; null for none. */
function standardOf({ bones }: Skeleton): Pick<Told, 'kind' | 'reasons'> | null {
  const names = new Set(bones.map((bone) => bone.name));
  for (const [id, { title, parents }] of TREES) {
    const table = Object.keys(parents);
    if (table.filter((name) => names.has(name)).length >= OF_STANDARD * table.length)
      return {
        kind: id === 'webxr-hand' ? 'hand' : 'two-legged',
        reasons: [`its bones are called as those of ${title}`],
      };
  }
  return null;
}

/** Fewer bones that are called after parts of a body say nothing. */
const LEAST_PARTS = 4;

/** A kind with the limbs that it was told by. */
type Told = Pick<BodyKindReading, 'kind' | 'confidence' | 'reasons' | 'hind' | 'fore' | 'wings'>;

/** What limbs and words say together: they strengthen each other, or the words decide where limbs do not. */
function settle(found: Told, words: { kind: BodyKind; word: string } | null): Told {
  if (!words) {
    if (found.confidence >= SURE_ENOUGH) return found;
    return { ...found, kind: 'unknown', reasons: [...found.reasons, 'not clear enough to go by'] };
  }
  const reason = `a bone is called “${words.word}”`;
  if (words.kind === found.kind) {
    const confidence = 1 - (1 - found.confidence) * 0.3;
    return { ...found, confidence, reasons: [...found.reasons, reason] };
  }
  // Wings beside arms and legs, and a mane on a person, change nothing of what carries the body.
  if (found.confidence >= 0.8 && words.kind !== 'finned') return found;
  return { ...found, kind: words.kind, confidence: 0.75, reasons: [reason] };
}

/** The kind that only its bodies have words for; the first found, null for none. */
function kindFromWords(skeleton: Skeleton): { kind: BodyKind; word: string } | null {
  for (const [i, { name }] of skeleton.bones.entries())
    for (const word of wordsOf(name))
      for (const [kind, words] of WORDS)
        if (words.has(word) && !isEndOfParent(skeleton, i, word)) return { kind, word };
  return null;
}

/** “fin” is an end in other languages: it is so where the rest of the name is that of the bone above. */
function isEndOfParent(skeleton: Skeleton, bone: number, word: string): boolean {
  const { readings } = skeletonReading(skeleton);
  const parent = skeleton.bones[bone].parent;
  const rest = readings[bone].words.filter((otherWord) => otherWord !== word);
  if (MEANINGS.get(word) !== 'end') return false;
  return (
    readings[bone].part !== '' || (parent >= 0 && rest.some((word) => readings[parent].words.includes(word)))
  );
}

/** The kind as the pairs of limbs say it. */
function kindFromLimbs(skeleton: Skeleton, all: readonly LimbPair[]): Told {
  const wings = all.find((pair) => pair.says === 'wing') ?? null;
  const fins = all.filter((pair) => pair.says === 'fin');
  const legs = all.filter((pair) => pair !== wings && pair.says !== 'fin');
  if (fins.length > 0 && legs.filter((leg) => leg.says === 'leg').length === 0)
    return {
      kind: 'finned',
      confidence: 0.9,
      reasons: ['its limbs are called fins'],
      ...limbs(null, null, wings),
    };
  const [hind, fore] = endsOf(skeleton, legs);
  if (hind && fore) {
    const four = fourLegged(skeleton, hind, fore);
    if (four.confidence >= SURE_ENOUGH) return { kind: 'four-legged', ...four, ...limbs(hind, fore, wings) };
    return { ...twoLegged(skeleton, hind, fore), ...limbs(hind, fore, wings) };
  }
  if (wings && hind)
    return {
      kind: 'winged',
      confidence: 0.9,
      reasons: ['two legs, and its other limbs are wings'],
      ...limbs(hind, null, wings),
    };
  return { kind: 'unknown', confidence: 0.3, reasons: [tooFew(legs.length)], ...limbs(hind, fore, wings) };
}

const limbs = (hind: LimbPair | null, fore: LimbPair | null, wings: LimbPair | null) => ({
  hind,
  fore,
  wings,
});

const tooFew = (pairs: number) =>
  pairs === 0 ? 'it has no limbs in pairs' : 'it has one pair of limbs, and nothing says of what';

/** The pair nearest the tail and the one nearest the head, of those long enough to carry or to reach. */
function endsOf(skeleton: Skeleton, pairs: readonly LimbPair[]): [LimbPair | null, LimbPair | null] {
  const { shape } = skeletonReading(skeleton);
  if (pairs.length === 0) return [null, null];
  const way = (pair: LimbPair) => shape.way[pair.left[0]];
  const legs = pairs.filter((pair) => pair.says === 'leg');
  const arms = pairs.filter((pair) => pair.says === 'arm');
  const two = legs.length > 0 && arms.length > 0 ? [legs[0], arms[0]] : pairs.slice(0, 2);
  if (two.length < 2) return [two[0], null];
  const [a, b] = two;
  if (a.says === 'leg' && b.says === 'arm') return [a, b];
  return endNear(skeleton, a, b) ?? (way(a) <= way(b) ? [a, b] : [b, a]);
}

/** Two pairs, the one nearer the tail or farther from the head first, where names say where those are. */
function endNear(skeleton: Skeleton, a: LimbPair, b: LimbPair): [LimbPair, LimbPair] | null {
  const { readings, shape, side } = skeletonReading(skeleton);
  const placed = (part: string) => readings.findIndex((reading, i) => reading.part === part && side[i] === 0);
  const head = placed('head');
  const tail = placed('tail');
  const from = (bone: number, pair: LimbPair) => length(subtract(shape.places[bone], pair.attach));
  if (head >= 0) return from(head, a) >= from(head, b) ? [a, b] : [b, a];
  if (tail >= 0) return from(tail, a) <= from(tail, b) ? [a, b] : [b, a];
  return null;
}

/** The trunk between two pairs of limbs; null where they begin at one place. */
export function trunkOf(hind: LimbPair, fore: LimbPair): TrunkFrame | null {
  const way = subtract(fore.attach, hind.attach);
  if (length(way) < 1e-9) return null;
  const along = normalise(way);
  const sum: Vec3 = [0, 1, 2].map((k) => hind.across[k] + fore.across[k]) as unknown as Vec3;
  const sideways = squareOn(sum, along);
  if (!sideways) return null;
  return { along, across: sideways, square: cross(along, sideways), length: length(way) };
}

/** The part of a direction that stands square on a unit vector, of length 1; null where there is none. */
function squareOn(vector: Vec3, on: Vec3): Vec3 | null {
  const share = dot(vector, on);
  const rest: Vec3 = [vector[0] - share * on[0], vector[1] - share * on[1], vector[2] - share * on[2]];
  return length(rest) < 1e-9 ? null : normalise(rest);
}

/** Farthest that the tips of fore and hind limbs of a beast stand apart in height, as a share of a limb. */
const ONE_GROUND = 0.5;

/** A bone of a hind limb that goes along the trunk by so much of its direction is that of somebody who sits. */
const SITTING = 0.85;

/** Whether two pairs of limbs carry a trunk that lies: they reach the same way, square to it, as far. */
function fourLegged(
  skeleton: Skeleton,
  hind: LimbPair,
  fore: LimbPair,
): { confidence: number; reasons: string[] } {
  const frame = trunkOf(hind, fore);
  if (!frame) return { confidence: 0, reasons: [] };
  const [reaching, otherReaching] = [reachingOf(hind, frame), reachingOf(fore, frame)];
  const alike = Math.sign(reaching.square) === Math.sign(otherReaching.square);
  const margin =
    Math.min(Math.abs(reaching.square), Math.abs(otherReaching.square)) -
    Math.max(Math.abs(reaching.along), Math.abs(otherReaching.along));
  const ground = alongBetween(hind.tip, fore.tip, frame.square) / Math.max(hind.reach, fore.reach);
  const ratio = fore.reach / hind.reach;
  const isOne = Math.abs(ground) <= ONE_GROUND && ratio > 0.5 && ratio < 2;
  const named = [hind, fore].every((pair) => pair.says === 'leg');
  if (named && alike && isOne && margin > -0.4)
    return { confidence: 0.95, reasons: ['both pairs of its limbs are called legs, and reach one ground'] };
  // A person who sits reaches ahead of the trunk with arms and legs; hands, or knees bent square, tell.
  const hasHands = fore.hasFingers && !hind.hasFingers;
  const sits = reaching.along < -0.35 && mostAlong(skeleton, hind, frame.along) > SITTING;
  if (!alike || !isOne || margin <= 0 || hasHands || sits) return { confidence: 0, reasons: [] };
  return {
    confidence: Math.min(0.95, 0.65 + 0.5 * margin),
    reasons: ['its trunk lies, and both pairs of limbs reach down from it to one ground'],
  };
}

/** Whether legs go on along the trunk, away from the arms: a body on two legs; or one with wings for arms. */
function twoLegged(
  skeleton: Skeleton,
  hind: LimbPair,
  fore: LimbPair,
): Pick<Told, 'kind' | 'confidence' | 'reasons'> {
  const frame = trunkOf(hind, fore);
  if (!frame) return { kind: 'unknown', confidence: 0, reasons: ['its limbs begin at one place'] };
  const reaching = reachingOf(hind, frame);
  const isNamed = hind.says === 'leg' && fore.says === 'arm';
  const onward = -reaching.along;
  if (isNamed && onward > 0.45)
    return {
      kind: 'two-legged',
      confidence: Math.min(0.99, 0.85 + 0.25 * (onward - 0.45)),
      reasons: ['it has arms, and legs that go on along the trunk'],
    };
  if (onward < 0.55)
    return {
      kind: 'unknown',
      confidence: 0.4,
      reasons: [`its legs stand ${degrees(reaching)}° off the way that its trunk goes`],
    };
  const doubts = againstPerson(skeleton, hind, fore, frame);
  if (doubts.length > 0) return { kind: 'unknown', confidence: 0.5, reasons: doubts };
  const arms = armsOf(fore, hind, frame);
  return {
    kind: 'two-legged',
    confidence: arms.confidence,
    reasons: [`two limbs go on along the trunk, two ${arms.words}`],
  };
}

/** What makes arms of the upper limbs where no name does: fingers, or that they stand out, shorter than the legs. */
function armsOf(fore: LimbPair, hind: LimbPair, frame: TrunkFrame): { confidence: number; words: string } {
  if (fore.hasFingers) return { confidence: 0.9, words: 'end in fingers' };
  const isStraight = Math.abs(reachingOf(fore, frame).outward) > 0.6 && fore.straightness > 0.9;
  const isOut = isStraight && fore.reach < 1.05 * hind.reach;
  return isOut
    ? { confidence: 0.75, words: 'stand out above them, and are shorter' }
    : { confidence: 0.5, words: 'begin above them and may be arms or wings' };
}

const degrees = ({ along }: Reaching) =>
  ((Math.acos(Math.min(1, Math.abs(along))) * 180) / Math.PI).toFixed(0);

/** What speaks against a person where names say nothing: a tail, a long neck, arms far longer than the legs. */
function againstPerson(skeleton: Skeleton, hind: LimbPair, fore: LimbPair, frame: TrunkFrame): string[] {
  const { shape, side, readings } = skeletonReading(skeleton);
  const middle = skeleton.bones.flatMap((_, i) => (side[i] === 0 && readings[i].kind === 'bone' ? [i] : []));
  const along = middle.map((i) => alongBetween(hind.attach, shape.places[i], frame.along));
  const above = Math.max(0, ...along) - frame.length;
  const out: string[] = [];
  if (above > 0.75 * hind.reach) out.push('its neck is long');
  const trunk = trunkLength(hind, fore);
  const behind = middle
    .filter((_, k) => along[k] < 0)
    .map((i) => length(subtract(shape.places[i], hind.attach)));
  if (shape.core >= 0 && Math.max(0, ...behind) > 0.8 * hind.reach && !hasRootBelow(skeleton, middle, hind))
    out.push('something long hangs behind its legs');
  if (fore.reach > 1.3 * hind.reach) out.push('its upper limbs are longer than its legs');
  if (trunk > 1.6 * hind.reach) out.push('its trunk is far longer than its legs');
  return out;
}

/** Whether what lies below the hips in the middle is a root on the ground, and no tail. */
function hasRootBelow(skeleton: Skeleton, middle: readonly number[], hind: LimbPair): boolean {
  const { shape } = skeletonReading(skeleton);
  const hips = shape.parents[hind.left[0]];
  const isAboveHips = (i: number) => {
    for (let parent = hips; parent >= 0; parent = shape.parents[parent]) if (parent === i) return true;
    return false;
  };
  const far = middle.filter((i) => length(subtract(shape.places[i], hind.attach)) > 0.8 * hind.reach);
  return far.every((i) => isAboveHips(i) || shape.parents[i] < 0);
}

/** Whether every point that is carried goes with one bone alone. */
export function isOfRigidParts({ meshes, nodes }: Character): boolean {
  const shown = nodes.filter((node) => node.mesh >= 0);
  if (shown.length === 0) return false;
  return shown.every((node) => {
    const influences = meshes[node.mesh].influences;
    if (node.skin < 0 || !influences) return true;
    for (let vertex = 1; vertex < influences.offsets.length; vertex++)
      if (influences.offsets[vertex] - influences.offsets[vertex - 1] > 1) return false;
    return true;
  });
}

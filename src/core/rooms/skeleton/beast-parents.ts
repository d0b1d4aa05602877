/**
 * What may hang under what in a body that is no person's. A spine may lie, hips may be several, a leg may have
 * four joints: no table of names holds there. What holds for all of them is that a limb keeps to its own side and
 * to itself, and that its lower bones hang on its upper ones.
 */
import { isBodyBone, meaningOf } from '../../anatomy/bones';
import { ancestorsOf, bonesOf, parentBone, weightOfNodes } from '../../character/hierarchy';
import type { Character } from '../../character/model';

/** A bone, the one that it hangs under, and the one that it belongs under in words. */
export interface Expectation {
  readonly bone: number;
  readonly has: number;
  readonly wants: string;
}

const FINGERS = ['thumb', 'index', 'long', 'ring', 'little'];

/** The parts of limbs from the trunk out. */
const LIMBS: readonly (readonly string[])[] = [
  ['collar', 'upperarm', 'lowerarm', 'hand', ...FINGERS],
  ['upperleg', 'lowerleg', 'foot', 'toe'],
  ['wing'],
];

/** Parts from this place in their limb on do not hang on the trunk. */
const LOWER = 2;

const limbOf = (part: string) => LIMBS.find((limb) => limb.includes(part));

/** Bones of limbs that hang on another limb, on the other side, or by themselves below the bones that they go on. */
export function beastParentFaults(character: Character): Expectation[] {
  const bones = bonesOf(character);
  const weight = weightOfNodes(character);
  const isBound = weight.some((weight) => weight > 0);
  const meaning = (b: number) => meaningOf(character, b);
  // A finger that hangs on no hand is none: “middle” stands in the names of legs as well.
  const isLoneFinger = (bone: number) =>
    FINGERS.includes(meaning(bone).part) &&
    !ancestorsOf(character.nodes, bone).some((above) => meaning(above).part === 'hand');
  const present = new Set(
    bones.filter((bone) => isBodyBone(meaning(bone))).map((bone) => keyOf(meaning(bone))),
  );
  return bones.flatMap((bone): Expectation[] => {
    const own = meaning(bone);
    const limb = limbOf(own.part);
    if (!isBodyBone(own) || !limb || (isBound && weight[bone] === 0)) return [];
    const has = parentBone(character.nodes, bone);
    let above = has;
    while (above >= 0 && (!isBodyBone(meaning(above)) || isLoneFinger(above)))
      above = parentBone(character.nodes, above);
    const place = limb.indexOf(own.part);
    const upper = limb
      .slice(0, Math.min(place, limb.indexOf('hand') < 0 ? limb.length : limb.indexOf('hand') + 1))
      .reverse()
      .find((part) => present.has(keyOf({ part, side: own.side })));
    // Wings begin at a collar as arms do.
    const hasCollar = own.part === 'wing' && present.has(keyOf({ part: 'collar', side: own.side }));
    const belongs = { bone, has, wants: wordsOf(own.side, upper ?? (hasCollar ? 'collar' : 'trunk')) };
    const otherMeaning = above < 0 ? null : meaning(above);
    const isElsewhere =
      otherMeaning &&
      otherMeaning.part !== 'collar' &&
      limbOf(otherMeaning.part) &&
      limbOf(otherMeaning.part) !== limb;
    const isAcross =
      otherMeaning &&
      otherMeaning.side !== 'middle' &&
      own.side !== 'middle' &&
      otherMeaning.side !== own.side;
    // What hangs on a bone of its own side that no word tells hangs in its limb.
    const isInLimb = has >= 0 && own.side !== 'middle' && meaning(has).side === own.side;
    const isLoose =
      place >= LOWER && upper !== undefined && !isInLimb && (!otherMeaning || !limbOf(otherMeaning.part));
    return isElsewhere || isAcross || isLoose ? [belongs] : [];
  });
}

const keyOf = ({ part, side }: { part: string; side: string }) => `${part} ${side}`;

const wordsOf = (side: string, part: string) =>
  `the ${side === 'middle' || part === 'trunk' ? '' : `${side} `}${part}`;

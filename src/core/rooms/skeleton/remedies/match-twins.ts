import { object } from 'yup';
import { mirroredRotation } from '../../../anatomy/mirrored-pairs';
import { mirroredPlace } from '../../../geometry/mirror';
import { restPlace } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';
import { withJointsAt } from '../../../character/place-joints';
import { whyNotTurned, withTurnedAxes } from '../../../character/turn-axes';
import { choiceOf, refsTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { inUnit, unitSign } from '../../../contracts/units';
import { type Quat, type Vec3, distance, quatConjugate, quatMultiply } from '../../../geometry/matrix';
import { type JudgedPair, judgedPairs } from '../pairs';

const WHAT = { axes: 'axes', places: 'places', both: 'axes and places' } as const;

/** Turned, or standing, by less than this is as it should be: degrees, and metres. */
const LEAST_ANGLE = 1e-3;
const LEAST_PLACE = 1e-6;

/** Makes bones the mirror images of their twins, which stay as they are. */
export const matchTwins = defineRemedy({
  id: 'match-twins',
  room: 'skeleton',
  title: 'Make them mirror images of their twins',
  does: 'These bones take axes or places from their twins, as the rest of the limb has them. The skin stays where it is at rest; axes change no motion, since clips are rewritten.',
  params: object({
    bones: refsTo('bone', 'Bones that change').required(),
    what: choiceOf<keyof typeof WHAT>('What they take', WHAT).default('both'),
  }),
  rows(character, { bones, what }, { unit }) {
    return meantPairs(character, bones).flatMap(({ pair, own }) => [
      ...(what === 'places'
        ? []
        : [{ label: `${own.name}, turned`, value: Number(pair.deviation.angle.toFixed(2)), unit: '°' }]),
      ...(what === 'axes'
        ? []
        : [{ label: `${own.name}, apart`, value: inUnit(pair.deviation.apart, unit), unit: unitSign(unit) }]),
    ]);
  },
  promises: (_character, { what }) =>
    promise(['places', 'binds', 'clips'], { holds: what === 'axes' ? 'in every pose' : 'at rest' }),
  apply(character, { bones, what }): Character {
    const turned = what === 'places' ? character : withAxesOfTwins(character, bones);
    const out = what === 'axes' ? turned : withPlacesOfTwins(turned, bones);
    if (out === character)
      throw new NothingToDo('They are the mirror images of their twins already; nothing changes.');
    return out;
  },
});

interface Meant {
  readonly pair: JudgedPair;
  readonly own: JudgedPair['left'];
  readonly twin: JudgedPair['left'];
  readonly ownIndex: number;
  readonly twinIndex: number;
}

function meantPairs(character: Character, bones: readonly number[]): Meant[] {
  const judged = judgedPairs(character);
  const meant = new Set(bones);
  const found = (judged?.pairs ?? []).flatMap((pair): Meant[] => {
    const { left, right } = pair;
    const [isLeft, isRight] = [meant.has(left.node), meant.has(right.node)];
    if (isLeft && isRight)
      throw new RemedyError(
        `“${left.name}” and “${right.name}” are each other’s twins; choose the side that is to change.`,
      );
    if (!isLeft && !isRight) return [];
    const [own, twin] = isLeft ? [left, right] : [right, left];
    const [ownIndex, twinIndex] = isLeft ? pair.pair : [pair.pair[1], pair.pair[0]];
    return [{ pair, own, twin, ownIndex, twinIndex }];
  });
  if (found.length === 0)
    throw new RemedyError(
      'None of these bones has a twin by its name; choose bones that stand on both sides.',
    );
  return found;
}

function withAxesOfTwins(character: Character, bones: readonly number[]): Character {
  const judged = judgedPairs(character);
  if (!judged) return character;
  const turns = new Map<number, Quat>();
  for (const { pair, own, twinIndex, ownIndex } of meantPairs(character, bones)) {
    // Where the limb itself follows nothing, twins are given the rule by which turns can be taken over as they are.
    const rule = pair.rule ?? 'same-turn';
    const wanted = mirroredRotation(judged.plane, rule, judged.skeleton.bones[twinIndex].rotation);
    const turn = quatMultiply(quatConjugate(judged.skeleton.bones[ownIndex].rotation), wanted);
    const angle = (2 * Math.acos(Math.min(1, Math.abs(turn[3]))) * 180) / Math.PI;
    if (angle > LEAST_ANGLE) turns.set(own.node, turn);
  }
  const why = whyNotTurned(character, turns.keys());
  if (why) throw new RemedyError(why);
  return turns.size > 0 ? withTurnedAxes(character, turns) : character;
}

function withPlacesOfTwins(character: Character, bones: readonly number[]): Character {
  const judged = judgedPairs(character);
  if (!judged) return character;
  const places = new Map<number, Vec3>();
  for (const { own, twinIndex } of meantPairs(character, bones)) {
    const wanted = mirroredPlace(judged.plane, judged.skeleton.bones[twinIndex].place);
    if (distance(wanted, restPlace(character.nodes, own.node)) > LEAST_PLACE) places.set(own.node, wanted);
  }
  return places.size > 0 ? withJointsAt(character, places) : character;
}

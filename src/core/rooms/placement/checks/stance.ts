import { object } from 'yup';
import { LANDMARKS } from '../../../contracts/aspect';
import { type Evidence, boneElements, theCharacter } from '../../../contracts/finding';
import { defineCheck } from '../../../contracts/check';
import { type PlacementBrief, STANCE, isTooStraight } from '../settings';
import { limbStances } from '../survey';

const named = (angle: number) => {
  if (Math.abs(angle) < 12) return 'a T-pose';
  if (angle > 25 && angle < 65) return 'an A-pose';
  if (angle >= 65) return 'hanging arms';
  return `${angle.toFixed(0)}°`;
};

/** Arms at the brief's angle, legs upright, limbs straight: T-pose or A-pose, not a relaxed pose. */
export const stanceCheck = defineCheck({
  id: 'stance',
  room: 'placement',
  title: 'Stance at rest',
  why: 'Motion is moved from skeleton to skeleton by the angles from rest: a rest pose of another stance bends every clip by the difference.',
  kinds: ['two-legged'],
  settings: object({ ...STANCE }),
  reads: [...LANDMARKS],
  measures(character) {
    const limbs = limbStances(character);
    const arms = limbs.filter((limb) => limb.limb === 'arm').map((limb) => limb.angle);
    const legs = limbs.filter((limb) => limb.limb === 'leg').map((limb) => limb.angle);
    if (arms.length === 0)
      return {
        'stance.arms': null,
        'stance.tolerance': null,
        'stance.bend': null,
        'stance.leastBend': null,
        'stance.legs': null,
      };
    const mean = Math.round(arms.reduce((a, b) => a + b, 0) / arms.length);
    return {
      'stance.arms': mean,
      'stance.tolerance': Math.max(...arms.map((arm) => Math.abs(arm - mean))),
      'stance.bend': Math.max(...limbs.map((limb) => limb.bend)),
      'stance.leastBend': Math.min(...limbs.map((limb) => limb.bend)),
      'stance.legs': Math.max(0, ...legs),
    };
  },
  run(character, brief) {
    const stance = brief.stance;
    if (!stance) return [];
    const limbs = limbStances(character);
    const off: LimbsOff = {
      arms: limbs.filter(
        (limb) => limb.limb === 'arm' && Math.abs(limb.angle - stance.arms) > stance.tolerance,
      ),
      legs: limbs.filter((limb) => limb.limb === 'leg' && limb.angle > stance.legs),
      bent: limbs.filter((limb) => limb.bend > stance.bend),
      straight: limbs.filter((limb) => isTooStraight(limb.bend, stance)),
    };
    const all = [...off.arms, ...off.legs, ...off.bent, ...off.straight];
    if (all.length === 0) return [];
    const measured = [off.arms, off.legs]
      .map((list) => list.map((limb) => limb.angle))
      .concat([off.bent, off.straight].map((list) => list.map((limb) => limb.bend)))
      .find((angles) => angles.length > 0) as number[];
    return [
      {
        gravity: 'worth',
        subject: theCharacter(character),
        unit: '°',
        count: all.length,
        message: `At rest ${wordsOf(off, stance).join(', and ')}; the brief wants ${stance.arms === 0 ? 'a T-pose' : `arms at ${stance.arms}°`} ± ${stance.tolerance}°`,
        measured: Math.max(...measured),
        expected: stance.arms,
        evidence: evidenceOf(limbs, off, stance),
        elements: [boneElements(new Set(all.flatMap((limb) => [...limb.nodes])))],
        remedies: [
          {
            id: 'set-stance',
            params: { arms: stance.arms, bend: stance.bend, legs: stance.legs, least: stance.leastBend },
          },
        ],
      },
    ];
  },
});

type Stance = NonNullable<PlacementBrief['stance']>;
type Limb = ReturnType<typeof limbStances>[number];

/** The limbs that are off, by what is wrong with them. */
type LimbsOff = Readonly<Record<'arms' | 'legs' | 'bent' | 'straight', readonly Limb[]>>;

function wordsOf({ arms, legs, bent, straight }: LimbsOff, stance: Stance): string[] {
  const words: string[] = [];
  const most = (angles: readonly number[]) => Math.max(...angles).toFixed(0);
  if (arms.length > 0) {
    const whose = arms.length > 1 ? 'its arms are' : `its ${arms[0].side} arm is`;
    words.push(
      `${whose} ${most(arms.map((arm) => arm.angle))}° below the horizontal (${named(arms[0].angle)})`,
    );
  }
  if (legs.length > 0) {
    const whose = legs.length > 1 ? 'its legs lean' : `its ${legs[0].side} leg leans`;
    words.push(`${whose} up to ${most(legs.map((leg) => leg.angle))}° (${stance.legs}° allowed)`);
  }
  const joints = (list: readonly Limb[]) =>
    `${list.length} of its elbows and knees ${list.length === 1 ? 'is' : 'are'}`;
  if (bent.length > 0)
    words.push(
      `${joints(bent)} bent, up to ${most(bent.map((limb) => limb.bend))}° (${stance.bend}° allowed)`,
    );
  if (straight.length > 0) {
    const least = Math.min(...straight.map((limb) => limb.bend)).toFixed(1);
    words.push(`${joints(straight)} straight, down to ${least}° (${stance.leastBend}° at least)`);
  }
  return words;
}

function evidenceOf(limbs: readonly Limb[], { legs, bent, straight }: LimbsOff, stance: Stance): Evidence[] {
  const bends = (list: readonly Limb[], brief: string) =>
    list.map((limb): Evidence => ({
      label: `${limb.limb === 'arm' ? 'Elbow' : 'Knee'} bent, ${limb.side}`,
      now: limb.bend,
      brief,
      unit: '°',
    }));
  return [
    ...limbs
      .filter((limb) => limb.limb === 'arm')
      .map((limb): Evidence => ({
        label: `Arm below the horizontal, ${limb.side}`,
        now: limb.angle,
        brief: stance.arms,
        unit: '°',
      })),
    ...legs.map((leg): Evidence => ({
      label: `Leg off the vertical, ${leg.side}`,
      now: leg.angle,
      brief: `≤ ${stance.legs}`,
      unit: '°',
    })),
    ...bends(bent, `≤ ${stance.bend}`),
    ...bends(straight, `≥ ${stance.leastBend}`),
  ];
}

import { object } from 'yup';
import { LANDMARKS } from '../../../contracts/aspect';
import { type Evidence, boneElements, theCharacter } from '../../../contracts/finding';
import { defineCheck } from '../../../contracts/check';
import { type PlacementBrief, STANCE, isTooStraight } from '../settings';
import { limbsOf } from '../survey';

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
    const limbs = limbsOf(character);
    const arms = limbs.filter((l) => l.limb === 'arm').map((l) => l.angle);
    const legs = limbs.filter((l) => l.limb === 'leg').map((l) => l.angle);
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
      'stance.tolerance': Math.max(...arms.map((a) => Math.abs(a - mean))),
      'stance.bend': Math.max(...limbs.map((l) => l.bend)),
      'stance.leastBend': Math.min(...limbs.map((l) => l.bend)),
      'stance.legs': Math.max(0, ...legs),
    };
  },
  run(character, brief) {
    const s = brief.stance;
    if (!s) return [];
    const limbs = limbsOf(character);
    const off: LimbsOff = {
      arms: limbs.filter((l) => l.limb === 'arm' && Math.abs(l.angle - s.arms) > s.tolerance),
      legs: limbs.filter((l) => l.limb === 'leg' && l.angle > s.legs),
      bent: limbs.filter((l) => l.bend > s.bend),
      straight: limbs.filter((l) => isTooStraight(l.bend, s)),
    };
    const all = [...off.arms, ...off.legs, ...off.bent, ...off.straight];
    if (all.length === 0) return [];
    const measured = [off.arms, off.legs]
      .map((list) => list.map((l) => l.angle))
      .concat([off.bent, off.straight].map((list) => list.map((l) => l.bend)))
      .find((angles) => angles.length > 0) as number[];
    return [
      {
        gravity: 'worth',
        subject: theCharacter(character),
        unit: '°',
        count: all.length,
        message: `At rest ${wordsOf(off, s).join(', and ')}; the brief wants ${s.arms === 0 ? 'a T-pose' : `arms at ${s.arms}°`} ± ${s.tolerance}°`,
        measured: Math.max(...measured),
        expected: s.arms,
        evidence: evidenceOf(limbs, off, s),
        elements: [boneElements(new Set(all.flatMap((l) => [...l.nodes])))],
        remedies: [
          {
            id: 'set-stance',
            params: { arms: s.arms, bend: s.bend, legs: s.legs, least: s.leastBend },
          },
        ],
      },
    ];
  },
});

type Stance = NonNullable<PlacementBrief['stance']>;
type Limb = ReturnType<typeof limbsOf>[number];

/** The limbs that are off, by what is wrong with them. */
type LimbsOff = Readonly<Record<'arms' | 'legs' | 'bent' | 'straight', readonly Limb[]>>;

function wordsOf({ arms, legs, bent, straight }: LimbsOff, s: Stance): string[] {
  const words: string[] = [];
  const most = (angles: readonly number[]) => Math.max(...angles).toFixed(0);
  if (arms.length > 0) {
    const whose = arms.length > 1 ? 'its arms are' : `its ${arms[0].side} arm is`;
    words.push(`${whose} ${most(arms.map((l) => l.angle))}° below the horizontal (${named(arms[0].angle)})`);
  }
  if (legs.length > 0) {
    const whose = legs.length > 1 ? 'its legs lean' : `its ${legs[0].side} leg leans`;
    words.push(`${whose} up to ${most(legs.map((l) => l.angle))}° (${s.legs}° allowed)`);
  }
  const joints = (list: readonly Limb[]) =>
    `${list.length} of its elbows and knees ${list.length === 1 ? 'is' : 'are'}`;
  if (bent.length > 0)
    words.push(`${joints(bent)} bent, up to ${most(bent.map((l) => l.bend))}° (${s.bend}° allowed)`);
  if (straight.length > 0) {
    const least = Math.min(...straight.map((l) => l.bend)).toFixed(1);
    words.push(`${joints(straight)} straight, down to ${least}° (${s.leastBend}° at least)`);
  }
  return words;
}

function evidenceOf(limbs: readonly Limb[], { legs, bent, straight }: LimbsOff, s: Stance): Evidence[] {
  const bends = (list: readonly Limb[], brief: string) =>
    list.map((l): Evidence => ({
      label: `${l.limb === 'arm' ? 'Elbow' : 'Knee'} bent, ${l.side}`,
      now: l.bend,
      brief,
      unit: '°',
    }));
  return [
    ...limbs
      .filter((l) => l.limb === 'arm')
      .map((l): Evidence => ({
        label: `Arm below the horizontal, ${l.side}`,
        now: l.angle,
        brief: s.arms,
        unit: '°',
      })),
    ...legs.map((l): Evidence => ({
      label: `Leg off the vertical, ${l.side}`,
      now: l.angle,
      brief: `≤ ${s.legs}`,
      unit: '°',
    })),
    ...bends(bent, `≤ ${s.bend}`),
    ...bends(straight, `≥ ${s.leastBend}`),
  ];
}

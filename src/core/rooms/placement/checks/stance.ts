import { object } from 'yup';
import { LANDMARKS } from '../../../contracts/aspect';
import { theCharacter, boneElements } from '../../../contracts/finding';
import { defineCheck } from '../../../contracts/check';
import { STANCE } from '../settings';
import { limbsOf } from '../survey';

const named = (angle: number) => {
  if (Math.abs(angle) < 12) return 'a T-pose';
  if (angle > 25 && angle < 65) return 'an A-pose';
  if (angle >= 65) return 'hanging arms';
  return `${angle.toFixed(0)}°`;
};

/** What a limb may lack of the least bend before it counts, degrees: numbers of a file are not exact. */
const STRAIGHT_ENOUGH = 0.05;

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
    const arms = limbs.filter((l) => l.limb === 'arm' && Math.abs(l.angle - s.arms) > s.tolerance);
    const legs = limbs.filter((l) => l.limb === 'leg' && l.angle > s.legs);
    const bent = limbs.filter((l) => l.bend > s.bend);
    const straight = limbs.filter((l) => l.bend < s.leastBend - STRAIGHT_ENOUGH);
    if (arms.length + legs.length + bent.length + straight.length === 0) return [];
    const worst = [
      arms.map((l) => l.angle),
      legs.map((l) => l.angle),
      bent.map((l) => l.bend),
      straight.map((l) => l.bend),
    ].find((angles) => angles.length > 0) as number[];
    const parts = [
      ...(arms.length > 0
        ? [
            `${arms.length > 1 ? 'its arms are' : `its ${arms[0].side} arm is`} ${Math.max(...arms.map((l) => l.angle)).toFixed(0)}° below the horizontal (${named(arms[0].angle)})`,
          ]
        : []),
      ...(legs.length > 0
        ? [
            `${legs.length > 1 ? 'its legs lean' : `its ${legs[0].side} leg leans`} up to ${Math.max(...legs.map((l) => l.angle)).toFixed(0)}° (${s.legs}° allowed)`,
          ]
        : []),
      ...(bent.length > 0
        ? [
            `${bent.length} of its elbows and knees ${bent.length === 1 ? 'is' : 'are'} bent, up to ${Math.max(...bent.map((l) => l.bend)).toFixed(0)}° (${s.bend}° allowed)`,
          ]
        : []),
      ...(straight.length > 0
        ? [
            `${straight.length} of its elbows and knees ${straight.length === 1 ? 'is' : 'are'} straight, down to ${Math.min(...straight.map((l) => l.bend)).toFixed(1)}° (${s.leastBend}° at least)`,
          ]
        : []),
    ];
    return [
      {
        gravity: 'worth',
        subject: theCharacter(character),
        unit: '°',
        count: arms.length + legs.length + bent.length + straight.length,
        message: `At rest ${parts.join(', and ')}; the brief wants ${s.arms === 0 ? 'a T-pose' : `arms at ${s.arms}°`} ± ${s.tolerance}°`,
        measured: Math.max(...worst),
        expected: s.arms,
        evidence: [
          ...limbs
            .filter((l) => l.limb === 'arm')
            .map((l) => ({
              label: `Arm below the horizontal, ${l.side}`,
              now: l.angle,
              brief: s.arms,
              unit: '°',
            })),
          ...legs.map((l) => ({
            label: `Leg off the vertical, ${l.side}`,
            now: l.angle,
            brief: `≤ ${s.legs}`,
            unit: '°',
          })),
          ...bent.map((l) => ({
            label: `${l.limb === 'arm' ? 'Elbow' : 'Knee'} bent, ${l.side}`,
            now: l.bend,
            brief: `≤ ${s.bend}`,
            unit: '°',
          })),
          ...straight.map((l) => ({
            label: `${l.limb === 'arm' ? 'Elbow' : 'Knee'} bent, ${l.side}`,
            now: l.bend,
            brief: `≥ ${s.leastBend}`,
            unit: '°',
          })),
        ],
        elements: [
          boneElements(new Set([...arms, ...legs, ...bent, ...straight].flatMap((l) => [...l.nodes]))),
        ],
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

import { number, object } from 'yup';
import { LANDMARKS } from '../../../contracts/aspect';
import { type Found, type Measured, defineCheck } from '../../../contracts/check';
import { boneElements, theNode } from '../../../contracts/finding';
import { setting } from '../../../contracts/setting';
import { type LengthUnit, inUnit, unitSign } from '../../../contracts/units';
import type { Character } from '../../../character/model';
import { restPlace } from '../../../character/hierarchy';
import { distance } from '../../../geometry/matrix';
import { type JointLoops, jointLoopsOf } from '../../../anatomy/joint-loops';

/** Shares up to here are what loops at uneven distances make of a joint at the middle of them. */
const LEAST_SHARE = 0.2;

/** How far a joint lies from the middle of its loops, as a share of the limb's radius. */
const sharesOff = (character: Character, { bone, pocket, radius }: JointLoops): number =>
  distance(restPlace(character.nodes, bone), pocket.middle) / radius;

/** Joints stand at the loops that were modelled for them, where a limb has such loops. */
export const jointAtLoopsCheck = defineCheck({
  id: 'joint-at-loops',
  room: 'skeleton',
  title: 'Joints at their loops',
  why: 'Where a limb is to bend, its mesh has loops closer to each other: a joint beside them bends it where it has none, and flattens it there.',
  kinds: ['two-legged', 'four-legged', 'winged', 'hand'],
  settings: object({
    jointLoops: number()
      .min(0)
      .nullable()
      .default(null)
      .meta(
        setting(
          'Joints off the loops modelled for them at most',
          'share',
          'most',
          'A share of the limb’s radius at the joint; off where that is free. Limbs whose loops lie evenly tell nothing.',
        ),
      ),
  }),
  reads: [...LANDMARKS, 'points', 'morphs', 'polygons', 'binds'],
  measures(character): Readonly<Record<string, Measured>> {
    const all = jointLoopsOf(character);
    if (all.length === 0) return { jointLoops: null };
    const worst = Math.max(...all.map((joint) => sharesOff(character, joint)));
    return { jointLoops: Math.max(LEAST_SHARE, Math.ceil(worst * 100) / 100) };
  },
  run(character, { jointLoops: most, unit }): Found[] {
    if (most === null) return [];
    return jointLoopsOf(character).flatMap((joint): Found[] =>
      sharesOff(character, joint) > most ? [foundFor(character, joint, most, unit)] : [],
    );
  },
});

function foundFor(character: Character, joint: JointLoops, most: number, unit: LengthUnit): Found {
  const { bone, pocket } = joint;
  const { name } = character.nodes[bone];
  const percent = sharesOff(character, joint) * 100;
  const off = inUnit(distance(restPlace(character.nodes, bone), pocket.middle), unit);
  const side = pocket.along > 0 ? 'above' : 'below';
  return {
    gravity: 'worth',
    subject: theNode(character, bone),
    unit: '%',
    elements: [boneElements([bone])],
    message: `“${name}” stands ${side} the ${pocket.loops} loops modelled for it, by ${percent.toFixed(0)} % of its limb’s radius`,
    measured: Number(percent.toFixed(1)),
    expected: Number((most * 100).toFixed(1)),
    evidence: [
      {
        label: 'From the middle of its loops, of the radius',
        now: Number(percent.toFixed(0)),
        brief: `≤ ${(most * 100).toFixed(0)}`,
        unit: '%',
      },
      { label: 'From the middle of its loops', now: off, brief: '—', unit: unitSign(unit) },
      {
        label: 'From the first to the last of them',
        now: inUnit(pocket.width, unit),
        brief: '—',
        unit: unitSign(unit),
      },
    ],
    remedies: [{ id: 'centre-joints', params: { bones: [bone], to: 'loops' } }],
  };
}

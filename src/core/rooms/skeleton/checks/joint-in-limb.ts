import { number, object } from 'yup';
import { LANDMARKS } from '../../../contracts/aspect';
import { type Found, type Measured, defineCheck } from '../../../contracts/check';
import { boneElements, theNode } from '../../../contracts/finding';
import { setting } from '../../../contracts/setting';
import { inUnit, unitSign } from '../../../contracts/units';
import type { Character } from '../../../character/model';
import { restPlace } from '../../../character/hierarchy';
import { distance } from '../../../geometry/matrix';
import {
  type JointRole,
  type LimbSection,
  limbSectionsOf,
  sharesOff,
  wantedPlace,
} from '../../../anatomy/limb-sections';

/** So many radii at most may a joint be wanted beside the middle. */
const SIDE = 1;

const beside = (label: string, hint: string) =>
  number()
    .min(-SIDE)
    .max(SIDE)
    .default(0)
    .meta(setting(label, 'share', 'is', hint));

/** Where joints stand in the limbs that bend about them; null for a game that does not ask. */
const JOINT_PLACES = object({
  off: number()
    .min(0)
    .required()
    .meta(
      setting(
        'Off their place at most',
        'share',
        'most',
        'A share of the limb’s radius at the joint; from 100 % on it is outside.',
      ),
    ),
  knuckles: beside('Knuckles beside the middle', 'A share of the radius towards the outside of the bend.'),
  elbows: beside('Elbows beside the middle', 'The same; below 0 towards the inside.'),
  knees: beside('Knees beside the middle', 'The same; below 0 towards the inside.'),
})
  .nullable()
  .default(null)
  .meta({
    label: 'Joints in their limbs',
    hint: 'How far the joints within arms, legs, fingers and wings may stand from where they belong; off where that is free.',
  });

interface JointPlaces {
  readonly off: number;
  readonly knuckles: number;
  readonly elbows: number;
  readonly knees: number;
}

/** Shares up to here are what a limb of few polygons makes of a joint in its middle. */
const LEAST_SHARE = 0.1;

/** Joints stand in the middle of their limbs, or beside it where the brief wants them. */
export const jointInLimbCheck = defineCheck({
  id: 'joint-in-limb',
  room: 'skeleton',
  title: 'Joints within their limbs',
  why: 'A limb folds about its joint: one that lies towards a side folds the skin through itself on that side, and tears it open on the other.',
  kinds: ['two-legged', 'four-legged', 'winged', 'hand'],
  settings: object({ jointPlaces: JOINT_PLACES }),
  reads: [...LANDMARKS, 'points', 'morphs', 'polygons', 'binds'],
  measures(character): Readonly<Record<string, Measured>> {
    const sections = limbSectionsOf(character);
    if (sections.length === 0) return { 'jointPlaces.off': null };
    const worst = Math.max(...sections.map((section) => sharesOff(character, section, section.middle)));
    return { 'jointPlaces.off': Math.max(LEAST_SHARE, Math.ceil(worst * 100) / 100) };
  },
  run(character, { jointPlaces, unit }): Found[] {
    if (!jointPlaces) return [];
    return limbSectionsOf(character).flatMap((section): Found[] => {
      const wanted = shareFor(section.role, jointPlaces);
      const place = wantedPlace(section, wanted);
      // A straight limb does not tell its outside: either side of its middle may be the one that is wanted.
      const either = section.outside ? 0 : Math.abs(wanted);
      const share = sharesOff(character, section, place) - either;
      return share > jointPlaces.off ? [foundFor(character, section, place, jointPlaces.off, unit)] : [];
    });
  },
});

function shareFor(role: JointRole, { knuckles, elbows, knees }: JointPlaces): number {
  return { knuckle: knuckles, elbow: elbows, knee: knees, other: 0 }[role];
}

function foundFor(
  character: Character,
  section: LimbSection,
  place: LimbSection['middle'],
  most: number,
  unit: Parameters<typeof inUnit>[1],
): Found {
  const { bone, radius } = section;
  const share = sharesOff(character, section, place);
  const { name } = character.nodes[bone];
  const off = distance(restPlace(character.nodes, bone), place);
  return {
    gravity: 'worth',
    subject: theNode(character, bone),
    unit: '%',
    elements: [boneElements([bone])],
    message:
      distance(restPlace(character.nodes, bone), section.middle) > radius
        ? `“${name}” stands outside of its limb`
        : `“${name}” stands beside where its limb wants it, by ${(share * 100).toFixed(0)} % of its radius`,
    measured: Number((share * 100).toFixed(1)),
    expected: Number((most * 100).toFixed(1)),
    evidence: [
      {
        label: 'From its place, of the radius',
        now: Number((share * 100).toFixed(0)),
        brief: `≤ ${(most * 100).toFixed(0)}`,
        unit: '%',
      },
      { label: 'From its place', now: inUnit(off, unit), brief: '—', unit: unitSign(unit) },
      { label: 'Radius of the limb there', now: inUnit(radius, unit), brief: '—', unit: unitSign(unit) },
    ],
    remedies: [{ id: 'move-joint', params: { bone, place: [...place], alone: true } }],
  };
}

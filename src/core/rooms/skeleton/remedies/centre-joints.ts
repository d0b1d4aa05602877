import { number, object } from 'yup';
import { choiceOf, refsTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { inUnit, unitSign } from '../../../contracts/units';
import { restPlace } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';
import { withJointsAt } from '../../../character/place-joints';
import { type Vec3, distance } from '../../../geometry/matrix';
import { jointLoopsOf } from '../../../anatomy/joint-loops';
import { limbMiddle } from '../../../anatomy/limb-middle';
import { limbSectionsOf, wantedPlace } from '../../../anatomy/limb-sections';

const WAYS = {
  middle: 'the middle of its limb',
  loops: 'the loops modelled for it',
  outside: 'beside the middle, towards the outside of its bend',
} as const;

type Way = keyof typeof WAYS;

/** Where a joint is wanted; null where its limb does not tell. World space at rest, metres. */
type PlaceOf = (bone: number) => Vec3 | null;

/** Puts joints where their limbs want them: many at once, each alone. */
export const centreJoints = defineRemedy({
  id: 'centre-joints',
  room: 'skeleton',
  title: 'Put joints where their limbs want them',
  does: 'Each joint goes to that place of its own limb; what hangs below stays, and so does the skin, with binds made anew.',
  says: ({ to }) => ({
    title: to === 'loops' ? 'Put joints at their loops' : 'Put joints into their limbs',
    does: `Each joint goes to ${WAYS[to ?? 'middle']}; what hangs below stays, and so does the skin, with binds made anew.`,
  }),
  params: object({
    bones: refsTo('bone', 'Joints').required(),
    to: choiceOf<Way>('Each goes to', WAYS).default('middle'),
    share: number().min(-1).max(1).default(0.5).meta({
      label: 'So far beside the middle',
      quantity: 'share',
      hint: 'A share of the radius; below 0 to the inside.',
    }),
  }),
  rows(character, { bones, to, share }, { unit }) {
    const placeOf = placesOf(character, to, share);
    return bones.flatMap((bone) => {
      const place = character.nodes[bone] ? placeOf(bone) : null;
      if (!place) return [];
      const off = distance(restPlace(character.nodes, bone), place);
      return [
        {
          label: `${character.nodes[bone].name}, from its place`,
          value: inUnit(off, unit),
          unit: unitSign(unit),
        },
      ];
    });
  },
  promises: () => promise(['places', 'binds', 'clips'], { holds: 'at rest' }),
  apply(character, { bones, to, share }): Character {
    if (bones.some((bone) => character.nodes[bone]?.kind !== 'bone'))
      throw new RemedyError('One of these joints is not there any more; choose them again.');
    const placeOf = placesOf(character, to, share);
    const places = new Map(
      bones.flatMap((bone): [number, Vec3][] => {
        const place = placeOf(bone);
        return place ? [[bone, place]] : [];
      }),
    );
    if (places.size === 0) throw new NothingToDo(NOWHERE[to]);
    const off = [...places].filter(
      ([bone, place]) => distance(restPlace(character.nodes, bone), place) > 1e-9,
    );
    if (off.length === 0) throw new NothingToDo('They stand there already; there is nothing to move.');
    return withJointsAt(character, new Map(off));
  },
});

const NOWHERE: Readonly<Record<Way, string>> = {
  middle: 'There is no closed limb around any of these joints; move them by hand.',
  loops:
    'The limbs of these joints have no loops that lie closer for them; put them into the middle, or move them by hand.',
  outside: 'None of these joints lies in a closed limb that bends at rest; move them by hand.',
};

function placesOf(character: Character, way: Way, share: number): PlaceOf {
  if (way === 'loops') {
    const pockets = new Map(jointLoopsOf(character).map(({ bone, pocket }) => [bone, pocket.middle]));
    return (bone) => pockets.get(bone) ?? null;
  }
  const sections = new Map(limbSectionsOf(character).map((section) => [section.bone, section]));
  // All limbs are cut together; the whole body only for a joint that is in none of them.
  if (way === 'middle') return (bone) => sections.get(bone)?.middle ?? limbMiddle(character, bone);
  return (bone) => {
    const section = sections.get(bone);
    return section?.outside ? wantedPlace(section, share) : null;
  };
}

import { object } from 'yup';
import { skeletonOf } from '../../../anatomy/skeleton';
import { exchangedSides } from '../../../anatomy/twins';
import { wrongSided } from '../../../anatomy/wrong-sides';
import { LANDMARKS } from '../../../contracts/aspect';
import { defineCheck } from '../../../contracts/check';
import { boneElements, theCharacter } from '../../../contracts/finding';

/** Names that say a side against where the bones stand. */
export const sidesCheck = defineCheck({
  id: 'sides',
  room: 'skeleton',
  title: 'Sides as the names say',
  why: 'A clip turns the bone that is called left: where that one stands on the right, the figure limps, and mirroring makes it worse.',
  kinds: ['two-legged', 'four-legged', 'winged'],
  settings: object({}),
  reads: [...LANDMARKS],
  run(character) {
    const { bones: wrong, areAll } = wrongSided(character);
    // Where all are exchanged the figure's facing says it.
    if (wrong.length === 0 || areAll) return [];
    const skeleton = skeletonOf(character);
    const bones = wrong.map((i) => skeleton.bones[i].node);
    const few = bones.slice(0, 3).map((bone) => `“${character.nodes[bone].name}”`);
    const more = bones.length > few.length ? ` and ${bones.length - few.length} more` : '';
    const table = exchangedSides(skeleton, wrong);
    const names = Object.keys(table).length;
    return [
      {
        gravity: 'stops',
        subject: theCharacter(character),
        unit: 'bones',
        message: `${bones.length === 1 ? 'A bone is' : `${bones.length} bones are`} called after the side that ${bones.length === 1 ? 'it does' : 'they do'} not stand on: ${few.join(', ')}${more}`,
        measured: bones.length,
        expected: 0,
        count: bones.length,
        evidence: [{ label: 'Bones concerned', now: bones.length, brief: 0, unit: 'bones' }],
        elements: [boneElements(bones)],
        remedies: names > 0 ? [{ id: 'rename', params: { table } }] : [],
      },
    ];
  },
});

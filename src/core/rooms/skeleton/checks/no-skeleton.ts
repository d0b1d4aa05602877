import { object } from 'yup';
import { bonesOf, meshNodesOf } from '../../../character/hierarchy';
import { defineCheck } from '../../../contracts/check';
import { theCharacter } from '../../../contracts/finding';

/** A character that has no bones. Every other check of a skeleton has nothing to say of it. */
export const noSkeletonCheck = defineCheck({
  id: 'no-skeleton',
  room: 'skeleton',
  title: 'A skeleton is there',
  why: 'Without bones nothing can move it, and none of the other checks of this room has looked at anything.',
  advice:
    'Add the file of its skeleton in Placement, or export it again with its bones; a prop by itself is added to the character that carries it.',
  settings: object({}),
  reads: ['tree', 'names', 'shows'],
  run(character) {
    if (bonesOf(character).length > 0) return [];
    return [
      {
        gravity: 'stops',
        subject: theCharacter(character),
        unit: 'bones',
        elements: [],
        count: 1,
        message: 'It has no bones',
        measured: 0,
        expected: 'a skeleton',
        evidence: [{ label: 'Bones', now: 0, brief: '≥ 1', unit: 'bones' }],
        remedies: meshNodesOf(character).length > 0 ? [{ id: 'put-skeleton', params: {} }] : [],
      },
    ];
  },
});

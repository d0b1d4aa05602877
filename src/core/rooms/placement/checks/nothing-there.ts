import { object } from 'yup';
import { bonesOf, meshNodesOf } from '../../../character/hierarchy';
import { defineCheck } from '../../../contracts/check';
import { theCharacter } from '../../../contracts/finding';

/** A scene without a bone and without a mesh. */
export const nothingThereCheck = defineCheck({
  id: 'nothing-there',
  room: 'placement',
  title: 'Something is there',
  why: 'An empty export passes every measure, since there is nothing to measure.',
  advice: 'Choose what is to be exported where it was made, and bring the file in again.',
  settings: object({}),
  reads: ['tree', 'names', 'shows'],
  run(character) {
    if (bonesOf(character).length + meshNodesOf(character).length > 0) return [];
    return [
      {
        gravity: 'stops',
        subject: theCharacter(character),
        unit: 'things',
        elements: [],
        count: 1,
        message: 'There is nothing in it: no mesh, no bone',
        measured: 0,
        expected: 'a character',
        evidence: [{ label: 'Meshes and bones', now: 0, brief: '≥ 1', unit: '' }],
      },
    ];
  },
});

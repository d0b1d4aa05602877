import { object } from 'yup';
import { meshNodesOf } from '../../../character/hierarchy';
import { defineCheck } from '../../../contracts/check';
import { theCharacter } from '../../../contracts/finding';

/** A character that shows no mesh. Every other check of a surface has nothing to say of it. */
export const noMeshCheck = defineCheck({
  id: 'no-mesh',
  room: 'surface',
  title: 'A mesh is there',
  why: 'A skeleton by itself can be a target or a motion; a character to hand over it is not.',
  advice:
    'Add the file of its body in Placement; as the skeleton that others are moved to it is good as it is.',
  settings: object({}),
  reads: ['tree', 'names', 'shows'],
  run(character) {
    if (meshNodesOf(character).length > 0) return [];
    return [
      {
        gravity: 'worth',
        subject: theCharacter(character),
        unit: 'meshes',
        elements: [],
        count: 1,
        message: 'It has no mesh',
        measured: 0,
        expected: 'a mesh',
        evidence: [{ label: 'Meshes that are shown', now: 0, brief: '≥ 1', unit: 'meshes' }],
      },
    ];
  },
});

import { object } from 'yup';
import { ancestorsOf, bonesOf, meshNodesOf } from '../../../character/hierarchy';
import { defineCheck } from '../../../contracts/check';
import { theCharacter } from '../../../contracts/finding';

/** Bones and meshes that have nothing to do with each other: none of the meshes is bound or hangs on a bone. */
export const notBoundCheck = defineCheck({
  id: 'not-bound',
  room: 'weights',
  title: 'Meshes on their bones',
  why: 'Bones that carry nothing move nothing, and none of the other checks of this room has looked at anything.',
  advice: 'Bind the mesh to its skeleton where it was made, and export it again.',
  settings: object({}),
  reads: ['tree', 'names', 'shows', 'weights'],
  run(character) {
    const { nodes, meshes } = character;
    const shown = meshNodesOf(character);
    if (shown.length === 0 || bonesOf(character).length === 0) return [];
    const isCarried = (i: number) =>
      (nodes[i].skin >= 0 && meshes[nodes[i].mesh].influences !== null) ||
      [i, ...ancestorsOf(nodes, i)].some((a) => nodes[a].kind === 'bone');
    if (shown.some(isCarried)) return [];
    return [
      {
        gravity: 'stops',
        subject: theCharacter(character),
        unit: 'meshes',
        elements: [{ kind: 'node', node: -1, ids: Uint32Array.from(shown) }],
        count: shown.length,
        message:
          shown.length === 1
            ? 'Its mesh is bound to no bone and hangs on none'
            : `None of its ${shown.length} meshes is bound to a bone or hangs on one`,
        measured: shown.length,
        expected: 0,
        evidence: [{ label: 'Meshes that no bone carries', now: shown.length, brief: 0, unit: 'meshes' }],
      },
    ];
  },
});

import { object } from 'yup';
import { theNode } from '../../../contracts/finding';
import { defineCheck } from '../../../contracts/check';
import { meshNodesOf } from '../../../character/hierarchy';
import { morphsAt } from '../../../character/morphs';

/** Morph targets that are on at rest. */
export const morphsOnCheck = defineCheck({
  id: 'morphs-on',
  room: 'placement',
  title: 'Morph targets off at rest',
  why: 'A target left on changes the shape that is measured, weighted and bound; the game switches it off and the shape jumps.',
  settings: object({}),
  reads: ['tree', 'names', 'shows', 'morphs'],
  run: (character) =>
    meshNodesOf(character).flatMap((i) => {
      const on = morphsAt(character, i);
      const count = on.filter((weight) => weight !== 0).length;
      if (count === 0) return [];
      const most = Math.max(...on.map(Math.abs));
      return [
        {
          gravity: 'worth',
          subject: theNode(character, i),
          unit: '',
          count,
          message: `“${character.nodes[i].name || `node ${i}`}” has ${count} morph ${count === 1 ? 'target' : 'targets'} on at rest, up to ${most.toFixed(2)}`,
          measured: most,
          expected: 0,
          evidence: [
            { label: 'Targets that are on', now: count, brief: 0, unit: '' },
            { label: 'The farthest on', now: most, brief: 0, unit: '' },
          ],
          elements: [{ kind: 'node', node: i, ids: Uint32Array.of(i) }],
          remedies: [{ id: 'morphs-off', params: { node: i } }],
        },
      ];
    }),
});

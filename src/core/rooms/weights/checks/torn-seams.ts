import { object } from 'yup';
import { shownMeshes } from '../../../character/measure';
import { type Found, defineCheck } from '../../../contracts/check';
import { tornSeams } from '../seams';

/** Seams whose vertices go with different bones: they tear open when the figure moves. */
export const tornSeamsCheck = defineCheck({
  id: 'torn-seams',
  room: 'weights',
  title: 'Seams that hold',
  why: 'Where a seam splits a point into several vertices all of them have to carry the same weights; else the surface tears open there as soon as a bone turns.',
  settings: object({}),
  reads: ['tree', 'names', 'shows', 'points', 'weights'],
  run: (character) =>
    shownMeshes(character).flatMap(({ node, mesh, skin }): Found[] => {
      const { vertices, points, most } = tornSeams(mesh);
      if (!skin || points === 0) return [];
      const name = character.nodes[node].name || mesh.name;
      return [
        {
          gravity: 'stops',
          subject: { kind: 'mesh', index: character.nodes[node].mesh, name },
          unit: 'pts',
          count: points,
          message: `${points} points on seams of “${name}” have vertices with different weights, by up to ${(most * 100).toFixed(0)} %: they tear open in motion`,
          measured: points,
          expected: 0,
          elements: [{ kind: 'vertex', node, ids: vertices }],
          evidence: [
            { label: 'Points that tear', now: points, brief: 0, unit: 'pts' },
            { label: 'Largest difference of a weight', now: most * 100, brief: 0, unit: '%' },
          ],
          remedies: [{ id: 'close-seams', params: { node } }],
        },
      ];
    }),
});

import { object } from 'yup';
import { defineCheck } from '../../../contracts/check';
import { LIMITS } from '../../../contracts/settings';
import { askVertices, liveAt } from './vertices';

/** Vertices of a bound mesh that no bone carries. */
export const noWeightCheck = defineCheck({
  id: 'no-weight',
  room: 'weights',
  title: 'Points that no bone carries',
  why: 'A point without weight stays behind at the origin while the rest of the mesh walks away.',
  settings: object({ ...LIMITS }),
  reads: ['tree', 'names', 'shows', 'points', 'weights'],
  run: (character, brief) =>
    askVertices(character, {
      gravity: 'stops',
      unit: 'bones',
      expected: 1,
      label: 'Bones at these points',
      wrong: (influences, vertex) => liveAt(influences, vertex) === 0,
      measure: () => 0,
      worse: () => false,
      message: (points, _worst, mesh) =>
        `${points} ${points === 1 ? 'point' : 'points'} of ${mesh} ${points === 1 ? 'carries' : 'carry'} no weight`,
      remedies: [{ id: 'fill-weights', params: { limit: brief.limits.influences } }],
    }),
});

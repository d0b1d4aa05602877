import { object } from 'yup';
import { defineCheck } from '../../../contracts/check';
import { LIMITS } from '../../../contracts/settings';
import { WEIGHT_SUMS } from '../../../contracts/weight-sums';
import { askVertices, liveAt, mostOf, sumAt } from './vertices';

/** Vertices whose weights do not sum to 1 (those without any weight are another check's). */
export const weightSumCheck = defineCheck({
  id: 'weight-sum',
  room: 'weights',
  title: 'Weights that do not sum to one',
  why: 'A point whose weights sum to less than one is drawn towards the origin as the character moves away from it, one above is thrown outwards.',
  settings: object({ ...LIMITS, ...WEIGHT_SUMS }),
  reads: ['tree', 'names', 'shows', 'points', 'weights'],
  measures: (character) => ({
    'weights.sumTolerance': mostOf(character, (influences, vertex) =>
      liveAt(influences, vertex) > 0 ? Math.abs(sumAt(influences, vertex) - 1) : 0,
    ),
  }),
  run: (character, brief) =>
    askVertices(character, {
      gravity: 'stops',
      unit: '',
      expected: 1,
      label: 'Sum farthest from one',
      wrong: (influences, vertex) =>
        liveAt(influences, vertex) > 0 &&
        Math.abs(sumAt(influences, vertex) - 1) > brief.weights.sumTolerance,
      measure: sumAt,
      worse: (a, b) => Math.abs(a - 1) > Math.abs(b - 1),
      message: (points, worst, mesh) =>
        `${points} points of ${mesh} do not sum to one; the farthest sums to ${Number(worst.toPrecision(6))}; the brief allows ± ${brief.weights.sumTolerance}`,
      remedies: [{ id: 'limit-influences', params: { limit: brief.limits.influences } }],
    }),
});

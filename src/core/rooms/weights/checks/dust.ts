import { object } from 'yup';
import { defineCheck } from '../../../contracts/check';
import { LIMITS } from '../../../contracts/settings';
import { WEIGHT_SUMS } from '../../../contracts/weight-sums';
import { askVertices } from './vertices';
import type { Influences } from '../../../character/model';

/** The lightest weight of a vertex that has several. */
const lightest = (influences: Influences, vertex: number): number => {
  let least = Infinity;
  let count = 0;
  for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++)
    if (influences.weight[k] > 0) {
      count++;
      least = Math.min(least, influences.weight[k]);
    }
  return count > 1 ? least : Infinity;
};

/** Weights so small that nobody sees what they do. */
export const dustCheck = defineCheck({
  id: 'weight-dust',
  room: 'weights',
  title: 'Weights that do next to nothing',
  why: 'Tiny weights cost a bone’s place at their point and are found by nobody until the bone is turned far; most are left over from smoothing or from a copy.',
  settings: object({ ...LIMITS, ...WEIGHT_SUMS }),
  reads: ['tree', 'names', 'shows', 'points', 'weights'],
  run(character, brief) {
    const { dust } = brief.weights;
    if (dust === 0) return [];
    return askVertices(character, {
      gravity: 'note',
      unit: '',
      expected: dust,
      label: 'Smallest weight',
      wrong: (influences, vertex) => lightest(influences, vertex) < dust,
      measure: lightest,
      worse: (a, b) => a < b,
      message: (points, worst, mesh) =>
        `${points} points of ${mesh} have weights below ${dust}; the smallest is ${Number(worst.toPrecision(2))}`,
      remedies: [{ id: 'limit-influences', params: { limit: brief.limits.influences, dust } }],
    });
  },
});

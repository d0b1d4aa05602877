import { object } from 'yup';
import { defineCheck } from '../../../contracts/check';
import type { Influences } from '../../../character/model';
import { LIMITS } from '../../../contracts/settings';
import { askVertices } from './vertices';

/** How many entries of a vertex name a bone that one before it names as well. */
function doubledAt({ offsets, joint, weight }: Influences, vertex: number): number {
  let doubled = 0;
  for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++)
    for (let before = offsets[vertex]; before < k; before++)
      if (joint[before] === joint[k] && weight[before] > 0 && weight[k] > 0) {
        doubled++;
        break;
      }
  return doubled;
}

/** Points that list a bone more than once. */
export const doubledBonesCheck = defineCheck({
  id: 'doubled-bones',
  room: 'weights',
  title: 'Each bone once at a point',
  why: 'A bone that a point lists twice takes up two of its places, and tools that set its weight find only one of them.',
  settings: object({ ...LIMITS }),
  reads: ['tree', 'names', 'shows', 'points', 'weights'],
  run: (character) =>
    askVertices(character, {
      gravity: 'worth',
      unit: 'entries',
      expected: 0,
      label: 'Entries too many at a point',
      wrong: (influences, vertex) => doubledAt(influences, vertex) > 0,
      measure: doubledAt,
      worse: (a, b) => a > b,
      message: (points, worst, mesh) =>
        `${points} points of ${mesh} list a bone twice, by up to ${worst} entries too many`,
      remedies: [{ id: 'join-entries', params: {} }],
    }),
});

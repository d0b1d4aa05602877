import { object } from 'yup';
import { defineCheck } from '../../../contracts/check';
import { LIMITS } from '../../../contracts/settings';
import { askVertices, liveAt, mostOf } from './vertices';

/** Vertices with more influences than the brief allows. */
export const influenceLimitCheck = defineCheck({
  id: 'influence-limit',
  room: 'weights',
  title: 'More bones per point than the brief allows',
  why: 'The engine keeps the heaviest few and drops the rest, by its own rule and without a word; better to choose here and see what it does.',
  settings: object({ ...LIMITS }),
  reads: ['tree', 'names', 'shows', 'points', 'weights'],
  measures: (character) => ({ 'limits.influences': mostOf(character, liveAt) }),
  run: (character, brief) =>
    askVertices(character, {
      gravity: 'stops',
      unit: 'bones',
      expected: brief.limits.influences,
      label: 'Most bones at one point',
      wrong: (influences, vertex) =>
        influences.offsets[vertex + 1] - influences.offsets[vertex] > brief.limits.influences &&
        liveAt(influences, vertex) > brief.limits.influences,
      measure: liveAt,
      worse: (a, b) => a > b,
      message: (points, worst, mesh) =>
        `${points} points of ${mesh} hold up to ${worst} bones; the brief allows ${brief.limits.influences}`,
      remedies: [{ id: 'limit-influences', params: { limit: brief.limits.influences } }],
    }),
});

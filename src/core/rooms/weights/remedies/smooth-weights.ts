import { boolean, number, object } from 'yup';
import { placesOfPoints } from '../../../character/point-places';
import { topologyOf } from '../../../character/topology';
import { defineRemedy } from '../../../contracts/remedy';
import { smoothedRows } from '../../../geometry/smooth-rows';
import { chosenPoints, lockedBones, nodesOf, promiseOfEdit, rowsOfChoice, withEditedRows } from '../edits';
import { steepestStep } from '../steps';

/** Weights of chosen points smoothed over the surface. */
export const smoothWeights = defineRemedy({
  id: 'smooth-weights',
  room: 'weights',
  title: 'Smooth the weights',
  does: 'The weights of the chosen points go towards those of their neighbours along the surface, round by round. Sums stay one, and the rim of the choice stays soft.',
  params: object({
    vertices: chosenPoints(),
    rounds: number().integer().min(1).max(200).default(5).meta({ quantity: 'count', label: 'Rounds' }),
    strength: number().min(0.01).max(1).default(0.5).meta({ quantity: 'share', label: 'Strength' }),
    isSoft: boolean().default(true).meta({ label: 'Fade in from the rim' }),
    locked: lockedBones(),
  }),
  rows: (character, { vertices }) => [
    ...rowsOfChoice(character, vertices, []),
    { label: 'Steepest step between neighbours', value: steepestStep(character, vertices), unit: '' },
  ],
  promises: (character, { vertices }) => promiseOfEdit(character, nodesOf(vertices)),
  apply: (character, { vertices, rounds, strength, isSoft, locked }) =>
    withEditedRows(character, vertices, {
      locked,
      nothing: 'The chosen points are as smooth as their neighbours make them.',
      edit({ mesh, weights, locked: lockedJoints }, points) {
        const rows = smoothedRows(
          points,
          (point) => weights.rowOf(point),
          topologyOf(mesh).neighbours,
          placesOfPoints(mesh),
          {
            rounds,
            strength,
            locked: lockedJoints,
            softRings: isSoft ? SOFT_RINGS : 0,
          },
        );
        points.forEach((point, i) => weights.put(point, rows[i]));
      },
    }),
});

/** Rings over which the smoothing fades in. */
const SOFT_RINGS = 2;

import { object } from 'yup';
import type { Character } from '../../../character/model';
import { PointWeights, pointsOfVertices } from '../../../character/point-weights';
import { defineRemedy } from '../../../contracts/remedy';
import { meanShares, normalisedShares } from '../../../geometry/row-edits';
import {
  type PointChoice,
  boundMesh,
  chosenPoints,
  nodesOf,
  promiseOfEdit,
  rowsOfChoice,
  withEditedRows,
} from '../edits';
import { stepBetween } from '../steps';

/** PointChoice points all get the mean of what they have. */
export const averageWeights = defineRemedy({
  id: 'average-weights',
  room: 'weights',
  title: 'Give all the same weights',
  does: 'The chosen points all get the mean of their weights, so that they move as one.',
  params: object({ vertices: chosenPoints() }),
  rows: (character, { vertices }) => [
    ...rowsOfChoice(character, vertices, []),
    { label: 'Farthest from their mean', value: farthestFromMean(character, vertices), unit: '%' },
  ],
  promises: (character, { vertices }) => promiseOfEdit(character, nodesOf(vertices)),
  apply: (character, { vertices }) =>
    withEditedRows(character, vertices, {
      nothing: 'The chosen points carry the same weights already.',
      edit({ weights }, points) {
        const mean = meanShares(points.map((point) => weights.rowOf(point)));
        if (mean.size > 0) for (const point of points) weights.put(point, mean);
      },
    }),
});

/** How far the row of any chosen point is from the mean of those of its mesh, %. */
function farthestFromMean(character: Character, chosen: PointChoice): number {
  let most = 0;
  for (const node of nodesOf(chosen)) {
    const { mesh } = boundMesh(character, node);
    const weights = new PointWeights(mesh);
    const vertices = chosen.filter((some) => some.node === node).flatMap(({ ids }) => Array.from(ids));
    const rows = pointsOfVertices(mesh, vertices).map((point) => normalisedShares(weights.rowOf(point)));
    const mean = meanShares(rows);
    for (const row of rows) most = Math.max(most, stepBetween(row, mean));
  }
  return Number((most * 100).toFixed(2));
}

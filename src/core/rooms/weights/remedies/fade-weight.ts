import { number, object } from 'yup';
import { lengthOf, refTo } from '../../../contracts/params';
import { pointsOf } from '../../../character/points';
import { placesOfPoints } from '../../../character/point-places';
import { defineRemedy } from '../../../contracts/remedy';
import { surfaceDistances } from '../../../geometry/surface-distance';
import { normalisedShares, withShare } from '../../../geometry/row-edits';
import { falloff } from '../../../geometry/weight-brush';
import {
  chosenPoints,
  jointAbove,
  lockedBones,
  nodesOf,
  promiseOfEdit,
  rowsOfChoice,
  withEditedRows,
} from '../edits';

/** A measured share of a bone on chosen points, that fades along the surface round them. */
export const fadeWeight = defineRemedy({
  id: 'fade-weight',
  room: 'weights',
  title: 'Add some of a bone, fading',
  does: 'The chosen points get at least this much of the bone, and the points round them less and less, along the surface, until nothing is added at the distance given.',
  params: object({
    vertices: chosenPoints(),
    bone: refTo('bone', 'Bone'),
    share: number().min(0).max(1).default(0.25).meta({ quantity: 'weight', label: 'Weight' }),
    distance: lengthOf('Fades over').default(0.1),
    locked: lockedBones(),
  }),
  rows: (character, { vertices, bone }) => rowsOfChoice(character, vertices, [bone]),
  promises: (character, { vertices }) => promiseOfEdit(character, nodesOf(vertices)),
  apply: (character, { vertices, bone, share, distance, locked }) =>
    withEditedRows(character, vertices, {
      bones: [bone],
      locked,
      nothing: 'The points have as much of the bone already.',
      edit({ character: now, node, mesh, weights, joints, locked: lockedJoints }, points) {
        const { pointOfVertex, pointCount } = pointsOf(mesh);
        const polygons = { offsets: mesh.polygonOffsets, corners: mesh.corners, pointOfVertex, pointCount };
        const away = surfaceDistances(polygons, placesOfPoints(mesh), points, distance);
        const rules = {
          locked: lockedJoints,
          otherwise: jointAbove(now, now.nodes[node].skin, bone, lockedJoints),
        };
        away.forEach((far, point) => {
          if (!(far <= distance)) return;
          const wanted = share * falloff(far / distance, 0);
          const row = normalisedShares(weights.rowOf(point));
          if ((row.get(joints[0]) ?? 0) < wanted)
            weights.put(point, withShare(row, joints[0], wanted, rules));
        });
      },
    }),
});

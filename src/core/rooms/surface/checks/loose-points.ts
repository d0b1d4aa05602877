import { object } from 'yup';
import { defineCheck } from '../../../contracts/check';
import { foundInMeshes } from '../found-in-mesh';
import { soundnessOf } from '../soundness';

/** Points that no face has: nobody sees them, and yet they are bound, counted and measured. */
export const loosePointsCheck = defineCheck({
  id: 'loose-points',
  room: 'surface',
  title: 'Loose points',
  why: 'A point that no face has is not drawn, but it is counted, bound and measured: a figure seems taller than it is, and weights are missing where nothing shows it.',
  settings: object({}),
  reads: ['tree', 'names', 'shows', 'points', 'polygons', 'weights'],
  run: (character) =>
    foundInMeshes(character, ({ node, mesh }, name) => {
      const { loose } = soundnessOf(mesh);
      return {
        count: loose.length,
        unit: 'pts',
        message: `“${name}” has ${loose.length === 1 ? 'a point' : `${loose.length} points`} that no face has`,
        label: 'Points that no face has',
        kind: 'vertex',
        ids: loose,
        remedies: [{ id: 'remove-loose-points', params: { node } }],
      };
    }),
});

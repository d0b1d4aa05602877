import { object } from 'yup';
import { defineCheck } from '../../../contracts/check';
import { foundInMeshes } from '../found-in-mesh';
import { soundnessOf } from '../soundness';

/** Faces that lie over themselves. */
export const crossedFacesCheck = defineCheck({
  id: 'crossed-faces',
  room: 'surface',
  title: 'Faces that do not cross themselves',
  why: 'A face whose outline crosses itself is cut into triangles of which some look inward: it flickers, and light falls on it from two sides at once.',
  settings: object({}),
  reads: ['tree', 'names', 'shows', 'points', 'polygons', 'weights'],
  run: (character) =>
    foundInMeshes(character, ({ node, mesh }, name) => {
      const { crossed } = soundnessOf(mesh);
      return {
        count: crossed.length,
        unit: 'faces',
        message: `${crossed.length === 1 ? 'A face' : `${crossed.length} faces`} of “${name}” ${crossed.length === 1 ? 'crosses itself' : 'cross themselves'}`,
        label: 'Faces that cross themselves',
        kind: 'polygon',
        ids: crossed,
        remedies: [{ id: 'mend-crossed-faces', params: { node } }],
      };
    }),
});

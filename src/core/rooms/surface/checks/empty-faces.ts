import { object } from 'yup';
import { defineCheck } from '../../../contracts/check';
import { foundInMeshes } from '../found-in-mesh';
import { soundnessOf } from '../soundness';

/** Faces that have no area, and those that lie on another one, wound as it is. */
export const emptyFacesCheck = defineCheck({
  id: 'empty-faces',
  room: 'surface',
  title: 'Faces without area, faces twice',
  why: 'A face without area has no normal, so that light and tangents go wrong round it; one that is there twice flickers, and stops loops and weights from spreading.',
  settings: object({}),
  reads: ['tree', 'names', 'shows', 'points', 'polygons', 'weights'],
  run: (character) =>
    foundInMeshes(character, ({ node, mesh }, name) => {
      const { withoutArea, doubled } = soundnessOf(mesh);
      const ids = Uint32Array.from(new Set([...withoutArea, ...doubled.same])).sort();
      const words = [
        ...(withoutArea.length > 0 ? [`${withoutArea.length} without area`] : []),
        ...(doubled.same.length > 0 ? [`${doubled.same.length} on top of another one`] : []),
      ];
      return {
        count: ids.length,
        unit: 'faces',
        message: `“${name}” has ${ids.length === 1 ? 'a face' : `${ids.length} faces`} too many: ${words.join(', ')}`,
        label: 'Faces without area, or twice',
        kind: 'polygon',
        ids,
        remedies: [{ id: 'remove-empty-faces', params: { node } }],
      };
    }),
});

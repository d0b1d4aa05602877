import { object } from 'yup';
import { shownMeshes } from '../../../character/measure';
import { defineCheck } from '../../../contracts/check';
import { foundInMeshes } from '../found-in-mesh';
import { SURFACE } from '../../../contracts/surface';
import { leastWidth, sliversOf } from '../slivers';

/** Widths that a brief learned from a character may ask for. */
const STEPS = [0.1, 0.05, 0.02, 0.01, 0.005, 0.002, 0.001];

/** Faces that are wide enough for their length. */
export const sliversCheck = defineCheck({
  id: 'slivers',
  room: 'surface',
  title: 'No face thin as a splinter',
  why: 'A face that is much longer than wide has a normal made of nearly nothing, shades in streaks, and costs as many pixels’ edges as one that is seen.',
  waiverReasons: ['It is a seam or a trim that is meant to be so narrow.'],
  settings: object({ surface: SURFACE }),
  reads: ['tree', 'names', 'shows', 'points', 'polygons', 'weights'],
  measures(character) {
    const least = Math.min(...shownMeshes(character).map(({ mesh }) => leastWidth(mesh)));
    return { 'surface.sliverWidth': STEPS.find((step) => step <= least) ?? 0 };
  },
  run(character, { surface: { sliverWidth } }) {
    if (sliverWidth === 0) return [];
    return foundInMeshes(character, ({ node, mesh }, name) => {
      const ids = sliversOf(mesh, sliverWidth);
      const share = `${Number((sliverWidth * 100).toPrecision(3))} %`;
      return {
        gravity: 'note',
        count: ids.length,
        unit: 'faces',
        message: `${ids.length === 1 ? 'A face' : `${ids.length} faces`} of “${name}” ${ids.length === 1 ? 'is' : 'are'} less wide than ${share} of ${ids.length === 1 ? 'its' : 'their'} length`,
        label: `Faces less wide than ${share} of their length`,
        kind: 'polygon',
        ids,
        remedies: [{ id: 'collapse-slivers', params: { node, width: sliverWidth } }],
      };
    });
  },
});

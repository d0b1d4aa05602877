import { object } from 'yup';
import { defineCheck } from '../../../contracts/check';
import { foundInMeshes } from '../found-in-mesh';
import { soundnessOf } from '../soundness';

/** Gaps in a surface that missing faces leave; openings that somebody modelled are none. */
export const holesCheck = defineCheck({
  id: 'holes',
  room: 'surface',
  title: 'No missing faces',
  why: 'Through a gap one sees the inside of a body, which is not drawn, and heat and smoothing leak out of it.',
  waiverReasons: ['It is an opening that is meant.', 'It is hidden under another part.'],
  settings: object({}),
  reads: ['tree', 'names', 'shows', 'points', 'polygons', 'weights'],
  run: (character) =>
    foundInMeshes(character, ({ node, mesh }, name) => {
      const { holes } = soundnessOf(mesh);
      const edges = holes.reduce((sum, { vertices }) => sum + vertices.length, 0);
      return {
        count: holes.length,
        unit: 'gaps',
        message: `“${name}” has ${holes.length === 1 ? 'a gap' : `${holes.length} gaps`} where faces are missing, ${edges} edges round ${holes.length === 1 ? 'it' : 'them'}`,
        label: 'Gaps',
        kind: 'edge',
        ids: Uint32Array.from(holes.flatMap(({ vertices }) => roundEdges(vertices))),
        remedies: [{ id: 'fill-holes', params: { node } }],
      };
    }),
});

/** The edges round a loop, two vertices each. */
const roundEdges = (vertices: Uint32Array): number[] =>
  [...vertices].flatMap((vertex, i) => [vertex, vertices[(i + 1) % vertices.length]]);

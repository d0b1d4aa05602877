import { object } from 'yup';
import { defineCheck } from '../../../contracts/check';
import { topologyOf } from '../../../character/topology';
import { foundInMeshes } from '../found-in-mesh';
import { soundnessOf } from '../soundness';

/** Edges of more than two faces, and points in which surfaces meet that have no edge in common. */
export const joinedWronglyCheck = defineCheck({
  id: 'joined-wrongly',
  room: 'surface',
  title: 'Edges of two faces',
  why: 'Where three faces meet in an edge, or two surfaces in a single point, there is no inside and outside: normals, loops, smoothing and binding by heat go astray there.',
  settings: object({}),
  reads: ['tree', 'names', 'shows', 'points', 'polygons', 'weights'],
  run: (character) =>
    foundInMeshes(character, ({ node, mesh }, name) => {
      const { crowded, pinched } = soundnessOf(mesh);
      const { next } = topologyOf(mesh).halfEdges;
      const edges = crowded.flatMap(([half]) => [mesh.corners[half], mesh.corners[next[half]]]);
      // A point by itself is an edge from it to itself.
      const points = [...pinched.keys()].flatMap((vertex) => [vertex, vertex]);
      const words = [
        ...(crowded.length > 0 ? [`${crowded.length} edges of more than two faces`] : []),
        ...(pinched.size > 0 ? [`${pinched.size} points in which surfaces meet without an edge`] : []),
      ];
      return {
        count: crowded.length + pinched.size,
        unit: 'places',
        message: `“${name}” is joined in a way that no surface is: ${words.join(', ')}`,
        label: 'Edges of more than two faces, points without an edge between',
        kind: 'edge',
        ids: Uint32Array.from([...edges, ...points]),
        remedies: [{ id: 'split-joins', params: { node } }],
      };
    }),
});

import { object } from 'yup';
import { defineCheck } from '../../../contracts/check';
import { shownMeshes } from '../../../character/measure';
import { wrongWinding } from '../winding';

/** Faces that are wound the wrong way round: a game that draws front sides only draws them from inside. */
export const windingCheck = defineCheck({
  id: 'winding',
  room: 'surface',
  title: 'Faces wound outward',
  why: 'A game draws the front sides of faces only: wound the wrong way round, a body is seen from inside, and light falls on it from behind.',
  settings: object({}),
  reads: ['tree', 'names', 'shows', 'points', 'polygons', 'shading', 'weights'],
  run(character) {
    return shownMeshes(character).flatMap(({ node, mesh }) => {
      const wrong = wrongWinding(mesh);
      if (!wrong) return [];
      const { mesh: index, name: own } = character.nodes[node];
      const name = own || mesh.name;
      const total = mesh.polygonOffsets.length - 1;
      const count = wrong.polygons.length;
      const which = count === total ? `All ${total} faces` : `${count} of ${total} faces`;
      const message = {
        normals: `${which} of “${name}” are wound against their normals`,
        neighbours: `${which} of “${name}” are wound the other way than those round them`,
        volume: `“${name}” is inside out: its faces and normals look inward`,
      }[wrong.by];
      return [
        {
          gravity: 'stops' as const,
          subject: { kind: 'mesh' as const, index, name },
          unit: 'faces',
          count,
          message,
          measured: count,
          expected: 0,
          elements: [{ kind: 'polygon' as const, node, ids: wrong.polygons }],
          evidence: [
            { label: 'Faces wound the wrong way', now: count, brief: 0, unit: 'faces' },
            { label: 'Faces in all', now: total, brief: '—', unit: 'faces' },
          ],
          remedies: [{ id: 'turn-faces', params: { node } }],
        },
      ];
    });
  },
});

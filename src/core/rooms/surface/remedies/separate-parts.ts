import { object, string } from 'yup';
import { freeName } from '../../../character/free-name';
import { withPolygonsApart } from '../../../character/split-mesh';
import { elementsTo } from '../../../contracts/params';
import { NothingToDo, defineRemedy } from '../../../contracts/remedy';
import { promiseOfMeshes } from '../mesh-of';
import { partsOfChoice, polygonsOfParts } from '../../../contracts/chosen-parts';

/** Gives parts a mesh of their own. */
export const separateParts = defineRemedy({
  id: 'separate-parts',
  room: 'surface',
  title: 'Separate parts to a mesh of their own',
  does: 'The parts that the chosen polygons belong to become a mesh of their own beside the one they were in: same place, skin, weights, material. Nothing moves.',
  params: object({
    polygons: elementsTo('polygons', 'Polygons').required(),
    name: string().trim().max(255).meta({ label: 'Name of the new mesh' }),
  }),
  rows: (character) => [
    { label: 'Meshes', value: character.meshes.length, unit: '' },
    {
      label: 'Polygons in all',
      value: character.meshes.reduce((sum, mesh) => sum + mesh.polygonOffsets.length - 1, 0),
      unit: '',
    },
  ],
  promises: (character, { polygons }) =>
    promiseOfMeshes(
      character,
      polygons.map(({ node }) => node),
    ),
  apply(character, { polygons, name }) {
    const chosen = polygonsOfParts(partsOfChoice(character, polygons));
    let out = character;
    for (const { node, ids } of chosen) {
      const mesh = out.meshes[out.nodes[node].mesh];
      const isMoved = new Uint8Array(mesh.polygonOffsets.length - 1);
      for (const id of ids) isMoved[id] = 1;
      if (!isMoved.includes(0)) continue;

      const wanted = name || `${out.nodes[node].name || mesh.name} part`;
      out = withPolygonsApart(out, node, isMoved, freeName(out, wanted));
    }
    if (out === character)
      throw new NothingToDo(
        'What is chosen is a mesh of its own already; choose a part of a mesh with several.',
      );
    return out;
  },
});

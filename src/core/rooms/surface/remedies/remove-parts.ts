import { object } from 'yup';
import { replaceAt } from '../../../character/model';
import { withoutPolygons } from '../../../character/split-mesh';
import { elementsTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { partsOf } from '../../../anatomy/parts';
import { partsOfChoice, polygonsOfParts } from '../../../contracts/chosen-parts';

/** Takes whole parts away, with their points and all that these carry. */
export const removeParts = defineRemedy({
  id: 'remove-parts',
  room: 'surface',
  title: 'Remove parts',
  does: 'The parts that the chosen polygons belong to go, with their points and weights; all others stay as they are.',
  params: object({ polygons: elementsTo('polygons', 'Polygons').required() }),
  rows: (character) => {
    const parts = partsOf(character);
    return [
      { label: 'Parts', value: parts.length, unit: '' },
      { label: 'Points', value: parts.reduce((sum, { points }) => sum + points, 0), unit: 'pts' },
    ];
  },
  promises: (character, { polygons }) => {
    const meshes = new Set(polygons.map(({ node }) => character.nodes[node]?.mesh));
    return promise(['points', 'shading', 'polygons', 'morphs', 'weights'], {
      meant: character.nodes.flatMap(({ mesh }, i) => (mesh >= 0 && meshes.has(mesh) ? [i] : [])),
    });
  },
  apply(character, { polygons }) {
    const gone = polygonsOfParts(partsOfChoice(character, polygons));
    if (gone.length === 0)
      throw new NothingToDo('No part is chosen; press one on the stage or in the table of parts first.');
    const left = new Map(
      gone.map(({ node, ids }) => {
        const index = character.nodes[node].mesh;
        const mesh = character.meshes[index];
        const isGone = new Uint8Array(mesh.polygonOffsets.length - 1);
        for (const id of ids) isGone[id] = 1;
        if (!isGone.includes(0))
          throw new RemedyError(
            `These are all parts of “${character.nodes[node].name}”; take the whole mesh out in Placement instead.`,
          );
        return [index, withoutPolygons(mesh, isGone)] as const;
      }),
    );
    return { ...character, meshes: replaceAt(character.meshes, left) };
  },
});

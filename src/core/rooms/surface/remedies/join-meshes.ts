import { object } from 'yup';
import { CannotJoin, withMeshesJoined } from '../../../character/join-meshes';
import { refsTo } from '../../../contracts/params';
import { promiseOfMeshes } from '../mesh-of';
import { NothingToDo, RemedyError, defineRemedy } from '../../../contracts/remedy';

/** Makes several meshes one. */
export const joinMeshes = defineRemedy({
  id: 'join-meshes',
  room: 'surface',
  title: 'Join meshes to one',
  does: 'The chosen meshes become one on the node of the first, each with its material, its weights and its morph targets. Nothing moves; seams between them stay.',
  params: object({ nodes: refsTo('mesh', 'Meshes').required() }),
  rows: (character) => [
    { label: 'Meshes', value: character.nodes.filter(({ mesh }) => mesh >= 0).length, unit: '' },
    {
      label: 'Polygons in all',
      value: character.meshes.reduce((sum, mesh) => sum + mesh.polygonOffsets.length - 1, 0),
      unit: '',
    },
  ],
  promises: (character, { nodes }) => promiseOfMeshes(character, nodes, ['joints', 'binds']),
  apply(character, { nodes }) {
    const chosen = [...new Set(nodes)];
    if (chosen.some((node) => (character.nodes[node]?.mesh ?? -1) < 0))
      throw new RemedyError('One of these shows no mesh; choose meshes only.');
    if (chosen.length < 2) throw new NothingToDo('One mesh is one already; choose two or more.');
    try {
      return withMeshesJoined(character, chosen[0], chosen.slice(1));
    } catch (error) {
      if (error instanceof CannotJoin) throw new RemedyError(error.message);
      throw error;
    }
  },
});

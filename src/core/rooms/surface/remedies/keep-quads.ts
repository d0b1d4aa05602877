import { object } from 'yup';
import { replaceAt } from '../../../character/model';
import { refTo } from '../../../contracts/params';
import { NothingToDo, defineRemedy, promise } from '../../../contracts/remedy';
import { meshOf } from '../mesh-of';

/** Writes the quads that were recovered from now on, no more the triangles that came. */
export const keepQuads = defineRemedy({
  id: 'keep-quads',
  room: 'surface',
  title: 'Write the recovered quads',
  does: 'From now on the mesh is written with the quads that were recovered from its triangles: as quads where the format knows them, in glTF encoded in its triangles. Nothing else changes.',
  params: object({ node: refTo('mesh', 'Mesh') }),
  rows: (character, { node }) => {
    const { polygonOrigin } = meshOf(character, node);
    return [{ label: 'Written as', value: polygonOrigin === 'encoded' ? 'quads' : 'triangles', unit: '' }];
  },
  promises: (character, { node }) =>
    promise(['polygons'], {
      meant: character.nodes.flatMap(({ mesh }, i) =>
        mesh >= 0 && mesh === character.nodes[node]?.mesh ? [i] : [],
      ),
    }),
  apply(character, { node }) {
    const mesh = meshOf(character, node);
    if (mesh.polygonOrigin !== 'recovered')
      throw new NothingToDo('No quads of this mesh were recovered from triangles; it is written as it is.');
    return {
      ...character,
      meshes: replaceAt(
        character.meshes,
        new Map([[character.nodes[node].mesh, { ...mesh, polygonOrigin: 'encoded' as const }]]),
      ),
    };
  },
});

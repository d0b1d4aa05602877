import { object } from 'yup';
import { looseVertices, remadeMesh } from '../../../character/remake-mesh';
import { refTo } from '../../../contracts/params';
import { NothingToDo, defineRemedy } from '../../../contracts/remedy';
import { meshOf, promiseOfMesh, withMeshOf } from '../mesh-of';
import { soundnessOf } from '../soundness';

/** Takes points away that no face has, with all that they carry. */
export const removeLoosePoints = defineRemedy({
  id: 'remove-loose-points',
  room: 'surface',
  title: 'Remove loose points',
  does: 'Points that no face has go, with their weights; faces and all other points stay as they are.',
  params: object({ node: refTo('mesh', 'Mesh') }),
  rows(character, { node }) {
    const mesh = meshOf(character, node);
    return [
      { label: 'Vertices', value: mesh.vertexCount, unit: '' },
      { label: 'Loose points', value: soundnessOf(mesh).loose.length, unit: 'pts' },
    ];
  },
  promises: (character, { node }) => promiseOfMesh(character, node),
  apply(character, { node }) {
    const mesh = meshOf(character, node);
    const goneVertices = looseVertices(mesh);
    if (!goneVertices.includes(1))
      throw new NothingToDo('Every point is of some face; there is nothing to remove.');
    return withMeshOf(character, node, remadeMesh(mesh, { goneVertices }));
  },
});

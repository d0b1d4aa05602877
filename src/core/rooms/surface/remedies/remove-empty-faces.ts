import { object } from 'yup';
import { remadeMesh } from '../../../character/remake-mesh';
import { refTo } from '../../../contracts/params';
import { NothingToDo, defineRemedy } from '../../../contracts/remedy';
import { meshOf, promiseOfMesh, withMeshOf } from '../mesh-of';
import { soundnessOf } from '../soundness';

/** Takes faces away that nobody sees, or sees twice. */
export const removeEmptyFaces = defineRemedy({
  id: 'remove-empty-faces',
  room: 'surface',
  title: 'Remove faces without area, and those that are there twice',
  does: 'Faces without area go, and of faces on top of each other all but one; backs of faces that are seen from both sides stay. No point goes or moves.',
  params: object({ node: refTo('mesh', 'Mesh') }),
  rows(character, { node }) {
    const mesh = meshOf(character, node);
    const { withoutArea, doubled } = soundnessOf(mesh);
    return [
      { label: 'Faces', value: mesh.polygonOffsets.length - 1, unit: 'faces' },
      { label: 'Without area', value: withoutArea.length, unit: 'faces' },
      { label: 'On top of another one', value: doubled.same.length, unit: 'faces' },
    ];
  },
  promises: (character, { node }) => promiseOfMesh(character, node),
  apply(character, { node }) {
    const mesh = meshOf(character, node);
    const { withoutArea, doubled } = soundnessOf(mesh);
    if (withoutArea.length + doubled.same.length === 0)
      throw new NothingToDo('Every face has an area, and none is there twice; there is nothing to remove.');
    const goneFaces = new Uint8Array(mesh.polygonOffsets.length - 1);
    for (const face of [...withoutArea, ...doubled.same]) goneFaces[face] = 1;
    return withMeshOf(character, node, remadeMesh(mesh, { goneFaces }));
  },
});

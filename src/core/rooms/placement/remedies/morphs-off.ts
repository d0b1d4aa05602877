import { object } from 'yup';
import { refTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { replaceAt } from '../../../character/model';
import { morphsAt } from '../../../character/morphs';

/** Sets the morph targets of one mesh to 0 at rest. The targets stay, and clips that move them too. */
export const morphsOff = defineRemedy({
  id: 'morphs-off',
  room: 'placement',
  title: 'Set the morph targets to 0',
  does: 'The targets are off at rest; they stay in the file, and clips move them as before.',
  params: object({ node: refTo('mesh', 'Mesh') }),
  rows(character, { node }) {
    const on = morphsAt(character, node);
    return [
      { label: 'Targets that are on', value: on.filter((weight) => weight !== 0).length, unit: '' },
      { label: 'The farthest on', value: Math.max(0, ...on.map(Math.abs)), unit: '' },
    ];
  },
  apply(character, { node }) {
    const sceneNode = character.nodes[node];
    if (!sceneNode || sceneNode.mesh < 0)
      throw new RemedyError('There is no mesh on that node; run the audit again.');
    if (morphsAt(character, node).every((morph) => morph === 0))
      throw new NothingToDo('Every morph target is off there already; there is nothing to set.');
    const mesh = character.meshes[sceneNode.mesh];
    const off = mesh.morphs.map(() => 0);
    const alone = character.nodes.filter((node) => node.mesh === sceneNode.mesh).length === 1;
    return {
      ...character,
      nodes: replaceAt(character.nodes, new Map([[node, { ...sceneNode, morphWeights: off }]])),
      meshes:
        mesh.morphWeights && alone
          ? character.meshes.map((mesh, i) => (i === sceneNode.mesh ? { ...mesh, morphWeights: off } : mesh))
          : character.meshes,
    };
  },
  promises: (_character, { node }) => promise(['morphs'], { meant: [node] }),
});

import { number, object } from 'yup';
import { type Remedy, NothingToDo, RemedyError } from '../../../contracts/types';
import { replaced } from '../../../character/model';
import { morphsAt } from '../../../character/morphs';
import { STILL } from '../../../character/similarity';

/** Sets the morph targets of one mesh to 0 at rest. The targets stay, and clips that move them too. */
export const morphsOff: Remedy<{ node: number }> = {
  id: 'morphs-off',
  room: 'placement',
  title: 'Set the morph targets to 0',
  does: 'The targets are off at rest; they stay in the file, and clips move them as before.',
  params: object({ node: number().integer().min(0).required() }),
  preview(character, { node }) {
    const on = morphsAt(character, node);
    return [
      { label: 'Targets that are on', before: on.filter((w) => w !== 0).length, after: 0, unit: '' },
      { label: 'The farthest on', before: Math.max(0, ...on.map(Math.abs)), after: 0, unit: '' },
    ];
  },
  apply(character, { node }) {
    const n = character.nodes[node];
    if (!n || n.mesh < 0) throw new RemedyError('There is no mesh on that node; run the audit again.');
    if (morphsAt(character, node).every((w) => w === 0))
      throw new NothingToDo('Every morph target is off there already; there is nothing to set.');
    const mesh = character.meshes[n.mesh];
    const off = mesh.morphs.map(() => 0);
    const alone = character.nodes.filter((m) => m.mesh === n.mesh).length === 1;
    return {
      ...character,
      nodes: replaced(character.nodes, new Map([[node, { ...n, morphWeights: off }]])),
      meshes:
        mesh.morphWeights && alone
          ? character.meshes.map((m, i) => (i === n.mesh ? { ...m, morphWeights: off } : m))
          : character.meshes,
    };
  },
  promises: (_character, { node }) => ({ similarity: STILL, meant: new Set([node]), holds: 'in every pose' }),
};

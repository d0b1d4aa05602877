import { object } from 'yup';
import { refsTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { ancestorsOf, meshNodesOf } from '../../../character/hierarchy';
import { type Character, type SceneNode, replaceAt } from '../../../character/model';
import { hungUnder } from '../../../character/rehang';
import { withRoots, withoutNodes } from '../../../character/remove';
import { leftoverData, sceneOf } from '../scene';

type Params = { nodes?: number[] };

function clearStrays(
  character: Character,
  { nodes: asked }: Params,
): { character: Character; gone: Set<number> } {
  const strays = sceneOf(character).strays;
  if (asked?.some((i) => !character.nodes[i]))
    throw new RemedyError('One of the nodes is not there any more; run the audit again.');
  const gone = new Set(asked && asked.length > 0 ? asked : strays.keys());
  const joints = new Set(character.skins.flatMap((skin) => skin.joints));
  const held = [...gone].find((i) => joints.has(i));
  if (held !== undefined)
    throw new RemedyError(
      `“${character.nodes[held].name}” is a joint of a skin; it cannot be removed as a stray.`,
    );
  // What hangs below a stray and counts is hung on the nearest ancestor that stays, in its place.
  const rehung = new Map<number, SceneNode>();
  character.nodes.forEach((node, i) => {
    if (gone.has(i) || node.parent < 0 || !gone.has(node.parent)) return;
    rehung.set(
      i,
      hungUnder(character, i, ancestorsOf(character.nodes, i).find((ancestor) => !gone.has(ancestor)) ?? -1),
    );
  });
  const kept =
    rehung.size > 0 ? withRoots({ ...character, nodes: replaceAt(character.nodes, rehung) }) : character;
  const after = withoutNodes(kept, gone).character;
  return { character: asked && asked.length > 0 ? after : withoutLeftovers(after), gone };
}

/** Skins and meshes that nothing shows, and weights of meshes that no skin binds, go. */
function withoutLeftovers(character: Character): Character {
  const left = leftoverData(character);
  if (left.skins.length + left.meshes.length + left.influences.length === 0) return character;
  const shift = (lost: readonly number[], index: number) => {
    let k = 0;
    return Array.from({ length: index }, (_, i) => (lost.includes(i) ? -1 : k++));
  };
  const meshOf = shift(left.meshes, character.meshes.length);
  const skinOf = shift(left.skins, character.skins.length);
  const bare = new Set(left.influences);
  return {
    ...character,
    meshes: character.meshes.flatMap((mesh, i) =>
      meshOf[i] < 0 ? [] : [bare.has(i) ? { ...mesh, influences: null, influenceStorage: null } : mesh],
    ),
    skins: character.skins.filter((_, i) => skinOf[i] >= 0),
    nodes: character.nodes.map((node) =>
      (node.mesh >= 0 && meshOf[node.mesh] !== node.mesh) ||
      (node.skin >= 0 && skinOf[node.skin] !== node.skin)
        ? {
            ...node,
            mesh: node.mesh < 0 ? -1 : meshOf[node.mesh],
            skin: node.skin < 0 ? -1 : skinOf[node.skin],
          }
        : node,
    ),
  };
}

/**
 * Removes what belongs to nobody: empty nodes, cameras, lights, hidden leftovers, and what is left of a bind
 * that is gone.
 */
export const removeStrays = defineRemedy({
  id: 'remove-strays',
  room: 'placement',
  title: 'Remove the strays',
  does: 'Empty nodes, cameras, lights, hidden leftovers and leftover bind data go; what hangs below them and counts stays in its place.',
  params: object({ nodes: refsTo('node', 'Nodes') }),
  rows(character) {
    const left = Object.values(leftoverData(character)).reduce((sum, list) => sum + list.length, 0);
    return [
      { label: 'Nodes', value: character.nodes.length, unit: 'nodes' },
      { label: 'Strays', value: sceneOf(character).strays.size, unit: 'nodes' },
      { label: 'Leftover skins, meshes and weights', value: left, unit: '' },
    ];
  },
  apply(character, params) {
    const after = clearStrays(character, params).character;
    if (
      after.nodes.length === character.nodes.length &&
      after.meshes === character.meshes &&
      after.skins.length === character.skins.length
    )
      throw new NothingToDo('There are no strays; nothing is to be removed.');
    return after;
  },
  promises(character, params) {
    const { gone } = clearStrays(character, params);
    return promise(['tree', 'places', 'shows', 'weights', 'joints', 'clips', 'sets', 'carried'], {
      meant: meshNodesOf(character).filter((i) => gone.has(i)),
    });
  },
});

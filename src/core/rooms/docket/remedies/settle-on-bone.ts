import { object } from 'yup';
import { bakedMesh, isIdentity } from '../../../character/baked';
import { ancestorsOf, childrenOf, localOf, restWorld } from '../../../character/hierarchy';
import { type Character, type SceneNode, replaceAt } from '../../../character/model';
import { hungUnder } from '../../../character/rehang';
import { withRoots } from '../../../character/remove';
import { refTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { inverseOr, times } from '../../../geometry/matrix';

/**
 * Hangs a rigid mesh right on the nearest bone that a skin lists, its whole transform in its points: then it stands
 * where it was for machines that forget transforms of mesh nodes, drop empties, or drop bones outside skins.
 */
export const settleOnBone = defineRemedy({
  id: 'settle-on-bone',
  room: 'docket',
  title: 'Bake the transform into the points',
  does: 'The mesh hangs right on the nearest bone of a skin; its place, rotation and scale are in its points. Nothing moves.',
  params: object({ node: refTo('mesh', 'Mesh') }),
  rows(character, { node }) {
    const bone = boneOf(character, node);
    return [
      {
        label: 'Nodes between it and its bone',
        value: bone < 0 ? '—' : ancestorsOf(character.nodes, node).indexOf(bone),
        unit: '',
      },
      {
        label: 'Transform of the node',
        value: isIdentity(localOf(character.nodes[node])) ? 'none' : 'its own',
        unit: '',
      },
    ];
  },
  apply(character, { node }) {
    const sceneNode = character.nodes[node];
    if (!sceneNode || sceneNode.mesh < 0 || sceneNode.skin >= 0)
      throw new RemedyError('Only a rigid mesh can be settled; choose a prop.');
    if (character.clips.some((clip) => clip.channels.some((ch) => ch.node === node && ch.path !== 'weights')))
      throw new RemedyError(
        `“${sceneNode.name}” is moved by a clip itself; take it out of the clip, or hang it on a bone that moves so.`,
      );
    const bone = boneOf(character, node);
    const holders = ancestorsOf(character.nodes, node);
    const between = bone < 0 ? holders : holders.slice(0, holders.indexOf(bone));
    if (character.clips.some((clip) => clip.channels.some((ch) => between.includes(ch.node))))
      throw new RemedyError(
        `What “${sceneNode.name}” hangs on is moved by a clip, and is no bone; make it one where it was made.`,
      );
    if (sceneNode.parent === bone && isIdentity(localOf(sceneNode)))
      throw new NothingToDo(`“${sceneNode.name}” is settled already; there is nothing to bake.`);
    return settled(character, node, bone);
  },
  promises: () =>
    promise([
      'tree',
      'places',
      'points',
      'shading',
      'polygons',
      'morphs',
      'shows',
      'joints',
      'binds',
      'carried',
    ]),
});

/**
 * The bone that a node can hang on: the nearest above it that a skin lists, since machines drop others; without skins
 * the nearest. −1 for none.
 */
function boneOf({ nodes, skins }: Character, node: number): number {
  const above = ancestorsOf(nodes, node).filter((ancestor) => nodes[ancestor].kind === 'bone');
  const listed = new Set(skins.flatMap((skin) => skin.joints));
  return above.find((a) => listed.has(a)) ?? above[0] ?? -1;
}

function settled(character: Character, node: number, bone: number): Character {
  const { nodes, meshes } = character;
  const world = restWorld(nodes);
  const own = world.slice(node * 16, node * 16 + 16);
  const into = bone < 0 ? own : times(inverseOr(world, bone * 16), own);
  const changed = new Map<number, SceneNode>();
  // What hangs below keeps its place: it hangs on the bone from now on.
  for (const child of childrenOf(nodes)[node]) changed.set(child, hungUnder(character, child, bone));
  const baked = bakedMesh(meshes[nodes[node].mesh], into);
  const isAlone = nodes.filter((sceneNode) => sceneNode.mesh === nodes[node].mesh).length === 1;
  const list = [...meshes];
  const mesh = isAlone ? nodes[node].mesh : list.push(baked) - 1;
  list[mesh] = baked;
  const { matrix: _matrix, ...rest } = nodes[node];
  changed.set(node, {
    ...rest,
    parent: bone,
    mesh,
    translation: [0, 0, 0],
    rotation: [0, 0, 0, 1],
    scale: [1, 1, 1],
  });
  return withRoots({ ...character, meshes: list, nodes: replaceAt(nodes, changed) });
}

import { object } from 'yup';
import { choiceOf, refTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { ancestorsOf, restWorld } from '../../../character/hierarchy';
import { type Channel, type Character, type SceneNode, replaceAt } from '../../../character/model';
import { withRoots, withoutNodes } from '../../../character/remove';
import { inverseOr } from '../../../geometry/matrix';
import { deformedMesh } from '../../../character/deform';
import { drivenTwice } from '../drivers';

export type Driver = 'bones' | 'parent' | 'only this';

/**
 * The nearest ancestor that neither is a bone nor is moved by a clip nor hangs below such a one; −1 for the
 * scene.
 */
function stillAbove(character: Character, node: number): number {
  const animated = new Set(
    character.clips.flatMap((clip) =>
      clip.channels.filter((ch) => ch.path !== 'weights').map((ch) => ch.node),
    ),
  );
  const moves = (i: number) => character.nodes[i].kind === 'bone' || animated.has(i);
  return (
    ancestorsOf(character.nodes, node).find(
      (ancestor) => !moves(ancestor) && !ancestorsOf(character.nodes, ancestor).some(moves),
    ) ?? -1
  );
}

function boundBy(character: Character, node: number): SceneNode {
  const sceneNode = character.nodes[node];
  if (!sceneNode || sceneNode.mesh < 0 || sceneNode.skin < 0 || !character.meshes[sceneNode.mesh].influences)
    throw new RemedyError('That node shows no bound mesh any more; run the audit again.');
  return sceneNode;
}

/**
 * One driver for a mesh that has two: its bones, or the node it hangs on; of a surface that is bound twice,
 * this one alone.
 */
export const chooseDriver = defineRemedy({
  id: 'choose-driver',
  room: 'placement',
  title: 'Leave it one driver',
  does: 'Bones: the mesh is unhooked from the node that moves it and follows its weights alone. Parent: its weights go and it follows the node it hangs on. Only this: the other node that shows the same surface goes.',
  params: object({
    node: refTo('mesh', 'Mesh'),
    driver: choiceOf<Driver>('Driver', {
      bones: 'its bones',
      parent: 'what it hangs on',
      'only this': 'this one alone',
    })
      .required()
      .meta({ given: true }),
  }),
  says: ({ driver }) => SAYS[driver],
  rows(character, { node }) {
    const sceneNode = character.nodes[node];
    return [
      { label: 'Driven twice', value: drivenTwice(character).length, unit: '' },
      {
        label: 'Hangs under',
        value: sceneNode.parent < 0 ? 'the scene' : character.nodes[sceneNode.parent].name,
        unit: '',
      },
      { label: 'Bound to bones', value: sceneNode.skin >= 0 ? 'yes' : 'no', unit: '' },
    ];
  },
  apply(character, { node, driver }) {
    const bound = boundBy(character, node);
    if (driver === 'only this') return leaveAlone(character, node);
    return driver === 'bones' ? leaveToBones(character, node, bound) : leaveToParent(character, node, bound);
  },
  promises(character, { node, driver }) {
    if (driver === 'bones') return promise(['tree', 'places', 'clips', 'carried'], { meant: [node] });
    if (driver === 'parent')
      return promise(['shows', 'points', 'shading', 'polygons', 'morphs', 'weights'], { meant: [node] });
    return promise(['tree', 'shows', 'carried'], { meant: othersThatShow(character, node) });
  },
});

const SAYS: Readonly<Record<Driver, { title: string; does: string }>> = {
  bones: {
    title: 'Leave it to its bones',
    does: 'The mesh is unhooked from the node that moves it and follows its weights alone.',
  },
  parent: {
    title: 'Leave it to what it hangs on',
    does: 'Its weights go; it follows the node that it hangs on, and keeps the shape that it shows at rest.',
  },
  'only this': {
    title: 'Leave the first alone',
    does: 'The other node that shows the same surface goes; this one stays bound as it is.',
  },
};

/** Other nodes that bind and show the surface of this one. */
const othersThatShow = (character: Character, node: number): number[] =>
  drivenTwice(character)
    .filter((twice) => twice.kind === 'bound twice' && (twice.node === node || twice.other === node))
    .map((twice) => (twice.node === node ? twice.other : twice.node));

function leaveAlone(character: Character, node: number): Character {
  const others = othersThatShow(character, node);
  if (others.length === 0)
    throw new NothingToDo(
      `Nothing else shows the surface of “${character.nodes[node].name}”; run the audit again.`,
    );
  const holds = (i: number) => character.nodes.some((node) => node.parent === i);
  const bare = new Map(
    others
      .filter(holds)
      .map((i): [number, SceneNode] => [i, { ...character.nodes[i], mesh: -1, skin: -1, kind: 'empty' }]),
  );
  const kept = { ...character, nodes: replaceAt(character.nodes, bare) };
  return withoutNodes(kept, new Set(others.filter((i) => !holds(i)))).character;
}

function leaveToBones(character: Character, node: number, sceneNode: SceneNode): Character {
  const parent = stillAbove(character, node);
  if (parent === sceneNode.parent)
    throw new NothingToDo(`“${sceneNode.name}” hangs under nothing that moves; choose another driver.`);
  const { matrix: _matrix, ...rest } = sceneNode;
  const moves = (ch: Channel) => ch.node === node && ch.path !== 'weights';
  const clips = character.clips.map((clip) =>
    clip.channels.some(moves) ? { ...clip, channels: clip.channels.filter((ch) => !moves(ch)) } : clip,
  );
  const free: SceneNode = {
    ...rest,
    parent,
    translation: [0, 0, 0],
    rotation: [0, 0, 0, 1],
    scale: [1, 1, 1],
  };
  return withRoots({ ...character, clips, nodes: replaceAt(character.nodes, new Map([[node, free]])) });
}

function leaveToParent(character: Character, node: number, sceneNode: SceneNode): Character {
  const isMoved = (a: number) =>
    character.nodes[a].kind === 'bone' ||
    character.clips.some((clip) => clip.channels.some((ch) => ch.node === a));
  if (!ancestorsOf(character.nodes, node).some(isMoved))
    throw new RemedyError(`“${sceneNode.name}” hangs on nothing that moves; choose the bones.`);
  // The shape as it stands at rest, seen from the node.
  const world = restWorld(character.nodes);
  const standing = deformedMesh(
    character.meshes[sceneNode.mesh],
    character.skins[sceneNode.skin],
    node,
    world,
  );
  const unbound = { ...standing, influences: null, influenceStorage: null };
  const local = deformedMesh(unbound, null, 0, inverseOr(world, node * 16));
  const alone = character.nodes.filter((node) => node.mesh === sceneNode.mesh).length === 1;
  const meshes = alone
    ? character.meshes.map((mesh, i) => (i === sceneNode.mesh ? local : mesh))
    : [...character.meshes, local];
  const hung = { ...sceneNode, skin: -1, mesh: alone ? sceneNode.mesh : meshes.length - 1 };
  return { ...character, meshes, nodes: replaceAt(character.nodes, new Map([[node, hung]])) };
}

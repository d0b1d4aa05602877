import { number, object, string } from 'yup';
import { type Compared, type Remedy, NothingToDo, RemedyError } from '../../../contracts/types';
import { ancestorsOf, restWorld } from '../../../character/hierarchy';
import { type Character, type SceneNode, replaced } from '../../../character/model';
import { withRoots, withoutNodes } from '../../../character/remove';
import { STILL } from '../../../character/similarity';
import { inverseOr } from '../../../geometry/matrix';
import { deformedMesh } from '../../../character/deform';
import { drivenTwice } from '../drivers';

export type Driver = 'bones' | 'parent' | 'only this';
type Params = { node: number; driver: Driver };

/** The nearest ancestor that neither is a bone nor is moved by a clip nor hangs below such a one; −1 for the scene. */
function stillAbove(character: Character, node: number): number {
  const animated = new Set(
    character.clips.flatMap((c) => c.channels.filter((ch) => ch.path !== 'weights').map((ch) => ch.node)),
  );
  const moves = (i: number) => character.nodes[i].kind === 'bone' || animated.has(i);
  return (
    ancestorsOf(character.nodes, node).find(
      (a) => !moves(a) && !ancestorsOf(character.nodes, a).some(moves),
    ) ?? -1
  );
}

function boundBy(character: Character, { node }: Params): SceneNode {
  const n = character.nodes[node];
  if (!n || n.mesh < 0 || n.skin < 0 || !character.meshes[n.mesh].influences)
    throw new RemedyError('That node shows no bound mesh any more; run the audit again.');
  return n;
}

/** One driver for a mesh that has two: its bones, or the node it hangs on; of a surface that is bound twice, this one alone. */
export const chooseDriver: Remedy<Params> = {
  id: 'choose-driver',
  room: 'placement',
  title: 'Leave it one driver',
  does: 'Bones: the mesh is unhooked from the node that moves it and follows its weights alone. Parent: its weights go and it follows the node it hangs on. Only this: the other node that shows the same surface goes.',
  params: object({
    node: number().integer().min(0).required(),
    driver: string<Driver>().oneOf(['bones', 'parent', 'only this']).required(),
  }),
  says: ({ driver }) =>
    ({
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
    })[driver],
  preview(character, params, brief) {
    const n = boundBy(character, params);
    const after = chooseDriver.apply(character, params, brief);
    const parent = (x: SceneNode, c: Character) => (x.parent < 0 ? 'the scene' : c.nodes[x.parent].name);
    const rows: Compared[] = [
      {
        label: 'Driven twice',
        before: drivenTwice(character).length,
        after: drivenTwice(after).length,
        unit: '',
      },
    ];
    if (params.driver === 'bones')
      rows.push({
        label: 'Hangs under',
        before: parent(n, character),
        after: parent(after.nodes[params.node], after),
        unit: '',
      });
    if (params.driver === 'parent')
      rows.push({ label: 'Bound to bones', before: 'yes', after: 'no', unit: '' });
    return rows;
  },
  apply(character, params) {
    const n = boundBy(character, params);
    const { node, driver } = params;
    const two = drivenTwice(character);
    if (driver === 'only this') {
      const others = two
        .filter((t) => t.kind === 'bound twice' && (t.node === node || t.other === node))
        .map((t) => (t.node === node ? t.other : t.node));
      if (others.length === 0)
        throw new NothingToDo(`Nothing else shows the surface of “${n.name}”; run the audit again.`);
      const holds = (i: number) => character.nodes.some((m) => m.parent === i);
      const bare = new Map(
        others
          .filter(holds)
          .map((i): [number, SceneNode] => [i, { ...character.nodes[i], mesh: -1, skin: -1, kind: 'empty' }]),
      );
      return withoutNodes(
        { ...character, nodes: replaced(character.nodes, bare) },
        new Set(others.filter((i) => !holds(i))),
      ).character;
    }
    if (driver === 'bones') {
      const parent = stillAbove(character, node);
      if (parent === n.parent)
        throw new NothingToDo(`“${n.name}” hangs under nothing that moves; choose another driver.`);
      const { matrix: _matrix, ...rest } = n;
      const clips = character.clips.map((c) =>
        c.channels.some((ch) => ch.node === node && ch.path !== 'weights')
          ? { ...c, channels: c.channels.filter((ch) => ch.node !== node || ch.path === 'weights') }
          : c,
      );
      const free: SceneNode = {
        ...rest,
        parent,
        translation: [0, 0, 0],
        rotation: [0, 0, 0, 1],
        scale: [1, 1, 1],
      };
      return withRoots({ ...character, clips, nodes: replaced(character.nodes, new Map([[node, free]])) });
    }
    if (
      n.parent < 0 ||
      !ancestorsOf(character.nodes, node).some(
        (a) =>
          character.nodes[a].kind === 'bone' ||
          character.clips.some((c) => c.channels.some((ch) => ch.node === a)),
      )
    )
      throw new RemedyError(`“${n.name}” hangs on nothing that moves; choose the bones.`);
    // The shape as it stands at rest, seen from the node.
    const world = restWorld(character.nodes);
    const standing = deformedMesh(character.meshes[n.mesh], character.skins[n.skin], node, world);
    const local = deformedMesh(
      { ...standing, influences: null, influenceStorage: null },
      null,
      0,
      inverseOr(world, node * 16),
    );
    const alone = character.nodes.filter((m) => m.mesh === n.mesh).length === 1;
    const meshes = alone
      ? character.meshes.map((m, i) => (i === n.mesh ? local : m))
      : [...character.meshes, local];
    return {
      ...character,
      meshes,
      nodes: replaced(
        character.nodes,
        new Map([[node, { ...n, skin: -1, mesh: alone ? n.mesh : meshes.length - 1 }]]),
      ),
    };
  },
  promises(character, params) {
    const others =
      params.driver === 'only this'
        ? drivenTwice(character)
            .filter((t) => t.node === params.node || t.other === params.node)
            .map((t) => (t.node === params.node ? t.other : t.node))
        : [params.node];
    return { similarity: STILL, meant: new Set(others), holds: 'in every pose' };
  },
};

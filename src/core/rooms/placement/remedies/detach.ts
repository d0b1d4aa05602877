import { object } from 'yup';
import { refTo } from '../../../contracts/params';
import { type Aspect } from '../../../contracts/aspect';
import { NothingToDo, RemedyError, type Row, defineRemedy, promise } from '../../../contracts/remedy';
import { ancestorsOf, branchOf, localOf, restWorld } from '../../../character/hierarchy';
import { type Character, type SceneNode, replaceAt } from '../../../character/model';
import { hungUnder, rebasedChannel, withLocal } from '../../../character/rehang';
import { withRoots } from '../../../character/remove';
import { composeMatrix, decompose } from '../../../geometry/matrix';
import { BAKED_ASPECTS, bakedOrSay } from './bake-scale';

const size = (character: Character, i: number) =>
  decompose(restWorld(character.nodes), i * 16)
    .scale.map((x) => Number(x.toPrecision(4)))
    .join(' × ');

/** The nearest ancestor that stands at scale 1 in the world; −1 for the scene. */
function unscaledAbove(character: Character, node: number): number {
  const world = restWorld(character.nodes);
  return (
    ancestorsOf(character.nodes, node).find((ancestor) => {
      const decomposed = decompose(world, ancestor * 16);
      return decomposed.shear < 1e-4 && decomposed.scale.every((factor) => Math.abs(factor - 1) < 1e-4);
    }) ?? -1
  );
}

function detachNode(character: Character, node: number, keepsSize: boolean): Character {
  const sceneNode = character.nodes[node];
  if (!sceneNode) throw new RemedyError('The node is not there any more; run the audit again.');
  const parent = unscaledAbove(character, node);
  if (sceneNode.parent === parent)
    throw new NothingToDo(
      `“${sceneNode.name}” hangs under nothing that is scaled; there is nothing to detach it from.`,
    );
  let hung = hungUnder(character, node, parent);
  if (!keepsSize) {
    const own = decompose(localOf(sceneNode)).scale;
    const now = decompose(localOf(hung));
    hung = withLocal(hung, composeMatrix(now.translation, now.rotation, own));
  }
  const clips = character.clips.map((clip) =>
    clip.channels.some((ch) => ch.node === node)
      ? {
          ...clip,
          channels: clip.channels.map((ch) => (ch.node === node ? rebasedChannel(ch, sceneNode, hung) : ch)),
        }
      : clip,
  );
  const free = withRoots({ ...character, nodes: replaceAt(character.nodes, new Map([[node, hung]])), clips });
  // What the node brought along, or kept, goes into its points, so that everything below it reads 1.
  const rest = decompose(localOf(hung));
  return rest.shear < 1e-6 && rest.scale.every((factor) => Math.abs(factor - 1) < 1e-9)
    ? free
    : bakedOrSay(free, node);
}

const params = object({ node: refTo('node', 'Node') });

const DETACHED_ASPECTS: readonly Aspect[] = ['tree', 'carried', ...BAKED_ASPECTS];

function rows(character: Character, { node }: { node: number }): Row[] {
  const { parent } = character.nodes[node];
  const own = decompose(localOf(character.nodes[node])).scale;
  return [
    { label: 'Hangs under', value: parent < 0 ? 'the scene' : character.nodes[parent].name, unit: '' },
    { label: 'Scale of its own', value: own.map((x) => Number(x.toPrecision(4))).join(' × '), unit: '×' },
    { label: 'Scale in the world', value: size(character, node), unit: '×' },
  ];
}

/** What hangs below a detached node, and what is bound to it. */
function concerned(character: Character, node: number): number[] {
  const inside = branchOf(character.nodes, [node]);
  const isBound = (node: SceneNode) =>
    node.skin >= 0 && character.skins[node.skin].joints.some((j) => inside[j]);
  return character.nodes.flatMap((node, i) => (node.mesh >= 0 && (inside[i] || isBound(node)) ? [i] : []));
}

/**
 * Unhooks a node from a scaled ancestor; it hangs under the nearest one that is not scaled, looks as before,
 * and its size goes into its points.
 */
export const detachKeepSize = defineRemedy({
  id: 'detach-keep-size',
  room: 'placement',
  title: 'Detach, keeping its size',
  does: 'The node hangs under the nearest ancestor that is not scaled and looks as before; its size goes into the points, so that it reads 1.',
  params,
  rows,
  apply: (character, { node }) => detachNode(character, node, true),
  promises: (character, { node }) => promise(DETACHED_ASPECTS, { meant: concerned(character, node) }),
});

/**
 * Unhooks a node from a scaled ancestor and lets it drop to the size that its own scale says; its place
 * stays.
 */
export const detachOwnSize = defineRemedy({
  id: 'detach-own-size',
  room: 'placement',
  title: 'Detach, dropping to its own size',
  does: 'The node hangs under the nearest ancestor that is not scaled; the inherited scale falls away, so that it takes the size its own numbers say. Its origin stays where it is.',
  params,
  rows,
  apply: (character, { node }) => detachNode(character, node, false),
  promises: (character, { node }) => promise(DETACHED_ASPECTS, { meant: concerned(character, node) }),
});

import { object } from 'yup';
import { placeOf, refTo, turnOf } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { inUnit } from '../../../contracts/units';
import { branchOf, restWorld } from '../../../character/hierarchy';
import { replaceAt } from '../../../character/model';
import { rebasedChannel, withLocal } from '../../../character/rehang';
import { composeMatrix, decompose, inverseOr, normalise4, times } from '../../../geometry/matrix';

/**
 * A prop, or a mesh that hangs loose, at another place and turned; its size and what it hangs on stay. World
 * space.
 */
export const placePart = defineRemedy({
  id: 'place-part',
  room: 'placement',
  title: 'Place a part',
  does: 'The part and what hangs below it go to another place and turn; its size, and what it hangs on, stay as they are.',
  params: object({
    node: refTo('node', 'Part'),
    place: placeOf('Place').required(),
    turn: turnOf('Turn').required(),
  }),
  rows(character, { node }, { unit }) {
    const { translation, rotation } = decompose(restWorld(character.nodes), node * 16);
    const name = character.nodes[node].name || `node ${node}`;
    return [
      ...['x', 'y', 'z'].map((axis, k) => ({
        label: `${name}, ${axis}`,
        value: inUnit(translation[k], unit),
        unit,
      })),
      {
        label: `${name}, turned by`,
        value: (2 * Math.acos(Math.min(1, Math.abs(rotation[3]))) * 180) / Math.PI,
        unit: '°',
      },
    ];
  },
  apply(character, { node, place, turn }) {
    const sceneNode = character.nodes[node];
    if (!sceneNode) throw new RemedyError('The part is not there any more; choose another.');
    if (sceneNode.kind === 'bone')
      throw new RemedyError(`“${sceneNode.name}” is a bone; move it as a joint.`);
    if (sceneNode.skin >= 0)
      throw new RemedyError(
        `“${sceneNode.name}” is bound to bones and goes where they go; place what hangs loose.`,
      );
    const world = restWorld(character.nodes);
    const now = decompose(world, node * 16);
    const wanted = composeMatrix(place, normalise4(turn), now.scale);
    const local = sceneNode.parent < 0 ? wanted : times(inverseOr(world, sceneNode.parent * 16), wanted);
    if (wanted.every((x, index) => Math.abs(x - world[node * 16 + index]) < 1e-9))
      throw new NothingToDo(`“${sceneNode.name}” stands there already; there is nothing to move.`);
    const placed = withLocal(sceneNode, local);
    const clips = character.clips.map((clip) =>
      clip.channels.some((ch) => ch.node === node)
        ? {
            ...clip,
            channels: clip.channels.map((ch) =>
              ch.node === node ? rebasedChannel(ch, sceneNode, placed) : ch,
            ),
          }
        : clip,
    );
    return { ...character, nodes: replaceAt(character.nodes, new Map([[node, placed]])), clips };
  },
  promises(character, { node }) {
    const inside = branchOf(character.nodes, [node]);
    const isCarried = (skin: number) => skin >= 0 && character.skins[skin].joints.some((j) => inside[j]);
    return promise(['places', 'clips'], {
      meant: character.nodes.flatMap((node, i) =>
        node.mesh >= 0 && (inside[i] || isCarried(node.skin)) ? [i] : [],
      ),
    });
  },
});

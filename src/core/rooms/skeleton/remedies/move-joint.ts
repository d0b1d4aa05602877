import { boolean, object } from 'yup';
import { placeOf, refTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { inUnit } from '../../../contracts/units';
import { branchOf, childrenOf, localOf, restPlace, restWorld } from '../../../character/hierarchy';
import type { Character, SceneNode } from '../../../character/model';
import { boundAnew } from '../../../character/place-joints';
import { withLocal } from '../../../character/rehang';
import { distance, inverseOr, times } from '../../../geometry/matrix';

/**
 * A joint at another place, with what hangs below it or alone; the skin stays where it is and is bound to the
 * new place.
 */
export const moveJoint = defineRemedy({
  id: 'move-joint',
  room: 'skeleton',
  title: 'Move a joint',
  does: 'The joint goes to another place, with all below it or alone; the skin stays where it is at rest, with binds made anew.',
  params: object({
    bone: refTo('bone', 'Joint'),
    place: placeOf('Place').required(),
    alone: boolean().default(false).meta({ label: 'Without what hangs below it' }),
  }),
  rows(character, { bone }, { unit }) {
    const place = restPlace(character.nodes, bone);
    return ['x', 'y', 'z'].map((axis, k) => ({
      label: `${character.nodes[bone].name}, ${axis}`,
      value: inUnit(place[k], unit),
      unit,
    }));
  },
  apply(character, { bone, place, alone }) {
    const { nodes } = character;
    if (nodes[bone]?.kind !== 'bone')
      throw new RemedyError('The joint is not there any more; choose another, or run the audit again.');
    if (distance(restPlace(nodes, bone), place) < 1e-9)
      throw new NothingToDo(`“${nodes[bone].name}” stands there already; there is nothing to move.`);
    const moved = movedNodes(character, bone, place, alone);
    return boundAnew(character, moved);
  },
  promises(character, { bone, alone }) {
    const inside = branchOf(character.nodes, [bone]);
    const carried = alone
      ? []
      : character.nodes.flatMap((node, i) => (node.mesh >= 0 && node.skin < 0 && inside[i] ? [i] : []));
    return promise(['places', 'binds', 'clips'], { meant: carried, holds: 'at rest' });
  },
});

/** The nodes whose local transform changes: the joint, and its children where they are to stay. */
function movedNodes(
  { nodes }: Character,
  bone: number,
  place: ArrayLike<number>,
  alone: boolean,
): ReadonlyMap<number, SceneNode> {
  const world = restWorld(nodes);
  const moved = world.slice(bone * 16, bone * 16 + 16);
  moved.set([place[0], place[1], place[2]], 12);
  const { parent } = nodes[bone];
  const local = parent < 0 ? moved : times(inverseOr(world, parent * 16), moved);
  const out = new Map([[bone, withLocal(nodes[bone], local)]]);
  if (!alone) return out;
  const back = inverseOr(moved);
  for (const child of childrenOf(nodes)[bone])
    out.set(
      child,
      withLocal(
        nodes[child],
        times(back, times(world.subarray(bone * 16, bone * 16 + 16), localOf(nodes[child]))),
      ),
    );
  return out;
}

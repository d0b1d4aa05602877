import { object } from 'yup';
import { refTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { boundNodes } from '../../../character/held-by';
import { withWeightGiven } from '../../../character/give-weight';
import type { Character } from '../../../character/model';
import { parentBone, weightOfNodes } from '../../../character/hierarchy';
import { type CarriersBrief, unweightedBones } from '../kinds';

/** The nearest bone above a bone that may carry weight; −1 where there is none. */
function heirOf(character: Character, bone: number, brief: CarriersBrief): number {
  const whyNot = unweightedBones(character, brief);
  for (
    let ancestor = parentBone(character.nodes, bone);
    ancestor >= 0;
    ancestor = parentBone(character.nodes, ancestor)
  )
    if (whyNot(ancestor) === null) return ancestor;
  return -1;
}

/** Gives all weight of one bone to the nearest bone above it that is allowed to carry it. */
export const giveToParent = defineRemedy({
  id: 'give-to-parent',
  room: 'weights',
  title: 'Give its weight to the parent',
  does: 'All weight of the bone goes to the nearest bone above it that may carry weight, point by point; no other bone changes.',
  params: object({ bone: refTo('bone', 'Bone') }),
  order: 'below first',
  rows(character, { bone }, brief: CarriersBrief) {
    const weight = weightOfNodes(character);
    return [bone, heirOf(character, bone, brief)].flatMap((b) =>
      b < 0 ? [] : [{ label: `Weight of ${character.nodes[b].name}`, value: weight[b], unit: '' }],
    );
  },
  promises: (character) =>
    promise(['weights', 'joints', 'binds'], { meant: boundNodes(character), holds: 'at rest' }),
  apply(character, { bone }, brief: CarriersBrief) {
    const parent = character.nodes[bone] ? heirOf(character, bone, brief) : -1;
    if (parent < 0) throw new RemedyError('No bone above it can take its weight; assign it by hand.');
    if (!(weightOfNodes(character)[bone] > 0))
      throw new NothingToDo(`“${character.nodes[bone].name}” carries no weight; there is nothing to give.`);
    return withWeightGiven(character, new Map([[bone, parent]]));
  },
});

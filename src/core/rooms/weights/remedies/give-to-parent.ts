import { object } from 'yup';
import { refTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { boundNodes } from '../bound';
import type { Character, Influences, Skin } from '../../../character/model';
import { parentBone, restWorld, weightOfNodes } from '../../../character/hierarchy';
import { type CarriersBrief, unweightedBones } from '../kinds';
import { inverseOr, times } from '../../../geometry/matrix';

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
    const world = restWorld(character.nodes);
    const skins: Skin[] = [...character.skins];
    const meshes = [...character.meshes];
    character.skins.forEach((skin, i) => {
      const from = skin.joints.indexOf(bone);
      if (from < 0) return;
      let to = skin.joints.indexOf(parent);
      if (to < 0) {
        to = skin.joints.length;
        const inverseBinds = new Float64Array((to + 1) * 16);
        inverseBinds.set(skin.inverseBinds);
        inverseBinds.set(
          times(
            inverseOr(world, parent * 16),
            times(world.subarray(bone * 16, bone * 16 + 16), skin.inverseBinds, 0, from * 16),
          ),
          to * 16,
        );
        skins[i] = { ...skin, joints: [...skin.joints, parent], inverseBinds };
      }
      character.nodes.forEach((node) => {
        const influences = node.skin === i && node.mesh >= 0 ? character.meshes[node.mesh].influences : null;
        if (influences && meshes[node.mesh] === character.meshes[node.mesh])
          meshes[node.mesh] = {
            ...character.meshes[node.mesh],
            influences: moveWeight(influences, from, to),
          };
      });
    });
    return { ...character, skins, meshes };
  },
});

/** Rows in which joint `from` has become joint `to`; where both stood, one entry with the sum. */
function moveWeight(influences: Influences, from: number, to: number): Influences {
  const count = influences.offsets.length - 1;
  const offsets = new Uint32Array(count + 1);
  const joint = influences.joint.slice();
  const weight = influences.weight.slice();
  let offset = 0;
  for (let vertex = 0; vertex < count; vertex++) {
    const start = offset;
    for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++) {
      const j = influences.joint[k] === from ? to : influences.joint[k];
      let at = start;
      while (at < offset && joint[at] !== j) at++;
      if (at < offset) {
        weight[at] += influences.weight[k];
      } else {
        joint[offset] = j;
        weight[offset++] = influences.weight[k];
      }
    }
    offsets[vertex + 1] = offset;
  }
  return { offsets, joint: joint.slice(0, offset), weight: weight.slice(0, offset) };
}

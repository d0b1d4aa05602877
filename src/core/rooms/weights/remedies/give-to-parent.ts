import { object } from 'yup';
import { refTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { boundNodes } from '../bound';
import type { Character, Influences, Skin } from '../../../character/model';
import { parentBone, restWorld, weightOfNodes } from '../../../character/hierarchy';
import { type KindsBrief, kindsOfBones } from '../kinds';
import { inverseOr, times } from '../../../geometry/matrix';

/** The nearest bone above a bone that may carry weight; −1 where there is none. */
function heirOf(character: Character, bone: number, brief: KindsBrief): number {
  const kindOf = kindsOfBones(character, brief);
  for (let b = parentBone(character.nodes, bone); b >= 0; b = parentBone(character.nodes, b))
    if (kindOf(b) === 'plain') return b;
  return -1;
}

/** Gives all weight of one bone to the nearest bone above it that is neither an end nor a control. */
export const giveToParent = defineRemedy({
  id: 'give-to-parent',
  room: 'weights',
  title: 'Give its weight to the parent',
  does: 'All weight of the bone goes to the nearest bone above it that is no end and no control, point by point; no other bone changes.',
  params: object({ bone: refTo('bone', 'Bone') }),
  rows(character, { bone }, brief: KindsBrief) {
    const weight = weightOfNodes(character);
    return [bone, heirOf(character, bone, brief)].flatMap((b) =>
      b < 0 ? [] : [{ label: `Weight of ${character.nodes[b].name}`, value: weight[b], unit: '' }],
    );
  },
  promises: (character) =>
    promise(['weights', 'joints', 'binds'], { meant: boundNodes(character), holds: 'at rest' }),
  apply(character, { bone }, brief: KindsBrief) {
    const parent = character.nodes[bone] ? heirOf(character, bone, brief) : -1;
    if (parent < 0) throw new RemedyError('No bone above it can take its weight; assign it by hand.');
    if (!(weightOfNodes(character)[bone] > 0))
      throw new NothingToDo(`“${character.nodes[bone].name}” carries no weight; there is nothing to give.`);
    const world = restWorld(character.nodes);
    const skins: Skin[] = [...character.skins];
    const meshes = [...character.meshes];
    character.skins.forEach((s, i) => {
      const from = s.joints.indexOf(bone);
      if (from < 0) return;
      let to = s.joints.indexOf(parent);
      if (to < 0) {
        to = s.joints.length;
        const inverseBinds = new Float64Array((to + 1) * 16);
        inverseBinds.set(s.inverseBinds);
        inverseBinds.set(
          times(
            inverseOr(world, parent * 16),
            times(world.subarray(bone * 16, bone * 16 + 16), s.inverseBinds, 0, from * 16),
          ),
          to * 16,
        );
        skins[i] = { ...s, joints: [...s.joints, parent], inverseBinds };
      }
      character.nodes.forEach((n) => {
        const f = n.skin === i && n.mesh >= 0 ? character.meshes[n.mesh].influences : null;
        if (f && meshes[n.mesh] === character.meshes[n.mesh])
          meshes[n.mesh] = { ...character.meshes[n.mesh], influences: moveWeight(f, from, to) };
      });
    });
    return { ...character, skins, meshes };
  },
});

/** Rows in which joint `from` has become joint `to`; where both stood, one entry with the sum. */
function moveWeight(f: Influences, from: number, to: number): Influences {
  const n = f.offsets.length - 1;
  const offsets = new Uint32Array(n + 1);
  const joint = f.joint.slice();
  const weight = f.weight.slice();
  let o = 0;
  for (let v = 0; v < n; v++) {
    const start = o;
    for (let k = f.offsets[v]; k < f.offsets[v + 1]; k++) {
      const j = f.joint[k] === from ? to : f.joint[k];
      let at = start;
      while (at < o && joint[at] !== j) at++;
      if (at < o) {
        weight[at] += f.weight[k];
      } else {
        joint[o] = j;
        weight[o++] = f.weight[k];
      }
    }
    offsets[v + 1] = o;
  }
  return { offsets, joint: joint.slice(0, o), weight: weight.slice(0, o) };
}

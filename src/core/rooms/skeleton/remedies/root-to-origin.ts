import { object } from 'yup';
import { refTo } from '../../../contracts/params';
import { RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { inUnit } from '../../../contracts/units';
import { childrenOf, restPlace, restWorld } from '../../../character/hierarchy';
import { rebasedChannel, withLocal } from '../../../character/rehang';
import { type SceneNode, replaceAt } from '../../../character/model';
import { inverseOr, length, times } from '../../../geometry/matrix';

/** Moves one bone to the world origin; everything below it, and the skin, stays where it is. */
export const rootToOrigin = defineRemedy({
  id: 'root-to-origin',
  room: 'skeleton',
  title: 'Move the root to the origin',
  does: 'The root goes to the origin alone: its children and the skin stay in place, its inverse bind is made anew.',
  params: object({ bone: refTo('bone', 'Bone') }),
  rows: (character, { bone }, { unit }) => [
    { label: 'Root to origin', value: inUnit(length(restPlace(character.nodes, bone)), unit), unit },
  ],
  promises: () => promise(['places', 'binds', 'clips'], { holds: 'at rest' }),
  apply(character, { bone }) {
    const { nodes } = character;
    if (!nodes[bone]) throw new RemedyError('The bone is not there any more; run the audit again.');
    const world = restWorld(nodes);
    const old = world.slice(bone * 16, bone * 16 + 16);
    const moved = old.slice();
    moved.set([0, 0, 0], 12);
    const parent = nodes[bone].parent;
    const changed = new Map<number, SceneNode>([
      [bone, withLocal(nodes[bone], parent < 0 ? moved : times(inverseOr(world, parent * 16), moved))],
    ]);
    const inverse = inverseOr(moved);
    for (const child of childrenOf(nodes)[bone])
      changed.set(child, withLocal(nodes[child], times(inverse, world, 0, child * 16)));
    const keep = times(inverse, old);
    const skins = character.skins.map((skin) => {
      const k = skin.joints.indexOf(bone);
      if (k < 0) return skin;
      const inverseBinds = Float64Array.from(skin.inverseBinds);
      inverseBinds.set(times(keep, skin.inverseBinds, 0, k * 16), k * 16);
      return { ...skin, inverseBinds };
    });
    const clips = character.clips.map((clip) =>
      clip.channels.some((ch) => changed.has(ch.node))
        ? {
            ...clip,
            channels: clip.channels.map((ch) =>
              changed.has(ch.node)
                ? rebasedChannel(ch, nodes[ch.node], changed.get(ch.node) as SceneNode)
                : ch,
            ),
          }
        : clip,
    );
    return { ...character, nodes: replaceAt(nodes, changed), skins, clips };
  },
});

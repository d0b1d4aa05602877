import { object } from 'yup';
import { lengthOf } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { inUnit } from '../../../contracts/units';
import { branchOf, localOf, restWorld, topDown } from '../../../character/hierarchy';
import type { Channel, SceneNode } from '../../../character/model';
import { withLocal } from '../../../character/rehang';
import { inverseOr, times } from '../../../geometry/matrix';
import { skeletonHeight } from '../survey';

/**
 * The skeleton alone larger or smaller about the world's origin; the skin stays where it is at rest and is
 * bound to the new places.
 */
export const fitSkeleton = defineRemedy({
  id: 'fit-skeleton',
  room: 'placement',
  title: 'Bring the skeleton to the body’s size',
  does: 'The bones’ places and their clips take one factor about the world’s origin; the skin stays as it is at rest and is bound to the joints’ new places.',
  params: object({ height: lengthOf('Height wanted').required() }),
  rows(character, { height }, { unit }) {
    const now = skeletonHeight(character) ?? 0;
    return [
      { label: 'Factor still to go, new / old', value: height / now, unit: '×' },
      { label: 'Height of the skeleton', value: inUnit(now, unit), unit },
    ];
  },
  apply(character, { height }) {
    const now = skeletonHeight(character);
    if (!now || now < 1e-9) throw new RemedyError('There is no skeleton with a height to bring to a size.');
    const factor = height / now;
    if (Math.abs(factor - 1) < 1e-6) throw new NothingToDo('The skeleton has that height already.');
    const before = restWorld(character.nodes);
    const after = new Float64Array(before.length);
    const nodes: SceneNode[] = [...character.nodes];
    for (const i of topDown(character.nodes)) {
      const node = character.nodes[i];
      const parent = node.parent;
      if (node.kind === 'bone') {
        after.set(before.subarray(i * 16, i * 16 + 16), i * 16);
        for (let k = 12; k < 15; k++) after[i * 16 + k] *= factor;
        nodes[i] = withLocal(
          node,
          parent < 0
            ? after.slice(i * 16, i * 16 + 16)
            : times(inverseOr(after, parent * 16), after, 0, i * 16),
        );
      } else if (parent < 0) {
        after.set(localOf(node), i * 16);
      } else {
        after.set(times(after, localOf(node), parent * 16), i * 16);
      }
    }
    const skins = character.skins.map((skin) => {
      const inverseBinds = new Float64Array(skin.inverseBinds.length);
      skin.joints.forEach((j, k) =>
        inverseBinds.set(
          times(times(inverseOr(after, j * 16), before, 0, j * 16), skin.inverseBinds, 0, k * 16),
          k * 16,
        ),
      );
      return { ...skin, inverseBinds };
    });
    const onBones = branchOf(
      character.nodes,
      character.nodes.flatMap((node, i) => (node.kind === 'bone' ? [i] : [])),
    );
    const clips = character.clips.map((clip) =>
      clip.channels.some((ch) => ch.path === 'translation' && character.nodes[ch.node].kind === 'bone')
        ? {
            ...clip,
            channels: clip.channels.map((ch) =>
              ch.path === 'translation' && character.nodes[ch.node].kind === 'bone'
                ? scaledChannel(ch, factor, character.nodes[ch.node].parent, onBones, before)
                : ch,
            ),
          }
        : clip,
    );
    return { ...character, nodes, skins, clips };
  },
  promises(character) {
    const bones = character.nodes.flatMap((node, i) => (node.kind === 'bone' ? [i] : []));
    const inside = branchOf(character.nodes, bones);
    return promise(['places', 'binds', 'clips'], {
      meant: character.nodes.flatMap((node, i) => (node.mesh >= 0 && node.skin < 0 && inside[i] ? [i] : [])),
      holds: 'at rest',
    });
  },
});

/**
 * A bone's places in its parent's space: by the factor, about the parent's joint below a bone, about the
 * world's origin below anything else.
 */
function scaledChannel(
  ch: Channel,
  factor: number,
  parent: number,
  onBones: readonly boolean[],
  world: Float64Array,
): Channel {
  const origin = parent < 0 || onBones[parent] ? [0, 0, 0] : inverseOr(world, parent * 16).slice(12, 15);
  const values = new Float32Array(ch.values.length);
  for (let k = 0; k < values.length; k++) {
    const tangent = ch.interpolation === 'CUBICSPLINE' && Math.floor(k / 3) % 3 !== 1;
    values[k] = tangent ? ch.values[k] * factor : origin[k % 3] + (ch.values[k] - origin[k % 3]) * factor;
  }
  return { ...ch, values };
}

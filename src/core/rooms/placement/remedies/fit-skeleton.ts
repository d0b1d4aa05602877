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
    const f = height / now;
    if (Math.abs(f - 1) < 1e-6) throw new NothingToDo('The skeleton has that height already.');
    const before = restWorld(character.nodes);
    const after = new Float64Array(before.length);
    const nodes: SceneNode[] = [...character.nodes];
    for (const i of topDown(character.nodes)) {
      const n = character.nodes[i];
      const p = n.parent;
      if (n.kind === 'bone') {
        after.set(before.subarray(i * 16, i * 16 + 16), i * 16);
        for (let k = 12; k < 15; k++) after[i * 16 + k] *= f;
        nodes[i] = withLocal(
          n,
          p < 0 ? after.slice(i * 16, i * 16 + 16) : times(inverseOr(after, p * 16), after, 0, i * 16),
        );
      } else if (p < 0) {
        after.set(localOf(n), i * 16);
      } else {
        after.set(times(after, localOf(n), p * 16), i * 16);
      }
    }
    const skins = character.skins.map((s) => {
      const inverseBinds = new Float64Array(s.inverseBinds.length);
      s.joints.forEach((j, k) =>
        inverseBinds.set(
          times(times(inverseOr(after, j * 16), before, 0, j * 16), s.inverseBinds, 0, k * 16),
          k * 16,
        ),
      );
      return { ...s, inverseBinds };
    });
    const onBones = branchOf(
      character.nodes,
      character.nodes.flatMap((n, i) => (n.kind === 'bone' ? [i] : [])),
    );
    const clips = character.clips.map((c) =>
      c.channels.some((ch) => ch.path === 'translation' && character.nodes[ch.node].kind === 'bone')
        ? {
            ...c,
            channels: c.channels.map((ch) =>
              ch.path === 'translation' && character.nodes[ch.node].kind === 'bone'
                ? scaledChannel(ch, f, character.nodes[ch.node].parent, onBones, before)
                : ch,
            ),
          }
        : c,
    );
    return { ...character, nodes, skins, clips };
  },
  promises(character) {
    const bones = character.nodes.flatMap((n, i) => (n.kind === 'bone' ? [i] : []));
    const inside = branchOf(character.nodes, bones);
    return promise(['places', 'binds', 'clips'], {
      meant: character.nodes.flatMap((n, i) => (n.mesh >= 0 && n.skin < 0 && inside[i] ? [i] : [])),
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
  f: number,
  parent: number,
  onBones: readonly boolean[],
  world: Float64Array,
): Channel {
  const origin = parent < 0 || onBones[parent] ? [0, 0, 0] : inverseOr(world, parent * 16).slice(12, 15);
  const values = new Float32Array(ch.values.length);
  for (let k = 0; k < values.length; k++) {
    const tangent = ch.interpolation === 'CUBICSPLINE' && Math.floor(k / 3) % 3 !== 1;
    values[k] = tangent ? ch.values[k] * f : origin[k % 3] + (ch.values[k] - origin[k % 3]) * f;
  }
  return { ...ch, values };
}

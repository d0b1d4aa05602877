import { object } from 'yup';
import { choiceOf, refTo } from '../../../contracts/params';
import { RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { inUnit } from '../../../contracts/units';
import { restWorld } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';
import { freshBinds, withShapeOf } from '../../../character/bind-anew';
import { bindsOf } from '../../../character/bind';

type Keep = 'shape' | 'bind';

const worst = (character: Character, skin: number) =>
  Math.max(0, ...(bindsOf(character)[skin]?.joints.map((joint) => joint.apart) ?? []));

/**
 * Makes the inverse binds of a skin anew from where the joints stand. Keeping the shape: the mesh stays as it
 * is seen now, and that becomes its own shape. Keeping the bind: the mesh takes the shape in which it was
 * bound, on the joints as they are.
 */
export const recomputeBinds = defineRemedy({
  id: 'recompute-binds',
  room: 'placement',
  title: 'Make the binds anew',
  does: 'The inverse binds follow from where the joints stand now. Keep “shape”: what is seen at rest stays and becomes the mesh’s own shape. Keep “bind”: the mesh goes back to the shape in which it was bound.',
  params: object({
    skin: refTo('skin', 'Skin'),
    keep: choiceOf<Keep>('Keep', { shape: 'what is seen', bind: 'what was bound' })
      .default('shape')
      .meta({ given: true }),
  }),
  says: ({ keep }) =>
    keep === 'bind'
      ? {
          title: 'Make the binds anew, as it was bound',
          does: 'The inverse binds follow from where the joints stand now, and the mesh goes back to the shape in which it was bound.',
        }
      : {
          title: 'Make the binds anew, as it is seen',
          does: 'The inverse binds follow from where the joints stand now; what is seen at rest stays and becomes the mesh’s own shape.',
        },
  rows: (character, { skin }, { unit }) => [
    { label: 'Rest and bind apart, at most', value: inUnit(worst(character, skin), unit), unit },
  ],
  apply(character, { skin, keep }) {
    const otherSkin = character.skins[skin];
    if (!otherSkin) throw new RemedyError('The skin is not there any more; run the audit again.');
    const world = restWorld(character.nodes);
    const shaped = keep === 'shape' ? withShapeOf(character, skin, world) : character;
    const inverseBinds = freshBinds(
      otherSkin.joints,
      world,
      keep === 'bind' ? bindsOf(character)[skin].common : undefined,
    );
    return {
      ...shaped,
      skins: shaped.skins.map((otherSkin, i) => (i === skin ? { ...otherSkin, inverseBinds } : otherSkin)),
    };
  },
  promises(character, { skin, keep }) {
    const mine = character.nodes.flatMap((node, i) => (node.skin === skin && node.mesh >= 0 ? [i] : []));
    return keep === 'shape'
      ? promise(['points', 'shading', 'morphs', 'binds', 'shows'], { holds: 'at rest' })
      : promise(['binds'], { meant: mine });
  },
});

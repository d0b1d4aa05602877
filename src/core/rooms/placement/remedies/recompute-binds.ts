import { object } from 'yup';
import { choiceOf, refTo } from '../../../contracts/params';
import { RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { inUnit } from '../../../contracts/units';
import { restWorld } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';
import { inverseOr, times } from '../../../geometry/matrix';
import { deformedMesh } from '../../../character/deform';
import { bindsOf, withMeshesOf } from '../../../character/bind';

type Keep = 'shape' | 'bind';

/**
 * Inverse binds that carry the joints of a skin as they stand now: W⁻¹, after what `through` does to the
 * whole mesh.
 */
export function freshBinds(
  joints: readonly number[],
  world: Float64Array,
  through?: Float64Array,
): Float64Array {
  const out = new Float64Array(joints.length * 16);
  joints.forEach((j, k) =>
    out.set(through ? times(inverseOr(world, j * 16), through) : inverseOr(world, j * 16), k * 16),
  );
  return out;
}

/**
 * The meshes of a skin with the shape that they have under node worlds as their own. Copies where another
 * skin uses the mesh too.
 */
export function withShapeOf(character: Character, skin: number, world: Float64Array): Character {
  return withMeshesOf(character, skin, (mesh, node) =>
    deformedMesh(mesh, character.skins[skin], node, world),
  );
}

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

import { object, string } from 'yup';
import { inUnit } from '../../../contracts/units';
import { NEW_NODES } from '../../../contracts/aspect';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { freeName } from '../../../character/free-name';
import { restPlace } from '../../../character/hierarchy';
import { type Character, type Skin, node } from '../../../character/model';
import { length } from '../../../geometry/matrix';
import { hungTogether, rootsOf } from './join-roots';

const nearest = (character: Character): number | null => {
  const roots = rootsOf(character);
  return roots.length > 0 ? Math.min(...roots.map((root) => length(restPlace(character.nodes, root)))) : null;
};

/** A new root at the origin, without turn or scale and without weight, above all roots that are there. */
export const addRoot = defineRemedy({
  id: 'add-root',
  room: 'skeleton',
  title: 'Put a root above all of it',
  does: 'A new bone at the origin, which carries nothing; what had no bone above it hangs under it, and stays where it is.',
  params: object({ name: string().trim().min(1).max(200).default('root').meta({ label: 'Its name' }) }),
  rows: (character, _params, { unit }) => [
    { label: 'Root bones', value: rootsOf(character).length, unit: 'roots' },
    { label: 'Root to origin', value: inUnit(nearest(character) ?? 0, unit), unit },
  ],
  promises: () => promise([...NEW_NODES, 'clips', 'joints', 'binds'], { holds: 'at rest' }),
  apply(character, { name }) {
    const roots = rootsOf(character);
    if (roots.length === 0) throw new RemedyError('There are no bones that a root could hold.');
    if (roots.length === 1 && length(restPlace(character.nodes, roots[0])) < 1e-9)
      throw new NothingToDo('The skeleton has one root at the origin already.');
    const at = character.nodes.length;
    const withRoot: Character = {
      ...character,
      nodes: [...character.nodes, node({ name: freeName(character, name), kind: 'bone' })],
      skins: character.skins.map((skin) => withJoint(skin, at)),
    };
    return hungTogether(withRoot, roots, at);
  },
});

/** The skin with one more joint, which stands at the origin at rest. */
function withJoint(skin: Skin, joint: number): Skin {
  const inverseBinds = new Float64Array(skin.inverseBinds.length + 16);
  inverseBinds.set(skin.inverseBinds);
  for (let k = 0; k < 4; k++) inverseBinds[skin.inverseBinds.length + k * 5] = 1;
  return { ...skin, joints: [...skin.joints, joint], inverseBinds };
}

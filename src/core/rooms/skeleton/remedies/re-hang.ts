import { object } from 'yup';
import { refOrNone, refTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { ancestorsOf } from '../../../character/hierarchy';
import { rehung } from '../../../character/rehang';

/** Hangs a bone, with all below it, under another parent; it stays where it is. */
export const reHang = defineRemedy({
  id: 're-hang',
  room: 'skeleton',
  title: 'Hang under the right parent',
  does: 'The bone and all below it change parent and keep their place; its clips keep what they do relative to rest.',
  params: object({ bone: refTo('bone', 'Bone'), parent: refOrNone('node', 'Under') }),
  rows(character, { bone }) {
    const { name, parent } = character.nodes[bone];
    return [
      { label: `Parent of ${name}`, value: parent < 0 ? 'none' : character.nodes[parent].name, unit: '' },
    ];
  },
  promises: () => promise(['tree', 'places', 'clips'], { holds: 'at rest' }),
  apply(character, { bone, parent }) {
    const node = character.nodes[bone];
    if (!node || parent >= character.nodes.length)
      throw new RemedyError('The bone or its new parent is not there any more; run the audit again.');
    if (parent === bone || (parent >= 0 && ancestorsOf(character.nodes, parent).includes(bone)))
      throw new RemedyError(
        `“${node.name}” cannot hang under “${character.nodes[parent].name}”, which hangs below it; choose a bone outside of its branch.`,
      );
    if (node.parent === parent)
      throw new NothingToDo(`“${node.name}” hangs there already; there is nothing to change.`);
    return rehung(character, bone, parent);
  },
});

import { object } from 'yup';
import { refTo } from '../../../contracts/params';
import { RemedyError, defineRemedy, promise } from '../../../contracts/remedy';

/** Lets go of a set; what was in it stays where it is. */
export const removeSet = defineRemedy({
  id: 'remove-set',
  room: 'skeleton',
  title: 'Dissolve a set',
  does: 'The set goes; the bones, points and polygons that were in it stay.',
  params: object({ set: refTo('set', 'Set') }),
  rows: (character) => [{ label: 'Sets', value: character.sets.length, unit: '' }],
  promises: () => promise(['sets']),
  apply(character, { set }) {
    if (!character.sets[set]) throw new RemedyError('That set is not in this revision any more.');
    return { ...character, sets: character.sets.filter((_, i) => i !== set) };
  },
});

import { object, string } from 'yup';
import { colourOf, refTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';

/** Gives a set another name or another colour. */
export const changeSet = defineRemedy({
  id: 'change-set',
  room: 'skeleton',
  title: 'Name or colour a set',
  does: 'The set gets this name and this colour; what it holds stays.',
  params: object({
    set: refTo('set', 'Set'),
    name: string().trim().max(255).meta({ label: 'New name' }),
    tint: colourOf('Colour'),
  }),
  rows: (character, { set }) => {
    const { name = '', tint = 'none' } = character.sets[set] ?? {};
    return [
      { label: 'Name', value: name, unit: '' },
      { label: 'Colour', value: tint, unit: '' },
    ];
  },
  promises: () => promise(['sets']),
  apply(character, { set: index, name, tint }) {
    const set = character.sets[index];
    if (!set) throw new RemedyError('That set is not in this revision; choose another one.');
    const renamed = { ...set, name: name || set.name, ...(tint ? { tint } : {}) };
    if (renamed.name === set.name && renamed.tint === set.tint)
      throw new NothingToDo(`The set “${set.name}” has that name and colour already.`);
    if (character.sets.some((other) => other !== set && other.name === renamed.name))
      throw new RemedyError(`Another set is called “${renamed.name}”; take another name.`);
    return { ...character, sets: character.sets.map((other) => (other === set ? renamed : other)) };
  },
});

import { number, object, string } from 'yup';
import { LEAST_TWIG, MOST_TWIG } from '../../../character/sets';
import type { ElementSet } from '../../../character/model';
import { colourOf, refTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';

/** Gives a set another name or another colour. */
export const changeSet = defineRemedy({
  id: 'change-set',
  room: 'skeleton',
  title: 'Name or colour a set',
  does: 'The set gets this name, this colour and this thickness of its bones on the stage; what it holds stays.',
  params: object({
    set: refTo('set', 'Set'),
    name: string().trim().max(255).meta({ label: 'New name' }),
    tint: colourOf('Colour'),
    twigSize: number()
      .min(LEAST_TWIG)
      .max(MOST_TWIG)
      .meta({ label: 'Thickness of its bones', hint: '1 as all others; 0.5 for half as thick.' }),
  }),
  rows: (character, { set }) => {
    const { name = '', tint = 'none', twigSize = 1 } = character.sets[set] ?? {};
    return [
      { label: 'Name', value: name, unit: '' },
      { label: 'Colour', value: tint, unit: '' },
      { label: 'Thickness of its bones', value: twigSize, unit: '×' },
    ];
  },
  promises: () => promise(['sets']),
  apply(character, { set: index, name, tint, twigSize }) {
    const set = character.sets[index];
    if (!set) throw new RemedyError('That set is not in this revision; choose another one.');
    const renamed: ElementSet = {
      ...set,
      name: name || set.name,
      ...(tint ? { tint } : {}),
      ...(twigSize ? { twigSize } : {}),
    };
    const isSame = renamed.name === set.name && renamed.tint === set.tint;
    if (isSame && (renamed.twigSize ?? 1) === (set.twigSize ?? 1))
      throw new NothingToDo(`The set “${set.name}” has that name, colour and thickness already.`);
    if (character.sets.some((other) => other !== set && other.name === renamed.name))
      throw new RemedyError(`Another set is called “${renamed.name}”; take another name.`);
    return { ...character, sets: character.sets.map((other) => (other === set ? renamed : other)) };
  },
});

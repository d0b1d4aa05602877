import { number, object, string } from 'yup';
import { refsTo } from '../../../contracts/params';
import { RemedyError } from '../../../contracts/remedy';
import { defineRenaming } from '../renaming';

/** Takes letters off the beginning of names, or off their end. */
export const shortenNames = defineRenaming({
  id: 'shorten-names',
  title: 'Take letters off names',
  does: 'Every name loses so many of its first, or last, letters; vertex groups, clips and sets follow.',
  params: object({
    bones: refsTo('bone', 'Bones'),
    count: number().integer().min(1).default(1).meta({ label: 'Letters', quantity: 'count' }),
    from: string()
      .oneOf(['first', 'last'])
      .default('first')
      .meta({ label: 'Which', choices: { first: 'the first', last: 'the last' } }),
  }),
  newNames: (character, bones, { count, from }) =>
    new Map(
      bones.map((bone) => {
        const letters = [...character.nodes[bone].name];
        if (letters.length <= count)
          throw new RemedyError(
            `“${character.nodes[bone].name}” has no more than ${count} letters, and nothing would be left; take fewer, or leave it out.`,
          );
        return [bone, (from === 'first' ? letters.slice(count) : letters.slice(0, -count)).join('')];
      }),
    ),
});

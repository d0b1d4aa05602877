import { object, string } from 'yup';
import { refsTo } from '../../../contracts/params';
import { defineRenaming } from '../renaming';

/** Puts something before names, or after them. */
export const extendNames = defineRenaming({
  id: 'extend-names',
  title: 'Put before or after names',
  does: 'Every name begins, or ends, with these letters as well; vertex groups, clips and sets follow.',
  params: object({
    bones: refsTo('bone', 'Bones'),
    letters: string().default('').meta({ label: 'Letters' }),
    place: string()
      .oneOf(['before', 'after'])
      .default('before')
      .meta({ label: 'Where', choices: { before: 'before the name', after: 'after the name' } }),
  }),
  newNames: (character, bones, { letters, place }) =>
    new Map(
      bones.map((bone) => {
        const { name } = character.nodes[bone];
        return [bone, place === 'before' ? letters + name : name + letters];
      }),
    ),
});

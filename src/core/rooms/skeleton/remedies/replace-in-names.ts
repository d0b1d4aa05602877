import { object, string } from 'yup';
import { refsTo } from '../../../contracts/params';
import { RemedyError } from '../../../contracts/remedy';
import { defineRenaming } from '../renaming';

/** Puts other letters in the place of some, wherever they stand in names. */
export const replaceInNames = defineRenaming({
  id: 'replace-in-names',
  title: 'Replace in names',
  does: 'Wherever these letters stand in a name, others come in their place, or nothing; vertex groups, clips and sets follow.',
  params: object({
    bones: refsTo('bone', 'Bones'),
    letters: string().default('').meta({ label: 'Letters' }),
    by: string().default('').meta({ label: 'In their place' }),
  }),
  newNames(character, bones, { letters, by }) {
    if (letters === '') throw new RemedyError('No letters are named that are to be replaced; name them.');
    return new Map(bones.map((bone) => [bone, character.nodes[bone].name.replaceAll(letters, () => by)]));
  },
});

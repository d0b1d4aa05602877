import { object } from 'yup';
import type { BriefBase } from '../../../contracts/brief';
import { refsTo } from '../../../contracts/params';
import { NothingToDo } from '../../../contracts/remedy';
import { type Naming, wronglyNamed } from '../checks/bone-names';
import { proposeNames } from '../propose-names';
import { defineRenaming } from '../renaming';
import { planRenaming } from './rename';

/** What it reads of a brief. */
type NamingBrief = BriefBase & { readonly naming: Naming };

/** Names as the brief's convention has them, made of what the old names say. */
export const followConvention = defineRenaming({
  id: 'follow-convention',
  title: 'Names after the brief’s convention',
  does: 'What each old name says, in any language, is written as the brief’s convention writes it; names that follow it already stay. Vertex groups, clips and sets follow.',
  params: object({ bones: refsTo('bone', 'Bones') }),
  newNames(character, bones, _params, brief: NamingBrief) {
    const isWrong = new Set(wronglyNamed(character, brief.naming));
    const wrong = bones.filter((bone) => isWrong.has(bone));
    const table = proposeNames(character, wrong, brief.naming);
    const { renamings } = planRenaming(character, table, wrong);
    if (renamings.length === 0)
      throw new NothingToDo('These names follow the convention already, or say nothing that it could write.');
    return new Map(renamings.map(({ node, to }) => [node, to]));
  },
});

import { object } from 'yup';
import { bodyKindOf } from '../../../anatomy/body-kind';
import { SURE_PAIR, expectedBonesOf } from '../../../anatomy/expected-bones';
import { skeletonOf } from '../../../anatomy/skeleton';
import { TEMPLATE_CHOICES, templateOf } from '../../../anatomy/skeletons/templates';
import type { BriefBase } from '../../../contracts/brief';
import { choiceOf, refsTo } from '../../../contracts/params';
import { RemedyError } from '../../../contracts/remedy';
import { defineRenaming } from '../renaming';

/** Calls bones what a skeleton of the house, or the wanted one, calls those that they answer to. */
export const namesByRole = defineRenaming({
  id: 'names-by-role',
  title: 'Names of a skeleton, by what bones are',
  does: 'Each bone that surely answers to one of that skeleton takes its name, whatever it was called; all others keep theirs. Vertex groups, clips and sets follow.',
  params: object({
    bones: refsTo('bone', 'Bones').default([]),
    template: choiceOf('Names as', TEMPLATE_CHOICES).default('wanted'),
  }),
  newNames(character, bones, { template: choice }, brief: BriefBase) {
    const template = templateOf(choice, brief, bodyKindOf(character).kind);
    if (!template) throw new RemedyError('There is no skeleton for such a body; choose one by its name.');
    const skeleton = skeletonOf(character);
    const meant = new Set(bones);
    const sure = expectedBonesOf(skeleton, template).pairs.filter(
      ({ confidence }) => confidence >= SURE_PAIR,
    );
    const names = new Map(
      sure.flatMap(({ source, target }) => {
        const { node } = skeleton.bones[source];
        return meant.has(node) ? [[node, template.skeleton.bones[target].name] as const] : [];
      }),
    );
    if (names.size === 0)
      throw new RemedyError(
        `None of these bones surely answers to one of “${template.skeleton.title}”; rename them from a table.`,
      );
    return names;
  },
});

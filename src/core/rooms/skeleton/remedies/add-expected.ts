import { object } from 'yup';
import { bodyKindOf } from '../../../anatomy/body-kind';
import { skeletonOf } from '../../../anatomy/skeleton';
import { TEMPLATE_CHOICES, type TemplateChoice, templateOf } from '../../../anatomy/skeletons/templates';
import { freeName } from '../../../character/free-name';
import { type Character, type SceneNode, node } from '../../../character/model';
import { restWorld } from '../../../character/hierarchy';
import { rehung } from '../../../character/rehang';
import { NEW_NODES } from '../../../contracts/aspect';
import type { BriefBase } from '../../../contracts/brief';
import { choiceOf } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { lengthText } from '../../../contracts/units';
import { inverseOr, pointThrough } from '../../../geometry/matrix';
import { type MissingBone, missingBones } from '../expected-places';

/** Bones are listed up to so many. */
const LISTED = 60;

/** Puts in the bones of a template that a body lacks. */
export const addExpected = defineRemedy({
  id: 'add-expected',
  room: 'skeleton',
  title: 'Put in the bones that are missing',
  does: 'Each bone that is missing comes where the others say that it belongs, under the bone that it belongs under, with what belongs below it. It carries nothing yet: give it weight in Weights. Nothing moves.',
  params: object({ template: choiceOf('Bones as', TEMPLATE_CHOICES).default('wanted') }),
  rows(character, { template }, brief: BriefBase) {
    const missing = missingOf(character, template, brief);
    return [
      { label: 'Bones that are missing', value: missing.length, unit: 'bones' },
      ...missing.slice(0, LISTED).map(({ name, place }) => ({
        label: name,
        value: `at ${place.map((x) => lengthText(x, brief.unit)).join(', ')}`,
        unit: '',
      })),
    ];
  },
  promises: () => promise([...NEW_NODES, 'clips']),
  apply(character, { template }, brief: BriefBase): Character {
    const missing = missingOf(character, template, brief);
    if (missing.length === 0) throw new NothingToDo('All bones that are needed are there already.');
    return withMissing(character, missing);
  },
});

function missingOf(character: Character, choice: TemplateChoice, brief: BriefBase): MissingBone[] {
  const template = templateOf(choice, brief, bodyKindOf(character).kind);
  if (!template) throw new RemedyError('There is no skeleton for such a body; choose one by its name.');
  return missingBones(skeletonOf(character), template);
}

function withMissing(character: Character, missing: readonly MissingBone[]): Character {
  const { bones } = skeletonOf(character);
  const made = new Map<string, number>();
  let out = character;
  for (const { name, place, parent, children } of missing) {
    const under = 'bone' in parent ? bones[parent.bone].node : (made.get(parent.name) as number);
    const own = out.nodes.length;
    const { source } = out.nodes[under];
    // Square to the bone that it hangs on, and of its scale.
    const translation = pointThrough(inverseOr(restWorld(out.nodes), under * 16), place);
    const fresh: SceneNode = {
      ...node({ name: freeName(out, name), kind: 'bone', parent: under, translation }),
      ...(source === undefined ? {} : { source }),
    };
    out = { ...out, nodes: [...out.nodes, fresh] };
    for (const child of children) out = rehung(out, bones[child].node, own);
    made.set(name, own);
  }
  return out;
}

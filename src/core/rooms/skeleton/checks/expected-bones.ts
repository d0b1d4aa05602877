import { object } from 'yup';
import { bodyKindOf } from '../../../anatomy/body-kind';
import { BODY_KIND_WORDS } from '../../../character/body-kinds';
import { type ExpectedBones, expectedBonesOf, likeliestTemplate } from '../../../anatomy/expected-bones';
import { type Skeleton, skeletonOf } from '../../../anatomy/skeleton';
import {
  type SkeletonTemplate,
  TEMPLATE_CHOICES,
  templateIdOf,
  templateOf,
} from '../../../anatomy/skeletons/templates';
import type { Character } from '../../../character/model';
import { LANDMARKS } from '../../../contracts/aspect';
import { type Found, defineCheck } from '../../../contracts/check';
import { boneElements, theCharacter } from '../../../contracts/finding';
import { choiceOf } from '../../../contracts/params';

/** Whose bones a character is expected to have; null for a game that does not ask. */
const TEMPLATE = object({
  of: choiceOf('Bones as', TEMPLATE_CHOICES).required().meta({
    bound: 'is',
    hint: 'They are told by what they are, whatever they are called; a chain may have fewer or more.',
  }),
  surplus: choiceOf('Other bones of the body', {
    free: 'may be there',
    none: 'are told',
  })
    .default('free')
    .meta({ bound: 'is', hint: 'Cloth, hair, twists, ends and controls are never asked for.' }),
})
  .nullable()
  .default(null)
  .meta({
    label: 'Expected bones',
    hint: 'A skeleton whose bones must be there, and whose bones are enough; off where any will do.',
  });

/** The bones that a body should have: there, and no others. */
export const expectedBonesCheck = defineCheck({
  id: 'expected-bones',
  room: 'skeleton',
  title: 'Bones that are expected',
  why: 'What the game turns and does not find stays stiff: a head that cannot look, a hand that cannot hold.',
  settings: object({ template: TEMPLATE }),
  // Matching looks at where the flesh of a bone is.
  reads: [...LANDMARKS, 'points', 'morphs', 'binds'],
  measures: (character) => ({
    // A body has all the bones of its own skeleton: what is learned is that.
    'template.of': skeletonOf(character).bones.length > 0 ? 'wanted' : null,
  }),
  run(character, { template: asked, skeleton: wanted, ownSkeleton }): Found[] {
    const skeleton = skeletonOf(character);
    if (!asked || skeleton.bones.length === 0) return [];
    const { kind } = bodyKindOf(character);
    const template =
      templateOf(asked.of, { skeleton: wanted, ownSkeleton }, kind) ??
      (kind === 'unknown' ? likeliestTemplate(skeleton) : undefined);
    if (!template) return [];
    if (kind !== 'unknown' && template.kinds.length > 0 && !template.kinds.includes(kind))
      return [otherKind(character, template, BODY_KIND_WORDS[kind])];
    const expected = expectedBonesOf(skeleton, template);
    return [
      ...(expected.isNamed && expected.missing.length > 0
        ? [missingFound(character, template, expected, templateIdOf(template) ?? asked.of)]
        : doubtfulFound(character, template, expected)),
      ...(asked.surplus === 'none' && expected.isNamed && expected.surplus.length > 0
        ? [surplusFound(character, skeleton, template, expected.surplus)]
        : []),
    ];
  },
});

function otherKind(character: Character, { skeleton, kinds }: SkeletonTemplate, is: string): Found {
  const wants = kinds.map((kind) => BODY_KIND_WORDS[kind]).join(' or ');
  return {
    mark: 'kind',
    gravity: 'note',
    subject: theCharacter(character),
    message: `Its bones were not held against “${skeleton.title}”: it is read as ${is}, and that skeleton is for bodies that are ${wants}`,
    measured: is,
    expected: wants,
  };
}

/** The first few of some names, in words. */
function few(names: readonly string[]): string {
  const shown = names.slice(0, 4).map((name) => `“${name}”`);
  return `${shown.join(', ')}${names.length > shown.length ? ` and ${names.length - shown.length} more` : ''}`;
}

function missingFound(
  character: Character,
  { skeleton }: SkeletonTemplate,
  { missing, leftOut, pairs }: ExpectedBones,
  of: string,
): Found {
  const count = missing.length;
  return {
    mark: 'missing',
    gravity: 'worth',
    subject: theCharacter(character),
    unit: 'bones',
    count,
    message: `${count === 1 ? 'A bone' : `${count} bones`} of “${skeleton.title}” ${count === 1 ? 'is' : 'are'} missing: ${few(missing)}`,
    measured: count,
    expected: 0,
    evidence: [
      { label: 'Bones that are missing', now: count, brief: 0, unit: 'bones' },
      { label: 'Bones with a counterpart', now: pairs.length, brief: skeleton.bones.length, unit: 'bones' },
      { label: 'Left out, as they may be', now: leftOut.length, brief: '—', unit: 'bones' },
    ],
    remedies: [{ id: 'add-expected', params: { template: of } }],
  };
}

/** What cannot be told: where names say nothing, or where a bone that answers to nothing may be the one. */
function doubtfulFound(
  character: Character,
  { skeleton }: SkeletonTemplate,
  { missing, doubtful, isNamed }: ExpectedBones,
): Found[] {
  const all = [...missing, ...doubtful];
  if (all.length === 0) return [];
  return [
    {
      mark: 'doubtful',
      gravity: 'note',
      subject: theCharacter(character),
      unit: 'bones',
      count: all.length,
      message: `Whether ${all.length === 1 ? 'a bone' : `${all.length} bones`} of “${skeleton.title}” ${all.length === 1 ? 'is' : 'are'} there cannot be told${isNamed ? '' : ' without names'}: ${few(all)}`,
      measured: all.length,
      expected: 0,
    },
  ];
}

function surplusFound(
  character: Character,
  { bones }: Skeleton,
  { skeleton }: SkeletonTemplate,
  surplus: readonly number[],
): Found {
  const nodes = surplus.map((i) => bones[i].node);
  const count = nodes.length;
  return {
    mark: 'surplus',
    gravity: 'worth',
    subject: theCharacter(character),
    unit: 'bones',
    elements: [boneElements(nodes)],
    count,
    message: `${count === 1 ? 'A bone of the body is' : `${count} bones of the body are`} no bone of “${skeleton.title}”: ${few(surplus.map((i) => bones[i].name))}`,
    measured: count,
    expected: 0,
    evidence: [{ label: 'Bones besides', now: count, brief: 0, unit: 'bones' }],
    remedies: [{ id: 'fold-bones', params: { bones: nodes } }],
  };
}

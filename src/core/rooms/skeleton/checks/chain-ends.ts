import { object } from 'yup';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { type Found, defineCheck } from '../../../contracts/check';
import { boneElements, theCharacter } from '../../../contracts/finding';
import { choiceOf } from '../../../contracts/params';
import { bonesOf } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';
import { chainEndsOf } from '../chain-ends';

/** Whether chains close with a bone that carries nothing. */
const ENDS = choiceOf('Chains end', {
  free: 'either way',
  closed: 'with a bone that marks the end',
  open: 'with the last bone that deforms',
})
  .default('free')
  .meta({
    bound: 'is',
    hint: 'Some games aim a chain at a bone behind its last one; others count such bones for nothing.',
  });

/** Bones at the ends of chains: there, or not there, as the brief wants them. */
export const chainEndsCheck = defineCheck({
  id: 'chain-ends',
  room: 'skeleton',
  title: 'Ends of chains',
  why: 'The last bone of a chain has no length of its own: a game that wants to know it needs a bone behind it, and one that does not pays for bones that do nothing.',
  settings: object({ chainEnds: ENDS }),
  reads: [...SHAPE_AT_REST, 'names', 'kind'],
  measures(character) {
    if (bonesOf(character).length === 0) return { chainEnds: null };
    const { open, ends } = chainEndsOf(character);
    if (open.length > 0 && ends.length > 0) return { chainEnds: 'free' };
    return { chainEnds: ends.length > 0 ? 'closed' : 'open' };
  },
  run(character, { chainEnds }): Found[] {
    if (chainEnds === 'free') return [];
    const { open, ends } = chainEndsOf(character);
    const [wrong, said, id] =
      chainEnds === 'closed'
        ? ([open, 'has no bone behind it that marks its end', 'add-ends'] as const)
        : ([ends, 'only marks an end', 'fold-bones'] as const);
    if (wrong.length === 0) return [];
    return [
      {
        gravity: 'worth',
        subject: theCharacter(character),
        unit: 'bones',
        elements: [boneElements(wrong)],
        count: wrong.length,
        message: `${saidOf(character, wrong)} ${said}`,
        measured: wrong.length,
        expected: 0,
        evidence: [
          { label: 'Last bones that deform', now: open.length, brief: '—', unit: 'bones' },
          { label: 'Bones that mark an end', now: ends.length, brief: '—', unit: 'bones' },
        ],
        remedies: [{ id, params: { bones: [...wrong] } }],
      },
    ];
  },
});

/** One of them, and how many more. */
function saidOf({ nodes }: Character, bones: readonly number[]): string {
  const more = bones.length - 1;
  return `“${nodes[bones[0]].name}”${more > 0 ? `, like ${more} ${more === 1 ? 'other' : 'others'},` : ''}`;
}

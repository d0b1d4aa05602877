import { object } from 'yup';
import { bodyKindOf } from '../../../anatomy/body-kind';
import { BODY_KINDS, BODY_KIND_WORDS, type BodyKind } from '../../../character/body-kinds';
import { choiceOf } from '../../../contracts/params';
import { NothingToDo, defineRemedy, promise } from '../../../contracts/remedy';
import type { Character } from '../../../character/model';

/** Not said by hand: worked out from the skeleton. */
const WORKED_OUT = 'worked-out';

const CHOICES = {
  [WORKED_OUT]: 'as its skeleton tells',
  ...(Object.fromEntries(BODY_KINDS.map((kind) => [kind, BODY_KIND_WORDS[kind]])) as Record<
    BodyKind,
    string
  >),
};

/** Says which kind of body it is, where what is worked out is wrong; checks that speak for other kinds are silent. */
export const sayKind = defineRemedy({
  id: 'body-kind',
  room: 'placement',
  title: 'Say which kind of body it is',
  does: 'The checks that speak for this kind are asked, the others are not. Nothing of the character moves.',
  params: object({
    kind: choiceOf<BodyKind | typeof WORKED_OUT>('Kind of body', CHOICES).default(WORKED_OUT),
  }),
  rows(character) {
    const { kind, isByHand, confidence } = bodyKindOf(character);
    return [
      { label: 'Kind of body', value: BODY_KIND_WORDS[kind], unit: '' },
      {
        label: 'Told by',
        value: isByHand ? 'hand' : `its skeleton, ${(confidence * 100).toFixed(0)} % sure`,
        unit: '',
      },
    ];
  },
  apply(character, { kind }): Character {
    const bodyKind = kind === WORKED_OUT ? undefined : kind;
    if (character.bodyKind === bodyKind)
      throw new NothingToDo('That is what is said of it already; choose another kind.');
    return { ...character, bodyKind };
  },
  promises: () => promise(['kind']),
});

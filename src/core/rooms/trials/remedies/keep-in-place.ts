import { object } from 'yup';
import { choiceOf, refTo } from '../../../contracts/params';
import { NothingToDo, defineRemedy, promise, RemedyError } from '../../../contracts/remedy';
import { inUnit, unitSign } from '../../../contracts/units';
import { type InPlace, carriedNode, inPlace, travelOf } from '../../../motion/clips/travel';
import { clipSeconds } from '../../../motion/pose';
import { UPRIGHT, clipOf, withClip } from '../clips';

/** Less than a hundredth of a millimetre is no way. */
const NO_WAY_METRES = 1e-5;

/** Takes the way over the ground out of a clip. */
export const keepInPlace = defineRemedy({
  id: 'keep-in-place',
  room: 'trials',
  title: 'Keep it in place',
  does: 'The way over the ground is taken out of the clip: the figure moves where it stands. What goes up and down stays.',
  params: object({
    clip: refTo('clip', 'Clip'),
    how: choiceOf<InPlace>('What is taken out', {
      steady: 'the steady way from beginning to end; sway stays',
      held: 'all of it: it is held over one spot',
    }).default('steady'),
  }),
  rows(character, { clip: index }, { unit }) {
    const clip = clipOf(character, index);
    const node = carriedNode(character, clip);
    const far = node < 0 ? 0 : Math.hypot(...travelOf(character, clip, node, UPRIGHT));
    return [
      { label: 'Way over the ground', value: inUnit(far, unit), unit: unitSign(unit) },
      { label: 'Length', value: Number(clipSeconds(clip).toFixed(3)), unit: 's' },
    ];
  },
  promises: () => promise(['clips'], { holds: 'at rest' }),
  apply(character, { clip: index, how }) {
    const clip = clipOf(character, index);
    const node = carriedNode(character, clip);
    if (node < 0)
      throw new RemedyError(
        `Nothing in “${clip.name}” shifts the figure as a whole, so there is no way to take out.`,
      );
    const far = Math.hypot(...travelOf(character, clip, node, UPRIGHT));
    if (how === 'steady' && far < NO_WAY_METRES)
      throw new NothingToDo(`“${clip.name}” ends over the spot where it begins.`);
    return withClip(character, index, inPlace(character, clip, node, UPRIGHT, how));
  },
});

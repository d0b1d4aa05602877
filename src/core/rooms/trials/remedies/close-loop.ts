import { number, object } from 'yup';
import { characterHeight } from '../../../character/measure';
import { refTo } from '../../../contracts/params';
import { NothingToDo, defineRemedy, promise } from '../../../contracts/remedy';
import { inUnit, unitSign } from '../../../contracts/units';
import { closeLoop, loopGaps } from '../../../motion/clips/loop-gap';
import { clipSeconds } from '../../../motion/pose';
import { clipOf, shareOfHeightOf, travelOfClip, withClip } from '../clips';

/** Makes the end of a clip its beginning. */
export const closeLoopRemedy = defineRemedy({
  id: 'close-loop',
  room: 'trials',
  title: 'Close the loop',
  does: 'Over its last moment the clip goes on to where it began; the way over the ground stays, and nothing before is touched.',
  params: object({
    clip: refTo('clip', 'Clip'),
    seconds: number().positive().max(60).default(0.25).meta({ quantity: 'seconds', label: 'Over the last' }),
  }),
  rows(character, { clip: index }, { unit }) {
    const clip = clipOf(character, index);
    const gaps = loopGaps(clip, shareOfHeightOf(character), travelOfClip(character, clip));
    const largest = (path: 'rotation' | 'translation') => gaps.find((gap) => gap.path === path)?.size ?? 0;
    return [
      { label: 'Joints that miss their beginning', value: gaps.length, unit: '' },
      { label: 'Largest turn that is missing', value: Number(largest('rotation').toFixed(2)), unit: '°' },
      {
        label: 'Largest shift that is missing',
        value: inUnit(largest('translation') * characterHeight(character), unit),
        unit: unitSign(unit),
      },
      { label: 'Length', value: Number(clipSeconds(clip).toFixed(3)), unit: 's' },
    ];
  },
  promises: () => promise(['clips'], { holds: 'at rest' }),
  apply(character, { clip: index, seconds }) {
    const clip = clipOf(character, index);
    const closed = closeLoop(clip, seconds, travelOfClip(character, clip));
    if (closed === clip) throw new NothingToDo(`“${clip.name}” ends where it begins.`);
    return withClip(character, index, closed);
  },
});

import { number, object } from 'yup';
import { characterHeight } from '../../../character/measure';
import { refTo } from '../../../contracts/params';
import { USUAL_CLIPS } from '../../../contracts/clips';
import { NothingToDo, defineRemedy, promise } from '../../../contracts/remedy';
import { inUnit, unitSign } from '../../../contracts/units';
import { bridgeJumps, jumpsOf } from '../../../motion/clips/jumps';
import { clipOf, shareOfHeightOf, withClip } from '../clips';

/** Takes out the keys that a clip jumps by. */
export const bridgeJumpsRemedy = defineRemedy({
  id: 'bridge-jumps',
  room: 'trials',
  title: 'Bridge the jumps',
  does: 'Keys that stray and come back are taken out, and so is a first or last one that stands apart; where a joint stays on the other side, the keys beside the jump are, and it goes over steadily.',
  params: object({
    clip: refTo('clip', 'Clip'),
    turn: number()
      .min(1)
      .max(180)
      .nullable()
      .default(USUAL_CLIPS.turn)
      .meta({ quantity: 'angle', label: 'A jump turns by more than' }),
    shift: number()
      .min(0)
      .nullable()
      .default(USUAL_CLIPS.shift)
      .meta({ quantity: 'share', label: 'A jump shifts by more of the height than' }),
    beside: number()
      .integer()
      .min(1)
      .max(30)
      .default(1)
      .meta({ quantity: 'count', label: 'Keys taken out on either side' }),
  }),
  rows(character, { clip: index, ...limits }, { unit }) {
    const clip = clipOf(character, index);
    const jumps = jumpsOf(clip, limits, shareOfHeightOf(character));
    const most = (path: 'rotation' | 'translation') =>
      jumps.reduce((largest, jump) => (jump.path === path ? Math.max(largest, jump.size) : largest), 0);
    return [
      { label: 'Jumps', value: jumps.length, unit: '' },
      { label: 'Largest jump, turned', value: Number(most('rotation').toFixed(1)), unit: '°' },
      {
        label: 'Largest jump, shifted',
        value: inUnit(most('translation') * characterHeight(character), unit),
        unit: unitSign(unit),
      },
      { label: 'Keys', value: keysOf(clip), unit: 'keys' },
    ];
  },
  promises: () => promise(['clips'], { holds: 'at rest' }),
  apply(character, { clip: index, beside, ...limits }) {
    const clip = clipOf(character, index);
    const bridged = bridgeJumps(clip, limits, shareOfHeightOf(character), beside);
    if (bridged === clip) throw new NothingToDo(`“${clip.name}” does not jump.`);
    return withClip(character, index, bridged);
  },
});

const keysOf = (clip: ReturnType<typeof clipOf>): number =>
  clip.channels.reduce((sum, { times }) => sum + times.length, 0);

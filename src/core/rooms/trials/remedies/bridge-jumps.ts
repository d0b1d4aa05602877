import { number, object } from 'yup';
import { lengthOf, refTo } from '../../../contracts/params';
import { NothingToDo, defineRemedy, promise } from '../../../contracts/remedy';
import { inUnit, unitSign } from '../../../contracts/units';
import { bridgeJumps, jumpsOf } from '../../../motion/clips/jumps';
import { clipOf, withClip, worldScaleOf } from '../clips';

/** Takes out the keys that a clip jumps by. */
export const bridgeJumpsRemedy = defineRemedy({
  id: 'bridge-jumps',
  room: 'trials',
  title: 'Bridge the jumps',
  does: 'Keys that stray and come back are taken out; where a joint stays on the other side, so are the keys beside the jump, and it goes over steadily.',
  params: object({
    clip: refTo('clip', 'Clip'),
    turn: number()
      .min(1)
      .max(180)
      .nullable()
      .default(60)
      .meta({ quantity: 'angle', label: 'A jump turns by more than' }),
    shift: lengthOf('A jump shifts by more than').nullable().default(0.3),
    beside: number()
      .integer()
      .min(1)
      .max(30)
      .default(1)
      .meta({ quantity: 'count', label: 'Keys taken out on either side' }),
  }),
  rows(character, { clip: index, ...limits }, { unit }) {
    const clip = clipOf(character, index);
    const jumps = jumpsOf(clip, limits, worldScaleOf(character));
    const most = (path: 'rotation' | 'translation') =>
      jumps.reduce((largest, jump) => (jump.path === path ? Math.max(largest, jump.size) : largest), 0);
    return [
      { label: 'Jumps', value: jumps.length, unit: '' },
      { label: 'Largest jump, turned', value: Number(most('rotation').toFixed(1)), unit: '°' },
      {
        label: 'Largest jump, shifted',
        value: inUnit(most('translation'), unit),
        unit: unitSign(unit),
      },
      { label: 'Keys', value: keysOf(clip), unit: 'keys' },
    ];
  },
  promises: () => promise(['clips'], { holds: 'at rest' }),
  apply(character, { clip: index, beside, ...limits }) {
    const clip = clipOf(character, index);
    const bridged = bridgeJumps(clip, limits, worldScaleOf(character), beside);
    if (bridged === clip) throw new NothingToDo(`“${clip.name}” does not jump.`);
    return withClip(character, index, bridged);
  },
});

const keysOf = (clip: ReturnType<typeof clipOf>): number =>
  clip.channels.reduce((sum, { times }) => sum + times.length, 0);

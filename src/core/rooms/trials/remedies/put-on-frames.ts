import { number, object } from 'yup';
import { refTo } from '../../../contracts/params';
import { NothingToDo, defineRemedy, promise } from '../../../contracts/remedy';
import { keysOffGrid, putOnGrid } from '../../../motion/clips/frame-grid';
import { clipSeconds } from '../../../motion/pose';
import { clipOf, withClip } from '../clips';

/** Makes a clip anew with a key on every frame. */
export const putOnFrames = defineRemedy({
  id: 'put-on-frames',
  room: 'trials',
  title: 'Put its keys on frames',
  does: 'Tracks with keys between frames get one on each frame, where they stand at that moment; tracks that hold until the next key have theirs on the nearest frame.',
  params: object({
    clip: refTo('clip', 'Clip'),
    rate: number().min(1).max(1000).default(30).meta({ quantity: 'count', label: 'Frames a second' }),
  }),
  rows(character, { clip: index, rate }) {
    const clip = clipOf(character, index);
    const { off, keys } = keysOffGrid(clip, rate);
    return [
      { label: 'Keys between frames', value: off, unit: 'keys' },
      { label: 'Keys', value: keys, unit: 'keys' },
      { label: 'Length', value: Number(clipSeconds(clip).toFixed(3)), unit: 's' },
    ];
  },
  promises: () => promise(['clips'], { holds: 'at rest' }),
  apply(character, { clip: index, rate }) {
    const clip = clipOf(character, index);
    const onFrames = putOnGrid(clip, rate);
    if (onFrames === clip) throw new NothingToDo(`Every key of “${clip.name}” stands on a frame.`);
    return withClip(character, index, onFrames);
  },
});

import { object } from 'yup';
import { CLIPS } from '../../../contracts/clips';
import { type Found, defineCheck } from '../../../contracts/check';
import { keysOffGrid } from '../../../motion/clips/frame-grid';
import { theClip } from '../clips';

/** Keys stand on the frames of the game. */
export const clipFramesCheck = defineCheck({
  id: 'clip-frames',
  room: 'trials',
  title: 'Keys between frames',
  why: 'What stands between two frames is rounded on arrival, each key to another side: motion stutters, and feet slide.',
  settings: object({ clips: CLIPS }),
  reads: ['clips'],
  run(character, { clips: wishes }): Found[] {
    const rate = wishes?.rate;
    if (!rate) return [];
    return character.clips.flatMap((clip, index): Found[] => {
      const { off, keys, farthest, ownRate } = keysOffGrid(clip, rate);
      if (off === 0) return [];
      const own = ownRate === null ? '' : `; it seems to be made for ${ownRate}`;
      return [
        {
          gravity: 'worth',
          subject: theClip(character, index),
          message: `“${clip.name}” has ${off} of its ${keys} keys between the frames of ${rate} a second${own}`,
          measured: off,
          expected: 0,
          unit: 'keys',
          count: off,
          evidence: [
            { label: 'Keys between frames', now: off, brief: 0, unit: `of ${keys}` },
            { label: 'Farthest from a frame', now: Number(farthest.toFixed(2)), brief: 0, unit: 'frames' },
            ...(ownRate === null
              ? []
              : [{ label: 'Made for frames a second', now: ownRate, brief: rate, unit: '' }]),
          ],
          remedies: [{ id: 'put-on-frames', params: { clip: index, rate } }],
        },
      ];
    });
  },
});

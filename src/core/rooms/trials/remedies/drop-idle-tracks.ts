import { object } from 'yup';
import { refTo } from '../../../contracts/params';
import { NothingToDo, defineRemedy, promise } from '../../../contracts/remedy';
import { withChannels } from '../../../motion/clips/channel-keys';
import { movesAnything } from '../../../motion/clips/idle-tracks';
import { clipOf, withClip } from '../clips';

/** Takes tracks out of a clip that move nothing that is seen. */
export const dropIdleTracks = defineRemedy({
  id: 'drop-idle-tracks',
  room: 'trials',
  title: 'Take out tracks that move nothing',
  does: 'Tracks on what carries neither mesh nor joint leave the clip. Nothing that is seen moves otherwise.',
  params: object({ clip: refTo('clip', 'Clip') }),
  rows(character, { clip: index }) {
    const { channels } = clipOf(character, index);
    const moves = movesAnything(character);
    const idle = channels.filter((channel) => !moves(channel)).length;
    return [
      { label: 'Tracks that move nothing', value: idle, unit: 'tracks' },
      { label: 'Tracks', value: channels.length, unit: 'tracks' },
    ];
  },
  promises: () => promise(['clips']),
  apply(character, { clip: index }) {
    const clip = clipOf(character, index);
    const moves = movesAnything(character);
    const kept = withChannels(clip, (channel) => (moves(channel) ? channel : null));
    if (kept === clip) throw new NothingToDo(`Every track of “${clip.name}” moves something.`);
    return withClip(character, index, kept);
  },
});

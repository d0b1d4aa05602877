import { object } from 'yup';
import { refTo } from '../../../contracts/params';
import { NothingToDo, defineRemedy, promise } from '../../../contracts/remedy';
import { withChannels } from '../../../motion/clips/channel-keys';
import { scaledBones, scalesSkin } from '../../../motion/clips/scale-tracks';
import { clipOf, withClip } from '../clips';

/** Takes the scales of bones out of a clip. */
export const dropScaleTracks = defineRemedy({
  id: 'drop-scale-tracks',
  room: 'trials',
  title: 'Take out the scales of bones',
  does: 'The bones keep the size that they have at rest throughout the clip; what they turn and shift by stays.',
  params: object({ clip: refTo('clip', 'Clip') }),
  rows(character, { clip: index }) {
    const scaled = scaledBones(character, clipOf(character, index));
    return [
      { label: 'Bones with a scale', value: scaled.length, unit: 'bones' },
      {
        label: 'Farthest from its size at rest',
        value: Number((scaled[0]?.factor ?? 1).toFixed(4)),
        unit: '×',
      },
    ];
  },
  promises: () => promise(['clips'], { holds: 'at rest' }),
  apply(character, { clip: index }) {
    const clip = clipOf(character, index);
    const isScale = scalesSkin(character);
    const kept = withChannels(clip, (channel) => (isScale(channel) ? null : channel));
    if (kept === clip) throw new NothingToDo(`“${clip.name}” scales no bone.`);
    return withClip(character, index, kept);
  },
});

import { ROOM_WORDS } from '@/core/contracts/rooms';
import type { Room } from '../../parts/room';
import { JointsPage } from './joints-page';
import { Motion } from './motion';

export const trials: Room = {
  id: 'trials',
  title: ROOM_WORDS.trials,
  hint: 'The character in motion',
  empty:
    'Every joint was turned through its motions, and nothing passes a limit of the brief. The next room is Crosswalk.',
  isInMotion: true,
  pages: [{ id: 'joints', title: 'Joints', Page: JointsPage }],
  Below: Motion,
  tools: [],
  keys: [],
};

import { ROOM_WORDS } from '@/core/contracts/rooms';
import type { Room } from '../../parts/room';
import { Motion } from './motion';

export const trials: Room = {
  id: 'trials',
  title: ROOM_WORDS.trials,
  hint: 'The character in motion',
  empty:
    'Play the clips below the figure, or choose a bone and turn it. The proof of a move to another skeleton stands in Crosswalk.',
  isUnaudited: true,
  Below: Motion,
  tools: [],
  keys: [],
};

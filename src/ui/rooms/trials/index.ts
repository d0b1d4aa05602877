import { ROOM_WORDS } from '@/core/contracts/rooms';
import type { Room } from '../../parts/room';
import { ClipsPage } from './clips-page';
import { JointsPage } from './joints-page';
import { Motion } from './motion';
import { MotionsTable } from './motions-table';

export const trials: Room = {
  id: 'trials',
  title: ROOM_WORDS.trials,
  hint: 'The character in motion',
  empty:
    'Every joint was turned through its motions, and nothing passes a limit of the brief. The next room is Crosswalk.',
  isInMotion: true,
  pages: [
    { id: 'joints', title: 'Joints', Page: JointsPage },
    { id: 'clips', title: 'Clips', Page: ClipsPage },
  ],
  drawers: [{ id: 'motions', title: 'Motions', Panel: MotionsTable }],
  Below: Motion,
  tools: [],
  keys: [],
};

import type { Room } from '../../parts/room';
import { changeLook, lookAtWeights } from '../../state/choose';

export const weights: Room = {
  id: 'weights',
  title: 'Weights',
  hint: 'Which bone carries which point',
  empty: 'Every point is carried as the brief wants it. Next, move it to the game’s skeleton in Crosswalk.',
  tools: [],
  keys: [],
  enter: lookAtWeights,
  leave: () => changeLook({ surface: 'clay' }),
};

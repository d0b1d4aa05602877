import { ROOM_WORDS } from '@/core/contracts/rooms';
import type { Room } from '../../parts/room';
import { changeLook, lookAtWeights } from '../../state/choose';

export const weights: Room = {
  id: 'weights',
  title: ROOM_WORDS.weights,
  hint: 'Which bone carries which point',
  empty: 'Every point is carried as the brief wants it. Next, move it to the game’s skeleton in Crosswalk.',
  idle: ({ nodes, meshes }) =>
    nodes.some((node) => node.mesh >= 0 && node.skin >= 0 && meshes[node.mesh].influences)
      ? null
      : 'No mesh is bound to bones: there are no weights to look at.',
  tools: [],
  keys: [],
  enter: lookAtWeights,
  leave: () => changeLook({ surface: 'clay' }),
};

import { Paintbrush } from 'lucide-react';
import { ROOM_WORDS } from '@/core/contracts/rooms';
import type { Room } from '../../parts/room';
import { changeLook, lookAtWeights } from '../../state/choose';
import { BindPage } from './bind-page';
import { PULLS_PAGE, makeBrushTool } from './brush-tool';
import { CopyPage } from './copy-page';
import { PullsPage } from './pulls-page';

export const weights: Room = {
  id: 'weights',
  title: ROOM_WORDS.weights,
  hint: 'Which bone carries which point',
  empty: 'Every point is carried as the brief wants it. Next, move it to the game’s skeleton in Crosswalk.',
  idle: ({ nodes, meshes }) =>
    nodes.some((node) => node.mesh >= 0 && node.skin >= 0 && meshes[node.mesh].influences)
      ? null
      : 'No mesh is bound to bones: there are no weights to look at.',
  pages: [
    { id: PULLS_PAGE, title: 'Who pulls', Page: PullsPage },
    { id: 'bind', title: 'Bind', Page: BindPage },
    { id: 'copy', title: 'Copy', Page: CopyPage },
  ],
  tools: [
    {
      id: 'brush',
      title: 'Brush a bone’s weight',
      hint: 'Drag over the surface, in whatever pose it stands. The other bones give or take the rest; chosen points keep it to them.',
      icon: Paintbrush,
      letter: 'W',
      make: makeBrushTool,
    },
  ],
  keys: [],
  enter: lookAtWeights,
  leave: () => changeLook({ surface: 'clay' }),
};

import { ROOM_WORDS } from '@/core/contracts/rooms';
import { Package } from 'lucide-react';
import { type Room, plainKey } from '../../parts/room';
import { changeLook } from '../../state/choose';
import { desk } from '../../state/store';
import { MeasuresPage } from './measures-page';
import { PlacePanel } from './place-panel';
import { makePlaceTool } from './place-tool';
import { ScenePage } from './scene-page';

export const placement: Room = {
  id: 'placement',
  title: ROOM_WORDS.placement,
  hint: 'Size, ground, scale',
  empty: 'Size, place, stance and binds are as the brief wants them. The next room is Skeleton.',
  pages: [
    { id: 'measures', title: 'Measures', Page: MeasuresPage },
    { id: 'scene', title: 'Scene', Page: ScenePage },
  ],
  tools: [
    {
      id: 'place',
      title: 'Place a part',
      hint: 'Drag a prop, or a mesh that hangs loose. Its size, and what it hangs on, stay.',
      icon: Package,
      letter: 'H',
      make: makePlaceTool,
      Panel: PlacePanel,
    },
  ],
  keys: [
    {
      keys: 'X',
      does: 'a box of a known side beside the figure',
      run: () => changeLook({ boxOn: !desk().boxOn }),
      match: plainKey('x'),
    },
  ],
};

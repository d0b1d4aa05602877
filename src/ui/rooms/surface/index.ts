import { ROOM_WORDS } from '@/core/contracts/rooms';
import type { Room } from '../../parts/room';
import { LoopsPage } from './loops-page';
import { MergePage } from './merge-page';
import { PartsPage } from './parts-page';
import { SidesPage } from './sides-page';

export const surface: Room = {
  id: 'surface',
  title: ROOM_WORDS.surface,
  hint: 'Polygons and points',
  empty: 'Polygons and points are as the brief wants them. The next room is Weights.',
  pages: [
    { id: 'parts', title: 'Parts', Page: PartsPage },
    { id: 'loops', title: 'Loops', Page: LoopsPage },
    { id: 'sides', title: 'Sides', Page: SidesPage },
    { id: 'doubles', title: 'Doubles', Page: MergePage },
  ],
  tools: [],
  keys: [],
};

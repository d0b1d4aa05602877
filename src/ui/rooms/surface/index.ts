import { ROOM_WORDS } from '@/core/contracts/rooms';
import type { Room } from '../../parts/room';

export const surface: Room = {
  id: 'surface',
  title: ROOM_WORDS.surface,
  hint: 'Polygons and points',
  empty: 'Polygons and points are as the brief wants them. The next room is Weights.',
  tools: [],
  keys: [],
};

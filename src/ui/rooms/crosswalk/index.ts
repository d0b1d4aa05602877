import { ROOM_WORDS } from '@/core/contracts/rooms';
import type { Room } from '../../parts/room';
import { Arrives, CrosswalkPage } from './page';
import { AsItIs } from './as-it-is';

export const crosswalk: Room = {
  id: 'crosswalk',
  title: ROOM_WORDS.crosswalk,
  hint: 'From its skeleton to the game’s',
  empty: '',
  isUnaudited: true,
  wide: true,
  Page: CrosswalkPage,
  Below: Arrives,
  Over: AsItIs,
  tools: [],
  keys: [],
};

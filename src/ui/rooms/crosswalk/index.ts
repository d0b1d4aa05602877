import type { Room } from '../../parts/room';
import { Arrives, CrosswalkPage } from './page';
import { AsItIs } from './as-it-is';

export const crosswalk: Room = {
  id: 'crosswalk',
  title: 'Crosswalk',
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

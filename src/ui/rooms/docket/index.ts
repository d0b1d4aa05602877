import { ROOM_WORDS } from '@/core/contracts/rooms';
import type { Room } from '../../parts/room';
import { DocketPage } from './page';

export const docket: Room = {
  id: 'docket',
  title: ROOM_WORDS.docket,
  hint: 'What is handed over',
  empty: '',
  isUnaudited: true,
  Page: DocketPage,
  tools: [],
  keys: [],
};

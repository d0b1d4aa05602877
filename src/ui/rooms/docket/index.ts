import type { Room } from '../../parts/room';
import { DocketPage } from './page';

export const docket: Room = {
  id: 'docket',
  title: 'Docket',
  hint: 'What is handed over',
  empty: '',
  isUnaudited: true,
  Page: DocketPage,
  tools: [],
  keys: [],
};

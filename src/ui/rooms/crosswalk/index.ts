import { ROOM_WORDS } from '@/core/contracts/rooms';
import type { Room } from '../../parts/room';
import { AsItIs } from './as-it-is';
import { redoChange, tellWayBack, undoChange } from './changes';
import { KEYS } from './keys';
import { leadersOnSource } from './leaders';
import { Arrives } from './arrives';
import { CrosswalkPage } from './page';
import { pairDefinition } from './pair-tool';
import { rest } from './session';

let stopTelling = () => {};

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
  tools: [pairDefinition],
  keys: KEYS,
  enter: () => {
    stopTelling = tellWayBack();
  },
  leave: () => {
    rest();
    stopTelling();
  },
  undo: undoChange,
  redo: redoChange,
  drawing: leadersOnSource,
};

import { useEffect } from 'react';
import type { RoomId } from '@/core/contracts/rooms';
import { COMMON_TOOLS } from '../parts/common-tools';
import { type Key, plainKey } from '../parts/room';
import { ROOM_LIST, roomById } from '../rooms/list';
import { VIEWS } from '../stage/view';
import {
  changeLook,
  frame,
  frameChosen,
  goToRoom,
  lookAtWeights,
  lookFrom,
  openByHand,
  stepElement,
  stepFinding,
  toggleIsolation,
} from '../state/choose';
import { desk, setDesk } from '../state/store';
import { putDown, takeTool } from '../state/tools';
import { openWaiving, redo, toggleDrawer, undo } from './actions';
import { backToRest } from '../state/pose';
import { togglePaper } from './paper';

export interface KeyGroup {
  readonly group: string;
  readonly list: readonly Key[];
}

/** A key that is one plain letter. */
const letter = (key: string, does: string, run: () => void): Key => ({
  keys: key.toUpperCase(),
  does,
  run,
  match: plainKey(key),
});

/** A key that is one sign, with or without Shift. */
const sign = (keys: string, does: string, run: () => void): Key => ({
  keys,
  does,
  run,
  match: (event) => event.key === keys,
});

const lookFromNext = () => lookFrom(VIEWS[(VIEWS.indexOf(desk().view) + 1) % VIEWS.length]);

const FINDINGS: KeyGroup = {
  group: 'Findings',
  list: [
    letter('j', 'next finding of the room', () => stepFinding(1)),
    letter('k', 'finding before', () => stepFinding(-1)),
    sign(']', 'the next of the very things it speaks of', () => stepElement(1)),
    sign('[', 'the one before', () => stepElement(-1)),
    letter('z', 'waive the chosen finding, with a reason', openWaiving),
    letter('u', 'undo what was changed here last, or else the last step', undo),
    {
      keys: 'Shift U',
      does: 'do it again',
      run: redo,
      match: (event) => event.key.toLowerCase() === 'u' && event.shiftKey,
    },
  ],
};

const ROOMS: KeyGroup = {
  group: 'Rooms',
  list: ROOM_LIST.map(({ id, title }, i) => sign(String(i + 1), title.toLowerCase(), () => goToRoom(id))),
};

const HOUSE: KeyGroup = {
  group: 'House',
  list: [
    sign('/', 'search everything', () => setDesk({ dialog: 'palette' })),
    sign('?', 'this sheet', () => setDesk({ dialog: 'keys' })),
    sign('.', 'what can be done with what is chosen', () => openByHand()),
    letter('l', 'ledger', () => toggleDrawer('ledger')),
    letter('b', 'table of bones', () => toggleDrawer('bones')),
    letter('n', 'day or night sheet', togglePaper),
  ],
};

const STAGE: KeyGroup = {
  group: 'Stage',
  list: [
    letter('v', 'view: front, left, top, free in turn', lookFromNext),
    sign('0', 'back to rest, where the figure is posed', backToRest),
    letter('o', 'the whole figure', () => frame([])),
    letter('q', 'bring the camera to what is chosen', frameChosen),
    letter('c', 'clay', () => changeLook({ surface: 'clay' })),
    letter('p', 'picture of the chosen bone’s weights', lookAtWeights),
    letter('d', 'polygon edges drawn', () => changeLook({ edges: !desk().edges })),
    letter('y', 'sheer', () => changeLook({ sheer: !desk().sheer })),
    letter('t', 'twigs', () => changeLook({ twigs: !desk().twigs })),
    letter('i', 'isolate what is chosen, or show all again', () => void toggleIsolation()),
    sign('Escape', 'put down the tool, let go of what was gathered, end the comparison', putDown),
    {
      keys: 'Arrows',
      does: 'turn the figure, when the stage has the focus',
      run: () => {},
      match: () => false,
    },
  ],
};

const toolKeys = (tools: typeof COMMON_TOOLS): Key[] =>
  tools.map((tool) => letter(tool.letter, tool.title.toLowerCase(), () => takeTool(tool.id)));

/** All shortcuts of the house in a room, in the groups in which the sheet lists them. */
export function keysOf(room: RoomId): readonly KeyGroup[] {
  const { title, tools, keys } = roomById(room);
  const own: KeyGroup = { group: title, list: [...toolKeys(tools), ...keys] };
  const common: KeyGroup = { group: 'Tools', list: toolKeys(COMMON_TOOLS) };
  return [FINDINGS, ROOMS, HOUSE, STAGE, common, own].filter((group) => group.list.length > 0);
}

/** Where letters are letters. */
const WRITING = [
  'input:not([type=range], [type=checkbox], [type=radio])',
  'textarea',
  'select',
  '[role=dialog]',
  '[role=menu]',
  '[contenteditable]',
].join();

function onKey(event: KeyboardEvent): void {
  const { dialog, room } = desk();
  if (event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented || dialog) return;
  if (event.target instanceof Element && event.target.closest(WRITING)) return;
  const key = keysOf(room)
    .flatMap((group) => group.list)
    .find((key) => key.match(event));
  if (!key) return;
  event.preventDefault();
  key.run();
}

export function useKeys(): void {
  useEffect(() => {
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
}

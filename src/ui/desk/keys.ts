import { useEffect } from 'react';
import { ROOM_IDS } from '@/core/contracts/rooms';
import { toggleSheet } from './head';
import {
  isolateChosen,
  look,
  lookAtWeights,
  moveTo,
  redoTarget,
  setLook,
  setRoom,
  showHead,
  stepFinding,
  toggleMeasuring,
  undoTarget,
  useDesk,
} from './store';

/** All shortcuts of the house, in the groups in which the sheet lists them. */
export interface Key {
  readonly keys: string;
  readonly does: string;
  readonly run: () => void;
  readonly match: (e: KeyboardEvent) => boolean;
}

const s = () => useDesk.getState();
const plain = (key: string) => (e: KeyboardEvent) => e.key.toLowerCase() === key && !e.shiftKey;

export const KEYS: readonly { readonly group: string; readonly list: readonly Key[] }[] = [
  {
    group: 'Findings',
    list: [
      { keys: 'J', does: 'next finding of the room', run: () => stepFinding(1), match: plain('j') },
      { keys: 'K', does: 'finding before', run: () => stepFinding(-1), match: plain('k') },
      {
        keys: 'U',
        does: 'undo the last step',
        run: () => void moveTo(undoTarget(s().sheet), 'Undone'),
        match: plain('u'),
      },
      {
        keys: 'Shift U',
        does: 'do it again',
        run: () => void moveTo(redoTarget(s().sheet), 'Done again'),
        match: (e) => e.key.toLowerCase() === 'u' && e.shiftKey,
      },
    ],
  },
  {
    group: 'Rooms',
    list: ROOM_IDS.map((room, i) => ({
      keys: String(i + 1),
      does: room,
      run: () => setRoom(room),
      match: (e: KeyboardEvent) => e.key === String(i + 1),
    })),
  },
  {
    group: 'House',
    list: [
      {
        keys: '/',
        does: 'search everything',
        run: () => useDesk.setState({ sheetOpen: 'palette' }),
        match: (e) => e.key === '/',
      },
      {
        keys: '?',
        does: 'this sheet',
        run: () => useDesk.setState({ sheetOpen: 'keys' }),
        match: (e) => e.key === '?',
      },
      {
        keys: 'L',
        does: 'ledger',
        run: () => useDesk.setState({ drawer: s().drawer === 'ledger' ? null : 'ledger' }),
        match: plain('l'),
      },
      {
        keys: 'B',
        does: 'table of bones',
        run: () => useDesk.setState({ drawer: s().drawer === 'bones' ? null : 'bones' }),
        match: plain('b'),
      },
      { keys: 'N', does: 'day or night sheet', run: toggleSheet, match: plain('n') },
    ],
  },
  {
    group: 'Stage',
    list: [
      {
        keys: 'V',
        does: 'view: front, left, top, free in turn',
        run: () => {
          const order = ['front', 'left', 'top', 'free'] as const;
          look(order[(order.indexOf(s().view) + 1) % 4]);
        },
        match: plain('v'),
      },
      { keys: 'O', does: 'the whole figure', run: () => s().stage?.frame([]), match: plain('o') },
      { keys: 'C', does: 'clay', run: () => setLook({ surface: 'clay' }), match: plain('c') },
      { keys: 'P', does: 'picture of the chosen bone’s weights', run: lookAtWeights, match: plain('p') },
      {
        keys: 'D',
        does: 'polygon edges drawn',
        run: () => setLook({ edges: !s().edges }),
        match: plain('d'),
      },
      {
        keys: 'Y',
        does: 'see-through',
        run: () => setLook({ seeThrough: !s().seeThrough }),
        match: plain('y'),
      },
      { keys: 'T', does: 'twigs', run: () => setLook({ twigs: !s().twigs }), match: plain('t') },
      { keys: 'I', does: 'isolate what is chosen, or show all again', run: isolateChosen, match: plain('i') },
      { keys: 'M', does: 'measure between two points', run: toggleMeasuring, match: plain('m') },
      {
        keys: 'X',
        does: 'a box of a known side beside the figure',
        run: () => setLook({ boxOn: !s().boxOn }),
        match: plain('x'),
      },
      {
        keys: 'Escape',
        does: 'put down the measure, end the comparison',
        run: () => {
          if (s().measuring) toggleMeasuring();
          else if (s().compared) showHead();
        },
        match: (e) => e.key === 'Escape',
      },
      {
        keys: 'Arrows',
        does: 'turn the figure, when the stage has the focus',
        run: () => {},
        match: () => false,
      },
    ],
  },
];

export function useKeys(): void {
  useEffect(() => {
    const down = (e: KeyboardEvent) => {
      const t = e.target as HTMLElement;
      if (e.ctrlKey || e.metaKey || e.altKey || e.defaultPrevented || useDesk.getState().sheetOpen) return;
      if (
        t.closest(
          'input:not([type=range], [type=checkbox]), textarea, select, [role=dialog], [role=menu], [contenteditable]',
        )
      )
        return;
      const key = KEYS.flatMap((g) => g.list).find((k) => k.match(e));
      if (!key) return;
      e.preventDefault();
      key.run();
    };
    window.addEventListener('keydown', down);
    return () => window.removeEventListener('keydown', down);
  }, []);
}

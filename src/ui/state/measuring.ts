/** The tool that measures between two points: what it has taken so far is its own. */
import { create } from 'zustand';
import { endOf } from '@/core/character/pin';
import { addPin } from '@/routes/characters';
import { call } from '../kit/api';
import type { PlaceOnFigure } from '../stage/view';
import { changeRecord } from './record';
import { desk, setDesk, useDesk } from './store';

interface Measuring {
  /** The first point of a measure that is being taken. */
  readonly from: PlaceOnFigure | null;
}

export const useMeasuring = create<Measuring>(() => ({ from: null }));

// A point belongs to the figure that it was taken on, and is forgotten with the tool.
useDesk.subscribe((now, before) => {
  const isOver = now.tool !== 'measure' || now.figure !== before.figure;
  if (isOver && useMeasuring.getState().from) useMeasuring.setState({ from: null });
});

/** Begins to measure between two points, or puts it down again. */
export const toggleMeasuring = (): void => setDesk({ tool: desk().tool === 'measure' ? 'turn' : 'measure' });

/** Takes a point of a measure: the first is held, with the second the measure is pinned to the character. */
export async function takeMeasurePoint(at: PlaceOnFigure): Promise<void> {
  const { tool, character, figure } = desk();
  if (tool !== 'measure' || !character) return;
  const { from } = useMeasuring.getState();
  if (!from) {
    useMeasuring.setState({ from: at });
    return;
  }
  const ends = {
    from: endOf(character, from.node, from.vertex),
    to: endOf(character, at.node, at.vertex),
  };
  setDesk({ tool: 'turn' });
  if (await changeRecord(({ id }) => call(addPin, { id, label: '', ...ends }))) setDesk({ page: 'measures' });
  else if (desk().figure === figure) {
    setDesk({ tool: 'measure' });
    useMeasuring.setState({ from });
  }
}

import { type KeyboardEvent, useRef } from 'react';

/** Where an arrow key leads in a list; null for any other key. */
function nextIndex(key: string, at: number, count: number): number | null {
  if (count === 0) return null;
  if (key === 'ArrowDown') return Math.min(count - 1, at + 1);
  if (key === 'ArrowUp') return Math.max(0, at - 1);
  if (key === 'Home') return 0;
  if (key === 'End') return count - 1;
  return null;
}

/**
 * One stop for Tab in a list, and arrows inside it. Spread `list` on the element around the items and `item(i)` on each.
 * @param current the item that Tab leads to; −1 for the first
 * @param choose called with the item that an arrow leads to
 */
export function useRoving(count: number, current: number, choose: (index: number) => void) {
  const items = useRef(new Map<number, HTMLElement>());
  const at = current < 0 ? 0 : current;
  return {
    list: {
      onKeyDown: (e: KeyboardEvent) => {
        const next = nextIndex(e.key, at, count);
        if (next === null) return;
        e.preventDefault();
        choose(next);
        items.current.get(next)?.focus();
      },
    },
    item: (i: number) => ({
      tabIndex: i === at ? 0 : -1,
      ref: (element: HTMLElement | null) => {
        if (element) items.current.set(i, element);
        else items.current.delete(i);
      },
    }),
    focus: (i: number) => items.current.get(i)?.focus(),
  };
}

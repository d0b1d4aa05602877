import { type KeyboardEvent, useEffect, useState } from 'react';
import { afterPicture } from './after-picture';

/** Where an arrow key leads in a list; null for any other key. */
function nextIndex(key: string, at: number, count: number, isWrapped: boolean): number | null {
  if (count === 0) return null;
  if (key === 'ArrowDown' || (isWrapped && key === 'ArrowRight')) return Math.min(count - 1, at + 1);
  if (key === 'ArrowUp' || (isWrapped && key === 'ArrowLeft')) return Math.max(0, at - 1);
  if (key === 'Home') return 0;
  if (key === 'End') return count - 1;
  return null;
}

/**
 * What an item of a roving list is given; the same object for the same place, so that rows can be remembered.
 */
export interface RovingItem {
  readonly tabIndex: number;
  readonly ref: (element: HTMLElement | null) => void;
}

/** The items of one list that are on the page, and which of them Tab leads to. */
class RovingItems {
  private readonly elements = new Map<number, HTMLElement>();
  private readonly given = new Map<number, RovingItem>();
  /** The item that the focus is on its way to; −1 for none. */
  private awaited = -1;
  /** Whether the focus is in the list, or was when what had it went out of sight. */
  private isWithin = false;

  at(i: number): RovingItem {
    const known = this.given.get(i);
    if (known) return known;
    const made: RovingItem = {
      tabIndex: -1,
      ref: (element) => {
        if (element) this.elements.set(i, element);
        else this.elements.delete(i);
      },
    };
    this.given.set(i, made);
    return made;
  }

  /** Tab leads to this one alone. Only what differs is written: the browser may lay out the page for each. */
  stopAt(at: number): void {
    for (const [i, element] of this.elements) {
      const wanted = i === at ? 0 : -1;
      if (element.tabIndex !== wanted) element.tabIndex = wanted;
    }
  }

  /** Whether a key was pressed in something of its own inside the list: a field or a button that is no item. */
  isOther(target: EventTarget): boolean {
    const control = (target as Element).closest?.('input, select, textarea, button, a');
    return !!control && ![...this.elements.values()].includes(control as HTMLElement);
  }

  /** The item from which an arrow leads on: where the focus is, or is about to be. */
  from(target: EventTarget, otherwise: number): number {
    if (this.awaited >= 0) return this.awaited;
    for (const [i, element] of this.elements) if (element.contains(target as Element)) return i;
    return otherwise;
  }

  focus(i: number): void {
    this.awaited = i;
    afterPicture(() => {
      if (this.awaited !== i) return;
      this.awaited = -1;
      this.elements.get(i)?.focus();
    });
  }

  /** Told when the focus comes into the list, and when it goes elsewhere. */
  within(isWithin: boolean): void {
    this.isWithin = isWithin;
  }

  /** Gives the focus back to the list where what had it was taken off the page, as rows are that move far away. */
  keepFocus(at: number): void {
    if (this.isWithin && this.awaited < 0 && document.activeElement === document.body)
      this.elements.get(at)?.focus({ preventScroll: true });
  }
}

/**
 * One stop for Tab in a list, and arrows inside it. Spread `list` on the element around the items and
 * `item(i)` on each. The stop and the focus move after the picture: in the middle of a change they would have
 * the page laid out twice.
 * @param current the item that Tab leads to; −1 for the first
 * @param choose called with the item that an arrow leads to, and whether Shift is held
 * @param onOtherKey called with every key that leads nowhere in the list
 * @param isWrapped items stand beside each other too: the arrows to the sides lead on as well
 */
export function useRoving(
  count: number,
  current: number,
  choose: (index: number, isShift: boolean) => void,
  onOtherKey?: (event: KeyboardEvent) => void,
  isWrapped = false,
) {
  const [items] = useState(() => new RovingItems());
  const at = current < 0 ? 0 : current;
  useEffect(() =>
    afterPicture(() => {
      items.stopAt(at);
      items.keepFocus(at);
    }),
  );
  return {
    list: {
      // Neither is told while a change takes an item off the page, only when the focus goes elsewhere by itself.
      onFocus: () => items.within(true),
      onBlur: () => items.within(false),
      onKeyDown: (event: KeyboardEvent) => {
        if (items.isOther(event.target)) return;
        const next = nextIndex(event.key, items.from(event.target, at), count, isWrapped);
        if (next === null) {
          onOtherKey?.(event);
          return;
        }
        event.preventDefault();
        choose(next, event.shiftKey);
        items.focus(next);
      },
    },
    item: (i: number) => items.at(i),
    focus: (i: number) => items.focus(i),
  };
}

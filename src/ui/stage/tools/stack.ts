import type { PointerAt } from './tool';

/** Presses nearer to each other than this are one place, pixels. */
const SAME_PLACE = 4;

/** What was taken of what lies behind one another under the pointer. */
export interface StackedPick<T> {
  readonly hit: T;
  /** Which of them it is, from 1, and how many there are. */
  readonly nth: number;
  readonly of: number;
}

/**
 * Takes things that lie behind one another one after the other: a press takes the nearest, the same place again the one
 * behind it, and after the last the nearest again.
 */
export class StackedPicks<T> {
  private last: { readonly at: PointerAt; readonly key: string } | null = null;

  /** @param keyOf what makes two picks one and the same thing */
  constructor(private readonly keyOf: (hit: T) => string) {}

  /** What a press takes; null where nothing lies under it. `hits`: near ones first. */
  take(at: PointerAt, hits: readonly T[]): StackedPick<T> | null {
    const things = new Map<string, T>();
    for (const hit of hits) if (!things.has(this.keyOf(hit))) things.set(this.keyOf(hit), hit);
    const keys = [...things.keys()];
    const { last } = this;
    const isSamePlace = last && Math.hypot(at.x - last.at.x, at.y - last.at.y) <= SAME_PLACE;
    const next = isSamePlace ? (keys.indexOf(last.key) + 1) % Math.max(1, keys.length) : 0;
    const key = keys[next];
    const hit = key === undefined ? undefined : things.get(key);
    this.last = hit === undefined ? null : { at: isSamePlace ? last.at : at, key };
    return hit === undefined ? null : { hit, nth: next + 1, of: keys.length };
  }
}

/** What was before each change, and what was taken back: one line for whatever is changed by hand and can be taken back. */
export interface UndoLine<T> {
  /** Oldest first. */
  readonly past: readonly T[];
  /** What was taken back last comes last. */
  readonly future: readonly T[];
}

export const EMPTY_LINE: UndoLine<never> = { past: [], future: [] };

/** How many changes can be taken back. */
const DEPTH = 300;

/** After a change: `was` is what stood before it. What had been taken back is gone. */
export const afterChange = <T>({ past }: UndoLine<T>, was: T): UndoLine<T> => ({
  past: [...past, was].slice(-DEPTH),
  future: [],
});

/** A line, and what stands now. */
export interface Stepped<T> {
  readonly line: UndoLine<T>;
  readonly value: T;
}

/** Takes the last change back; null where there is none. `now`: what stands. */
export function undone<T>({ past, future }: UndoLine<T>, now: T): Stepped<T> | null {
  if (past.length === 0) return null;
  return { line: { past: past.slice(0, -1), future: [...future, now] }, value: past[past.length - 1] };
}

/** Makes the change again that was taken back last; null where there is none. */
export function redone<T>({ past, future }: UndoLine<T>, now: T): Stepped<T> | null {
  if (future.length === 0) return null;
  return { line: { past: [...past, now], future: future.slice(0, -1) }, value: future[future.length - 1] };
}

/**
 * What a person has made by hand and not saved yet, in the browser: it is there again when the page was closed or
 * broke off. A browser that keeps nothing (a private window, say) only loses it.
 */
import { createStore, del, delMany, entries, get, set } from 'idb-keyval';

/** How many are kept of a kind; of more, those go that were left first. */
const MOST = 40;

interface Entry<T> {
  readonly value: T;
  /** When it was left, milliseconds since 1970. */
  readonly at: number;
}

/** Things of one kind that are kept under a key each. */
export interface Keeper<T> {
  remember(key: string, value: T): Promise<void>;
  /** Undefined where none was kept. */
  recall(key: string): Promise<T | undefined>;
  forget(key: string): Promise<void>;
}

/** Keeps things of one kind in a database of the browser. */
export function keeperIn<T>(database: string): Keeper<T> {
  let opened: ReturnType<typeof createStore> | null = null;
  const store = () => (opened ??= createStore(database, 'drafts'));
  let last: Promise<unknown> = Promise.resolve();
  /** One after the other: what is forgotten last stays forgotten. What fails is as if nothing were kept. */
  const quietly = <R>(work: () => Promise<R>): Promise<R | undefined> => {
    const done = last.then(work).catch(() => undefined);
    last = done;
    return done;
  };
  return {
    remember: (key, value) =>
      quietly(async () => {
        const others = (await entries<string, Entry<T>>(store())).filter(([otherKey]) => otherKey !== key);
        const newest = others.sort((a, b) => b[1].at - a[1].at).map(([key]) => key);
        await delMany(newest.slice(MOST - 1), store());
        await set(key, { value, at: Date.now() }, store());
      }),
    recall: (key) => quietly(async () => (await get<Entry<T>>(key, store()))?.value),
    forget: (key) => quietly(() => del(key, store())),
  };
}

/**
 * What the hand did and nobody kept yet, in the browser: it is there again when the page was closed or broke
 * off. A browser that keeps nothing (a private window, say) only loses it.
 */
import { createStore, del, delMany, entries, get, set } from 'idb-keyval';

/** How many are kept; of more, those go that were left first. */
const MOST = 40;

interface Kept {
  readonly bundle: Uint8Array;
  /** When it was left, milliseconds since 1970. */
  readonly at: number;
}

let opened: ReturnType<typeof createStore> | null = null;
const store = () => (opened ??= createStore('young-bough', 'drafts'));

async function quietly<T>(work: () => Promise<T>): Promise<T | undefined> {
  try {
    return await work();
  } catch {
    return undefined;
  }
}

/** Keeps a bundle of patches for the revision that they were made on. */
export const rememberDraft = (revision: string, bundle: Uint8Array): Promise<void> =>
  quietly(async () => {
    const others = (await entries<string, Kept>(store())).filter(([key]) => key !== revision);
    const newest = others.sort((a, b) => b[1].at - a[1].at).map(([key]) => key);
    await delMany(newest.slice(MOST - 1), store());
    await set(revision, { bundle, at: Date.now() }, store());
  });

/** The bundle that was kept for a revision; undefined where there is none. */
export const rememberedDraft = (revision: string): Promise<Uint8Array | undefined> =>
  quietly(async () => (await get<Kept>(revision, store()))?.bundle);

export const forgetDraft = (revision: string): Promise<void> => quietly(() => del(revision, store()));

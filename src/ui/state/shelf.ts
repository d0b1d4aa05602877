/** The shelf as pages show it: every character with what its brief says. */
import type { Brief } from '@/core/house/brief';
import { MOST_BY_ID, type ShelfEntry, listCharacters } from '@/routes/characters';
import { call } from '../kit/api';
import { onTold } from './events';

/** A character of the shelf, with its brief in its newest version; null where that is not there any more. */
export interface ShelfFigure extends ShelfEntry {
  readonly wants: Brief | null;
}

/** How long several things that are told at once are waited for, milliseconds. */
const GATHER = 1000;

/** The shelf, or those of it that are asked for by their ids. */
export async function fetchShelf(only?: readonly string[]): Promise<ShelfFigure[]> {
  const { characters, briefs } = await call(listCharacters, only ? { only: only.join(',') } : {});
  return characters.map((character) => ({ ...character, wants: briefs[character.brief] ?? null }));
}

/** The shelf with some of its characters as they stand now; those that are new come last, as they came. */
export function withChanged(
  shelf: readonly ShelfFigure[],
  changed: readonly ShelfFigure[],
  gone: ReadonlySet<string>,
): ShelfFigure[] {
  const now = new Map(changed.map((figure) => [figure.id, figure]));
  const known = shelf.flatMap((figure) => (gone.has(figure.id) ? [] : [now.get(figure.id) ?? figure]));
  const there = new Set(shelf.map((figure) => figure.id));
  return [...known, ...changed.filter((figure) => !there.has(figure.id) && !gone.has(figure.id))];
}

/** What has happened to the shelf; `all`: it is to be fetched as a whole. */
export type ShelfNews = 'all' | { readonly changed: readonly string[]; readonly gone: ReadonlySet<string> };

/** Tells of characters that stand at another revision, have come or have gone, several at once. */
export function watchShelf(hear: (news: ShelfNews) => void): () => void {
  let changed = new Set<string>();
  let gone = new Set<string>();
  let isAnew = false;
  let timer: ReturnType<typeof setTimeout> | undefined;
  const tell = () => {
    timer = undefined;
    const news: ShelfNews = isAnew || changed.size > MOST_BY_ID ? 'all' : { changed: [...changed], gone };
    changed = new Set();
    gone = new Set();
    isAnew = false;
    hear(news);
  };
  const forget = onTold((news) => {
    if (news.what === 'head') changed.add(news.character);
    else if (news.what === 'gone') gone.add(news.character);
    else if (news.what === 'anew') isAnew = true;
    else return;
    timer ??= setTimeout(tell, GATHER);
  });
  return () => {
    forget();
    clearTimeout(timer);
  };
}

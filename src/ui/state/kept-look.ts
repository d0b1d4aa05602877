import type { Character } from '@/core/character/model';
import { type NamedPlace, allNamed, finderOf } from '@/core/character/named';

/** What a person has set on the nodes of a scene, by their indices. */
export interface Look {
  readonly hidden: ReadonlySet<number>;
  readonly locked: ReadonlySet<number>;
  readonly tints: ReadonlyMap<number, string>;
}

/** The same by name: the lists of the next revision count otherwise. */
export interface WrittenLook {
  readonly hidden: readonly NamedPlace[];
  readonly locked: readonly NamedPlace[];
  readonly tints: readonly (readonly [NamedPlace, string])[];
}

export function writtenLook(character: Character, look: Look): WrittenLook {
  const names = allNamed(character.nodes.map((node) => node.name));
  return {
    hidden: [...look.hidden].map((i) => names[i]),
    locked: [...look.locked].map((i) => names[i]),
    tints: [...look.tints].map(([i, colour]) => [names[i], colour]),
  };
}

/** Found again on a character; what it does not have is left out. */
export function lookOn(character: Character, written: WrittenLook): Look {
  const find = finderOf(character.nodes.map((node) => node.name));
  const found = (named: NamedPlace) => {
    const i = find(named);
    return i < 0 ? [] : [i];
  };
  return {
    hidden: new Set(written.hidden.flatMap(found)),
    locked: new Set(written.locked.flatMap(found)),
    tints: new Map(written.tints.flatMap(([named, colour]) => found(named).map((i) => [i, colour] as const))),
  };
}

const slot = (id: string) => `look ${id}`;

/** For a character that is no more. */
export function forgetLook(id: string): void {
  try {
    localStorage.removeItem(slot(id));
  } catch {
    /* nothing was kept */
  }
}

/** Keeps it in the browser, so that it is there when the page is opened again. */
export function keepLook(id: string, character: Character, look: Look): void {
  if (look.hidden.size + look.locked.size + look.tints.size === 0) {
    forgetLook(id);
    return;
  }
  try {
    localStorage.setItem(slot(id), JSON.stringify(writtenLook(character, look)));
  } catch {
    /* a private or a full window keeps it for this page only */
  }
}

/** What was kept for a character; nothing where there is nothing, or nothing that can be read. */
export function keptLook(id: string, character: Character): Look {
  try {
    const kept = localStorage.getItem(slot(id));
    if (kept) return lookOn(character, JSON.parse(kept) as WrittenLook);
  } catch {
    /* what cannot be read is as if it were not there */
  }
  return { hidden: new Set(), locked: new Set(), tints: new Map() };
}

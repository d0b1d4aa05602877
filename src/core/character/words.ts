/**
 * A table of words to look up what stands in a file. A plain object would also answer to “constructor” and
 * “__proto__”, which are names like any other.
 */
export const wordTable = <V>(rows: Readonly<Record<string, V>>): ReadonlyMap<string, V> =>
  new Map(Object.entries(rows));

/** True of a name that every plain object answers to. */
export const isObjectWord = (name: string): boolean => name in Object.prototype;

/** Old and new names, as people type, paste and keep them. */

/** A table of one pair a line: the old name, then → or a comma, semicolon or tab, then the new one. */
export function readNameTable(text: string): Readonly<Record<string, string>> {
  const pairs = text
    .split(/\r?\n/)
    .map((line) => line.split(/\s*(?:→|->|,|;|\t)\s*/).map((word) => word.trim()))
    .filter((pair) => pair.length === 2 && pair[0] && pair[1]);
  return Object.fromEntries(pairs);
}

/** The same in words, one pair a line. */
export const nameTableText = (table: Readonly<Record<string, string>>): string =>
  Object.entries(table)
    .map(([from, to]) => `${from} → ${to}`)
    .join('\n');

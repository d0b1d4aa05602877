/** A thing of a character by its name, and which of several of that name: how it is found again where the lists count otherwise. */
export interface Named { readonly name: string; readonly nth: number }

export function namedIn(names: readonly string[], i: number): Named {
  let nth = 0;
  for (let k = 0; k < i; k++) if (names[k] === names[i]) nth++;
  return { name: names[i], nth };
}

/** The index of a named thing, −1 where the list has none such. */
export function findNamed(names: readonly string[], { name, nth }: Named): number {
  let k = 0;
  for (let i = 0; i < names.length; i++) if (names[i] === name && k++ === nth) return i;
  return -1;
}

/**
 * A thing of a character by its name, and which of several of that name: how it is found again where the
 * lists count otherwise.
 */
export interface NamedPlace {
  readonly name: string;
  readonly nth: number;
}

/** A thing of a list by its name, and by its place among its namesakes. */
export function namedIn(names: readonly string[], i: number): NamedPlace {
  let nth = 0;
  for (let k = 0; k < i; k++) if (names[k] === names[i]) nth++;
  return { name: names[i], nth };
}

/** The index of a named thing, −1 where the list has none such. */
export const findNamed = (names: readonly string[], named: NamedPlace): number => finderOf(names)(named);

/** The same for many: the list is walked once. */
export function finderOf(names: readonly string[]): (named: NamedPlace) => number {
  const at = new Map<string, number[]>();
  names.forEach((name, i) => {
    const known = at.get(name);
    if (known) known.push(i);
    else at.set(name, [i]);
  });
  return ({ name, nth }) => at.get(name)?.[nth] ?? -1;
}

/** Every entry of a list as a named thing, in one walk. */
export function allNamed(names: readonly string[]): NamedPlace[] {
  const seen = new Map<string, number>();
  return names.map((name) => {
    const nth = seen.get(name) ?? 0;
    seen.set(name, nth + 1);
    return { name, nth };
  });
}

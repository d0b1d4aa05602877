import { namePattern } from '../../contracts/pattern';

/** A convention of names as the parts that a person chooses, and the pattern and the words that follow from them. */

/** How the words of a name begin. */
export const LETTERS = ['small', 'capital', 'any'] as const;

/** What stands between words; nothing for words that begin with a capital. */
export const SEPARATORS = ['_', '-', '.', ' ', ''] as const;

export interface NamingParts {
  readonly letters: (typeof LETTERS)[number];
  readonly separator: (typeof SEPARATORS)[number];
  readonly numbers: boolean;
  /** What every name begins with; empty for nothing. */
  readonly prefix: string;
}

const escaped = (text: string) => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&').replace(/-/g, '\\-');

/** The first word of a name, and what may begin the others. */
const WORDS = {
  small: { first: '[a-z]', next: '[a-z]', rest: 'a-z' },
  capital: { first: '[A-Z]', next: '[A-Z]', rest: 'A-Za-z' },
  any: { first: '[A-Za-z]', next: '[A-Za-z]', rest: 'A-Za-z' },
} as const;

/** The pattern over whole names that a convention is. */
export function patternOf({ letters, separator, numbers, prefix }: NamingParts): string {
  const { first, next, rest } = WORDS[letters];
  const letter = numbers ? `[${rest}0-9]` : `[${rest}]`;
  const head = `^${escaped(prefix)}${first}${letter}*`;
  if (separator === '') return `${head}$`;
  const further = numbers ? `${letter}+` : `${next}${letter}*`;
  return `${head}(${escaped(separator)}${further})*$`;
}

const LETTER_WORDS = {
  small: 'small letters',
  capital: 'words that begin with a capital',
  any: 'letters',
} as const;

/** The same in words. */
export function wordsOf({ letters, separator, numbers, prefix }: NamingParts): string {
  const begin = prefix ? `“${prefix}”, then ` : '';
  const figures = numbers ? ' and numbers' : '';
  const joined = separator === '' ? '' : `, parts joined by ${separator === ' ' ? 'a space' : separator}`;
  return `${begin}${LETTER_WORDS[letters]}${figures}${joined}`;
}

/** Names as the convention has them. */
export function examplesOf(
  { letters, separator, numbers, prefix }: NamingParts,
  sides: { readonly left: string; readonly right: string } | null,
): string[] {
  const words = [
    ['spine', ...(numbers ? ['2'] : [])],
    ['upper', 'arm'],
    ['upper', 'arm'],
  ];
  const cased = (word: string, i: number) =>
    letters === 'capital' || (letters === 'any' && separator === '' && i > 0)
      ? word[0].toUpperCase() + word.slice(1)
      : word;
  const names = words.map((word) => prefix + word.map(cased).join(separator));
  return [names[0], names[1] + (sides?.left ?? ''), names[2] + (sides?.right ?? '')].filter(
    (name, i, all) => all.indexOf(name) === i,
  );
}

/** All conventions of a prefix, the strictest first. */
const conventions = (prefix: string): NamingParts[] =>
  LETTERS.flatMap((letters) =>
    [false, true].flatMap((numbers) =>
      SEPARATORS.map((separator): NamingParts => ({ letters, separator, numbers, prefix })),
    ),
  );

/** The parts that a pattern was made of; null for one that was written by hand. */
export function partsOf(pattern: string): NamingParts | null {
  const prefix = /^\^((?:\\.|[A-Za-z0-9 :])*?)\[/.exec(pattern)?.[1].replace(/\\(.)/g, '$1') ?? '';
  return conventions(prefix).find((parts) => patternOf(parts) === pattern) ?? null;
}

/** The strictest convention that all names follow; null where there is none. */
export function namingOf(names: readonly string[]): NamingParts | null {
  const fits = (parts: NamingParts) => {
    const pattern = namePattern(patternOf(parts));
    return names.every((name) => pattern.test(name));
  };
  const whole = commonBeginning(names);
  const prefix =
    names.length > 1 ? (/^.*[:]/.exec(whole)?.[0] ?? /^[^_.\- ]+[_.\- ]/.exec(whole)?.[0] ?? '') : '';
  return conventions('').find(fits) ?? (prefix ? (conventions(prefix).find(fits) ?? null) : null);
}

function commonBeginning(names: readonly string[]): string {
  let out = names[0] ?? '';
  for (const name of names) while (!name.startsWith(out)) out = out.slice(0, -1);
  return out;
}

/** What all of some names end with, from the last mark between words on. */
export function commonEnd(names: readonly string[]): string {
  let out = names[0] ?? '';
  for (const name of names) while (!name.endsWith(out)) out = out.slice(1);
  return /[_.\- ][^_.\- ]*$/.exec(out)?.[0] ?? /[A-Z][a-z]*$/.exec(out)?.[0] ?? '';
}

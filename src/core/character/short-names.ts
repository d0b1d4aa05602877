/**
 * Names of a list as short as they can be told apart: what most of them share (a namespace, a suffix) is left out,
 * what differs stays. No two different names become the same.
 */

/** Words that more than this share of the names have tell none of them apart. */
const SHARED = 0.5;

/** Names no longer than this fit as they are. */
const FITS = 14;

/** What stands for words that are left out. */
const LEFT_OUT = '…';

/** Words of a name, each with the sign that follows it. */
const wordsOf = (name: string): string[] => name.match(/[^_.:\-|/ ]+[_.:\-|/ ]*|[_.:\-|/ ]+/g) ?? [name];

/** The names in the order of the list, shortened. */
export function shortNames(names: readonly string[]): string[] {
  const count = new Map<string, number>();
  for (const name of names)
    for (const word of new Set(wordsOf(name))) count.set(word, (count.get(word) ?? 0) + 1);
  const isShared = (word: string) => names.length > 3 && (count.get(word) ?? 0) > SHARED * names.length;
  const short = names.map((name) => (name.length <= FITS ? name : withoutShared(wordsOf(name), isShared)));
  const seen = new Map<string, Set<string>>();
  names.forEach((name, i) => seen.set(short[i], (seen.get(short[i]) ?? new Set()).add(name)));
  return short.map((text, i) => ((seen.get(text)?.size ?? 0) > 1 ? names[i] : text));
}

function withoutShared(words: readonly string[], isShared: (word: string) => boolean): string {
  const kept: string[] = [];
  for (const word of words) {
    if (!isShared(word)) kept.push(word);
    else if (kept.length > 0 && kept.at(-1) !== LEFT_OUT) kept.push(LEFT_OUT);
  }
  while (kept.at(-1) === LEFT_OUT) kept.pop();
  const text = kept.join('').replace(/[_.:\-|/ ]+$/, '');
  return text === '' ? words.join('') : text;
}

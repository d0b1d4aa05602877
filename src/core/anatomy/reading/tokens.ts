/** Names taken apart into words and numbers, whatever they are written in. */
import { LRUCache } from 'lru-cache';
import { MEANINGS } from './words';

/** Letters of Latin script that no accent can be taken off. */
const PLAIN: ReadonlyMap<string, string> = new Map([
  ['ł', 'l'],
  ['ß', 'ss'],
  ['ı', 'i'],
  ['ø', 'o'],
  ['đ', 'd'],
  ['æ', 'ae'],
  ['œ', 'oe'],
]);

/** Small letters of one width without accents; what is no Latin letter keeps its marks. */
export function plainText(text: string): string {
  return text
    .normalize('NFKC')
    .toLowerCase()
    .normalize('NFD')
    .replace(/([a-z])[\u0300-\u036f]+/g, '$1')
    .normalize('NFC')
    .replace(/[łßıøđæœ]/g, (letter) => PLAIN.get(letter) as string);
}

/** Scripts without blanks between words, as they stand in a class of letters. */
const RUNS = '\\p{Script=Han}\\p{Script=Hiragana}\\p{Script=Katakana}\\p{Script=Hangul}ー々';
const RUN = new RegExp(`[${RUNS}]`, 'u');

/** A run of letters that all are of such scripts, or none of them. */
const SAME_RUN = new RegExp(`[${RUNS}]+|[^${RUNS}]+`, 'gu');

/**
 * The words and numbers of a name, small, in order: split at signs, changes of case, digits and scripts, and
 * then words that are written as one where the list knows their parts: “LeftForeArm_02” → left, forearm, 02.
 */
export function wordsOf(name: string): readonly string[] {
  let words = known.get(name);
  if (!words) known.set(name, (words = splitName(name)));
  return words;
}

/** Names that were read last: the same are asked for by many. */
const known = new LRUCache<string, readonly string[]>({ max: 50_000 });

function splitName(name: string): string[] {
  const split = name
    .normalize('NFKC')
    .replace(/(\p{Ll})(\p{Lu})/gu, '$1 $2')
    .replace(/(\p{Lu})(?=\p{Lu}\p{Ll})/gu, '$1 ')
    .replace(/(\p{L})(\p{Nd})/gu, '$1 $2')
    .replace(/(\p{Nd})(\p{L})/gu, '$1 $2');
  const parts = plainText(split)
    .split(/[^\p{L}\p{Nd}ー々]+/u)
    .filter(Boolean)
    .flatMap(splitScripts);
  const told = parts.length > 2 * MOST_AT_AN_END ? endsOf(parts) : parts;
  return joinKnown(
    told.flatMap((word) => (MEANINGS.has(word) || /^\p{Nd}+$/u.test(word) ? [word] : splitKnown(word))),
  );
}

/** A name of more words than twice this is no name that anybody gave: what it says stands at its ends. */
const MOST_AT_AN_END = 12;

const endsOf = (words: readonly string[]): string[] => [
  ...words.slice(0, MOST_AT_AN_END),
  ...words.slice(-MOST_AT_AN_END),
];

/** Runs of scripts without blanks apart from the letters beside them. */
const splitScripts = (part: string): string[] => part.match(SAME_RUN) ?? [];

/**
 * A word that is not in the list as those that are: all of it in a script with blanks, as much as can be in one
 * without.
 */
function splitKnown(word: string): string[] {
  const letters = [...word];
  const isRun = RUN.test(letters[0]);
  const shortest = isRun ? 1 : 3;
  if (letters.length < 2 * shortest && !isRun) return [word];
  if (letters.length > 40) return [word];
  // best[i]: how the first i letters are covered: letters that no word covers, then the number of words.
  const best: ({ cost: number; from: number; known: boolean } | null)[] = [{ cost: 0, from: 0, known: true }];
  for (let i = 1; i <= letters.length; i++) {
    const before = best[i - 1];
    best[i] = before && isRun ? { cost: before.cost + 10, from: i - 1, known: false } : null;
    for (let j = Math.max(0, i - 12); j <= i - shortest; j++) {
      const start = best[j];
      if (!start || !MEANINGS.has(letters.slice(j, i).join(''))) continue;
      const cost = start.cost + 1;
      if (cost < (best[i]?.cost ?? Infinity)) best[i] = { cost, from: j, known: true };
    }
  }
  if (!best[letters.length]) return [word];
  const out: string[] = [];
  for (let i = letters.length; i > 0; i = (best[i] as { from: number }).from)
    out.unshift(letters.slice((best[i] as { from: number }).from, i).join(''));
  return out;
}

/** Neighbours that are one word in the list: “fore”, “arm” → “forearm”. */
function joinKnown(words: readonly string[]): string[] {
  const out: string[] = [];
  for (let i = 0; i < words.length; i++) {
    const three = words.slice(i, i + 3).join('');
    const two = words.slice(i, i + 2).join('');
    if (i + 2 < words.length && MEANINGS.has(three)) {
      out.push(three);
      i += 2;
    } else if (i + 1 < words.length && MEANINGS.has(two) && !/^\p{Nd}/u.test(words[i + 1])) {
      out.push(two);
      i++;
    } else {
      out.push(words[i]);
    }
  }
  return out;
}

/**
 * New names for bones whose names a brief does not take: what the old name says (read with all the others, in any
 * language), put as the convention puts it, the side at the end, each name once. Where an old name says nothing that
 * the convention could write, the part of the body does, and else the bone is counted.
 */
import { namePattern } from '../../contracts/pattern';
import { looksOf } from '../../anatomy/looks';
import { wordsOf } from '../../anatomy/reading/tokens';
import { MEANINGS } from '../../anatomy/reading/words';
import { skeletonOf } from '../../anatomy/skeleton';
import { bonesOf } from '../../character/hierarchy';
import type { Character } from '../../character/model';
import { type NamingParts, SEPARATORS, partsOf } from './naming';

/** A brief's convention, as far as names are proposed by it. */
export interface Convention {
  readonly pattern: string;
  readonly longest: number;
  readonly leftovers: string;
  readonly forbidden: readonly string[];
  readonly sides: { readonly left: string; readonly right: string } | null;
}

/** Old names and what is proposed for them; `#` in a new name counts bones that share the old one. */
export type NameTable = Readonly<Record<string, string>>;

/** English words for the parts of the body. */
const PART_WORDS: Readonly<Record<string, string>> = {
  upperarm: 'upper arm',
  lowerarm: 'forearm',
  upperleg: 'thigh',
  lowerleg: 'shin',
  long: 'middle finger',
  index: 'index finger',
  ring: 'ring finger',
  little: 'little finger',
};

/** Names for some bones, unique among all of the character; a bone for which there is none is not in the table. */
export function proposeNames(
  character: Character,
  bones: readonly number[],
  convention: Convention,
): NameTable {
  const wanted = new Set(bones);
  const names = (list: readonly number[]) => list.map((b) => character.nodes[b].name);
  const all = bonesOf(character);
  const count = new Map<string, number>();
  for (const name of names(all)) count.set(name, (count.get(name) ?? 0) + 1);
  const taken = new Set(names(all.filter((b) => !wanted.has(b))));
  const ways = waysToPut(convention);
  const counters = new Map<string, number>();
  const table: Record<string, string> = {};
  for (const { bone, words, side } of readingsOf(character, convention.leftovers)) {
    const { name } = character.nodes[bone];
    if (!wanted.has(bone) || Object.hasOwn(table, name)) continue;
    const isShared = (count.get(name) ?? 0) > 1;
    const put = isShared
      ? countedName(words, side, convention, ways, taken)
      : uniqueName(words, side, convention, ways, taken, counters);
    if (!put) continue;
    if (!isShared) taken.add(put);
    Object.defineProperty(table, name, { value: put, enumerable: true, writable: true, configurable: true });
  }
  return table;
}

interface Read {
  readonly bone: number;
  readonly words: readonly string[];
  readonly side: 'left' | 'right' | '';
}

const NUMBER = /[_.\- ]\d{3}$/;

const known = new WeakMap<Character, { readonly leftovers: string; readonly readings: readonly Read[] }>();

/** What the name of every bone says without what copying left on it, in words of Latin script; read once. */
function readingsOf(character: Character, leftovers: string): readonly Read[] {
  const before = known.get(character);
  if (before?.leftovers === leftovers) return before.readings;
  const readings = readAll(character, leftovers);
  known.set(character, { leftovers, readings });
  return readings;
}

function readAll(character: Character, leftovers: string): Read[] {
  const left = namePattern(`[_.\\- ]?(?:${leftovers})`, true);
  const { bones, ...rest } = skeletonOf(character);
  // A number is what a copy leaves, or what a skeleton without other names has throughout.
  const isNumbered = bones.filter((bone) => NUMBER.test(bone.name)).length > bones.length / 2;
  const cleaned = bones.map((bone) =>
    isNumbered && NUMBER.test(bone.name)
      ? bone
      : { ...bone, name: left.removeFrom(bone.name).trim() || bone.name },
  );
  const skeleton = { ...rest, bones: cleaned };
  const { readings, side } = looksOf(skeleton);
  return skeleton.bones.map((bone, i): Read => {
    const { part, stem, kind } = readings[i];
    const said = stem.split(' ').filter(Boolean);
    const own = said.some(isLatinWord) ? said : wordsOf(bone.name).filter((word) => !isSide(word));
    const isWritable = own.some(isLatinWord) && own.every((word) => /^[a-z0-9]+$/.test(word));
    const english = part ? (PART_WORDS[part] ?? part).split(' ') : [kind === 'bone' ? 'bone' : kind];
    const kindWord = kind === 'bone' || !part ? [] : [kind];
    const words = isWritable ? own : [...english, ...own.filter((word) => /^\d+$/.test(word)), ...kindWord];
    return {
      bone: bone.node,
      words: words.map((word) => (/^\d+$/.test(word) ? String(Number(word)) : word)),
      side: side[i] === 0 ? '' : (['right', '', 'left'] as const)[side[i] + 1],
    };
  });
}

const isLatinWord = (word: string) => /^[a-z]+$/.test(word);
const isSide = (word: string) => ['left', 'right'].includes(MEANINGS.get(word) ?? '');

/**
 * A name that nobody has, counted where it must be; '' where the convention takes none.
 * @param counters how far names were counted before, by what they begin with: what is taken stays taken
 */
function uniqueName(
  words: readonly string[],
  side: Read['side'],
  convention: Convention,
  ways: readonly Put[],
  taken: ReadonlySet<string>,
  counters: Map<string, number>,
): string {
  for (const [i, put] of ways.entries()) {
    const key = `${i} ${side} ${words.join(' ')}`;
    for (let node = counters.get(key) ?? 1; node <= taken.size + 2; node++) {
      const name = put(node === 1 ? words : [...words, String(node)], side);
      if (isTaken(name, convention, taken)) continue;
      counters.set(key, node);
      if (fits(name, convention)) return name;
      break;
    }
  }
  return '';
}

/** A name with a counter for bones that share theirs; '' where the convention takes no numbers. */
function countedName(
  words: readonly string[],
  side: Read['side'],
  convention: Convention,
  ways: readonly Put[],
  taken: ReadonlySet<string>,
): string {
  for (const put of ways) {
    const counted = (name: string) => put([...words.filter((word) => !/^\d+$/.test(word)), name], side);
    const isFree = ![1, 2, 3].some((number) => isTaken(counted(String(number)), convention, taken));
    if (isFree && fits(counted('1'), convention)) return counted('#');
  }
  return '';
}

const isTaken = (name: string, { forbidden }: Convention, taken: ReadonlySet<string>) =>
  taken.has(name) || forbidden.includes(name);

function fits(name: string, { pattern, longest, leftovers }: Convention): boolean {
  return (
    name.length <= longest && namePattern(pattern).test(name) && !namePattern(leftovers, true).test(name)
  );
}

type Put = (words: readonly string[], side: Read['side']) => string;

/** How a convention writes words: as its parts say, or, where it was written by hand, in every usual way. */
function waysToPut({ pattern, longest, sides }: Convention): Put[] {
  const known = partsOf(pattern);
  const usual = SEPARATORS.flatMap((separator) =>
    (['small', 'capital', 'any'] as const).map((letters): NamingParts => ({
      letters,
      separator,
      numbers: true,
      prefix: '',
    })),
  );
  return (known ? [known] : usual).map((parts): Put => (words, side) => {
    const end = side === '' ? '' : (sides?.[side] ?? joined(parts, side));
    const room = longest - parts.prefix.length - end.length;
    return parts.prefix + writeWords(parts, words).slice(0, Math.max(1, room)) + end;
  });
}

const joined = (parts: NamingParts, side: 'left' | 'right') =>
  parts.separator + (parts.letters === 'capital' || parts.separator === '' ? capital(side) : side);

const capital = (word: string) => word.charAt(0).toUpperCase() + word.slice(1);

/** Letters for numbers where a convention takes none. */
const lettered = (word: string) =>
  /^\d+$/.test(word) ? String.fromCharCode(97 + ((Number(word) + 25) % 26)) : word.replace(/\d+/g, '');

function writeWords({ letters, separator, numbers }: NamingParts, words: readonly string[]): string {
  const plain = numbers ? words : words.map(lettered).filter(Boolean);
  return plain
    .map((word, i) =>
      letters === 'capital' || (letters === 'any' && separator === '' && i > 0) ? capital(word) : word,
    )
    .join(separator);
}

import type { Attribute, Character, Source } from '../character/model';
import { EMPTY_CARRIED } from '../character/model';
import { addressOf } from '../character/bundle';
import { type InputFile, ReadError, type ReadLimits } from './errors';

/** What a person says of files that do not say it themselves; what a file says counts before it. */
export interface ReadOptions {
  readonly unitMetres?: number;
  readonly upAxis?: 'x' | 'y' | 'z';
  /** Everything is taken so many times as large, about the world's origin, whatever the file says of its unit. */
  readonly scale?: number;
}

const LONGEST = 500_000_000;

/** The file as text: UTF-8, or UTF-16 where it begins with that byte order mark. Throws {@link ReadError}. */
export function textOf(file: InputFile, limits: ReadLimits): string {
  const bytes = file.bytes;
  if (bytes.length === 0) throw new ReadError(file.name, 'the file is empty', 'Export it again.');
  if (bytes.length > Math.min(limits.bytes, LONGEST))
    throw new ReadError(
      file.name,
      `the file has ${bytes.length} bytes, more than the limit of ${Math.min(limits.bytes, LONGEST)} for text`,
      'Split it, or export it as binary glTF.',
    );
  const encoding = encodingOf(bytes);
  return new TextDecoder(encoding).decode(bytes);
}

/** The encoding that a byte order mark names; UTF-8 where there is none. */
function encodingOf(b: Uint8Array): string {
  if (b[0] === 0xff && b[1] === 0xfe) return 'utf-16le';
  return b[0] === 0xfe && b[1] === 0xff ? 'utf-16be' : 'utf-8';
}

/** Whether a letter is white space, as `\s` takes it. */
const isBlank = (code: number) =>
  code === 32 || (code >= 9 && code <= 13) || (code > 127 && /\s/.test(String.fromCharCode(code)));

/**
 * Reads words out of a long text, cut at white space; each letter of `marks` is a word by itself. A pattern would keep
 * its way back for every letter of a word, and break off where one has some millions of them.
 */
export class WordScanner {
  at = 0;
  constructor(
    private readonly text: string,
    private readonly marks = '',
  ) {}

  /** The next word; undefined at the end. */
  next(): string | undefined {
    const { text, marks } = this;
    let start = this.at;
    while (start < text.length && isBlank(text.charCodeAt(start))) start++;
    let end = start;
    if (start < text.length && marks.includes(text[start])) end++;
    else while (end < text.length && !isBlank(text.charCodeAt(end)) && !marks.includes(text[end])) end++;
    this.at = end;
    return end > start ? text.slice(start, end) : undefined;
  }
}

/** A text cut at white space. */
export function wordsOf(text: string): string[] {
  const scan = new WordScanner(text);
  const words: string[] = [];
  for (let word = scan.next(); word !== undefined; word = scan.next()) words.push(word);
  return words;
}

/** Where the first line begins whose first word this is: the place of the word; −1 where there is none. */
export function lineWith(text: string, word: string): number {
  for (let at = text.indexOf(word); at >= 0; at = text.indexOf(word, at + word.length)) {
    let before = at - 1;
    while (before >= 0 && text[before] !== '\n' && isBlank(text.charCodeAt(before))) before--;
    const after = at + word.length;
    const isWhole = after >= text.length || isBlank(text.charCodeAt(after));
    if (isWhole && (before < 0 || text[before] === '\n')) return at;
  }
  return -1;
}

/** Powers of ten that a double holds exactly. */
const POW = Array.from({ length: 23 }, (_, i) => 10 ** i);

/**
 * Reads numbers out of a long text without making a string of each. Decimal numbers of at most 15 digits and
 * a power of ten up to 22 are exact by one division or product (Clinger 1990); the rest go through `Number`.
 */
export class NumberScanner {
  at = 0;
  constructor(
    private readonly text: string,
    start = 0,
    private readonly end = text.length,
  ) {
    this.at = start;
  }

  /** The next number; NaN where the next word is none, undefined at the end. */
  next(): number | undefined {
    const { text, end } = this;
    let i = this.at;
    let code = 0;
    while (i < end && (code = text.charCodeAt(i)) <= 32) i++;
    if (i >= end) {
      this.at = i;
      return undefined;
    }
    const start = i;
    let negative = false;
    if (code === 45) {
      negative = true;
      i++;
    } else if (code === 43) {
      i++;
    }
    let mantissa = 0;
    let digits = 0;
    let point = -1;
    let exponent = 0;
    let plain = true;
    for (; i < end; i++) {
      code = text.charCodeAt(i);
      if (code >= 48 && code <= 57) {
        mantissa = mantissa * 10 + (code - 48);
        digits++;
      } else if (code === 46 && point < 0) {
        point = digits;
      } else {
        break;
      }
    }
    if (i < end && (code === 101 || code === 69)) {
      let k = i + 1;
      let sign = 1;
      let power10 = 0;
      let any = false;
      if (text.charCodeAt(k) === 45) {
        sign = -1;
        k++;
      } else if (text.charCodeAt(k) === 43) {
        k++;
      }
      for (; k < end && (code = text.charCodeAt(k)) >= 48 && code <= 57; k++) {
        power10 = power10 * 10 + (code - 48);
        any = true;
      }
      if (any) {
        exponent = sign * power10;
        i = k;
      }
    }
    if (i < end && text.charCodeAt(i) > 32) {
      plain = false;
      while (i < end && text.charCodeAt(i) > 32) i++;
    }
    this.at = i;
    if (!plain || digits === 0) {
      const word = text.slice(start, i).replace(',', '.');
      const value = word === '' ? NaN : Number(word);
      return value;
    }
    const power = exponent - (point < 0 ? 0 : digits - point);
    if (digits <= 15 && power >= -22 && power <= 22) {
      const x = power < 0 ? mantissa / POW[-power] : mantissa * POW[power];
      return negative ? -x : x;
    }
    return Number(text.slice(start, i));
  }
}

/** An attribute of floats, `size` per vertex. */
export const floats = (data: Float32Array, size: number): Attribute => ({
  data,
  size,
  normalized: false,
  type: `VEC${size}`,
});

/** Triangles or quads that came from a format which keeps polygons are what they are. */
export function sourceOf(
  format: string,
  generator: string,
  files: readonly InputFile[],
  options: ReadOptions,
  said: { unitMetres?: number; upAxis?: 'x' | 'y' | 'z' } = {},
): Source {
  return {
    format,
    generator,
    unitMetres: said.unitMetres ?? options.unitMetres ?? 1,
    upAxis: said.upAxis ?? options.upAxis ?? 'y',
    stated: {
      unit: options.unitMetres !== undefined || said.unitMetres !== undefined,
      upAxis: options.upAxis !== undefined || said.upAxis !== undefined,
    },
    files: files.map((file) => ({
      name: file.name,
      bytes: file.bytes.length,
      sha256: addressOf(file.bytes),
    })),
  };
}

/** The longest name that a character takes from its file, letters. */
const LONGEST_NAME = 80;

/** The name that a character takes from its file: without folders and ending, of a length that people read. */
export function nameOfFile(file: string): string {
  const bare = file.replace(/^.*[\\/]/, '').replace(/\.[^.]*$/, '');
  return [...bare.trim()].slice(0, LONGEST_NAME).join('').trim() || 'character';
}

/** A character with nothing in it, named after its file. */
export function bareCharacter(name: string, source: Source): Character {
  return {
    name: nameOfFile(name),
    nodes: [],
    meshes: [],
    skins: [],
    clips: [],
    sets: [],
    carried: { ...EMPTY_CARRIED, scenes: [{ json: {}, roots: [] }] },
    source,
    notes: [],
  };
}

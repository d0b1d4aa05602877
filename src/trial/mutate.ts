/** Files spoilt by chance, the same for the same seed. */
import { strFromU8, strToU8 } from 'fflate';
import type { InputFile } from '../core/formats/errors';

/** Numbers from 0 to below 1, the same for the same seed (mulberry32, public domain, Tommy Ettinger). */
export function makeRandom(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

type Spoil = (bytes: Uint8Array, chance: () => number) => Uint8Array;

const place = (bytes: Uint8Array, chance: () => number) => Math.floor(chance() * bytes.length);

/** Beginnings matter most: headers, directories, the text of a container. */
const early = (bytes: Uint8Array, chance: () => number) => Math.floor(chance() ** 3 * bytes.length);

const flipBits: Spoil = (bytes, chance) => {
  const out = bytes.slice();
  for (let n = 1 + Math.floor(chance() * 24); n > 0 && out.length > 0; n--)
    out[early(out, chance)] ^= 1 << Math.floor(chance() * 8);
  return out;
};

const cutOff: Spoil = (bytes, chance) => bytes.slice(0, place(bytes, chance));

const repeat: Spoil = (bytes, chance) => {
  const from = early(bytes, chance);
  const piece = bytes.subarray(from, from + Math.floor(chance() * 4096));
  const times = 1 + Math.floor(chance() * 8);
  const at = early(bytes, chance);
  const out = new Uint8Array(bytes.length + piece.length * times);
  out.set(bytes.subarray(0, at));
  for (let i = 0; i < times; i++) out.set(piece, at + i * piece.length);
  out.set(bytes.subarray(at), at + piece.length * times);
  return out;
};

const zeroOut: Spoil = (bytes, chance) => {
  const out = bytes.slice();
  const at = early(out, chance);
  out.fill(chance() < 0.5 ? 0 : 255, at, at + Math.floor(chance() * 512));
  return out;
};

const ODD = [
  '-1',
  '0',
  '1e999',
  'NaN',
  '4294967296',
  '65536',
  '""',
  'null',
  '[]',
  '{}',
  '"\\u0000"',
  '1e-320',
];

/** Another number or word in place of one in the text. */
const otherNumbers: Spoil = (bytes, chance) => {
  const text = strFromU8(bytes, true);
  const found = [...text.slice(0, 4_000_000).matchAll(/-?\d+(\.\d+)?/g)];
  if (found.length === 0) return flipBits(bytes, chance);
  let out = text;
  for (let n = 1 + Math.floor(chance() * 4); n > 0; n--) {
    const at = found[Math.floor(chance() ** 2 * found.length)];
    out =
      out.slice(0, at.index) + ODD[Math.floor(chance() * ODD.length)] + out.slice(at.index + at[0].length);
  }
  return strToU8(out, true);
};

const WORDS = ['constructor', '__proto__', 'toString', '', ' ', '\0', '\ud800', '../../x', '%', '<b>'];

/** Another word in place of one that stands in quotes. */
const otherWords: Spoil = (bytes, chance) => {
  const text = strFromU8(bytes, true);
  const found = [...text.slice(0, 4_000_000).matchAll(/"[^"]{1,40}"/g)];
  if (found.length === 0) return repeat(bytes, chance);
  const at = found[Math.floor(chance() * found.length)];
  const word = `"${WORDS[Math.floor(chance() * WORDS.length)]}"`;
  return strToU8(text.slice(0, at.index) + word + text.slice(at.index + at[0].length), true);
};

const SPOILS: readonly Spoil[] = [flipBits, cutOff, repeat, zeroOut, otherNumbers, otherWords];

/** One of the files spoilt, by one or two of the ways. */
export function spoil(files: readonly InputFile[], seed: number): InputFile {
  const chance = makeRandom(seed);
  const { name, bytes } = files[Math.floor(chance() * files.length)];
  let out = bytes;
  for (let n = chance() < 0.3 ? 2 : 1; n > 0; n--)
    out = SPOILS[Math.floor(chance() * SPOILS.length)](out, chance);
  return { name, bytes: out };
}

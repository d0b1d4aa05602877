/** Files spoilt by chance, the same for the same seed. */
import { strFromU8, strToU8 } from 'fflate';
import type { InputFile } from '../core/formats/errors';
import { makeRandom } from '../core/geometry/random';

type Spoil = (bytes: Uint8Array, chance: () => number) => Uint8Array;

const place = (bytes: Uint8Array, chance: () => number) => Math.floor(chance() * bytes.length);

/** Beginnings matter most: headers, directories, the text of a container. */
const early = (bytes: Uint8Array, chance: () => number) => Math.floor(chance() ** 3 * bytes.length);

const flipBits: Spoil = (bytes, chance) => {
  const out = bytes.slice();
  for (let node = 1 + Math.floor(chance() * 24); node > 0 && out.length > 0; node--)
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
  for (let node = 1 + Math.floor(chance() * 4); node > 0; node--) {
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

/** A digit in place of another, far from where headers are: the file stays whole, and says something else. */
const otherDigits: Spoil = (bytes, chance) => {
  const out = bytes.slice();
  for (let node = 1 + Math.floor(chance() * 40); node > 0 && out.length > 0; node--) {
    const at = place(out, chance);
    const isDigit = out[at] >= 48 && out[at] <= 57;
    if (isDigit) out[at] = 48 + Math.floor(chance() * 10);
    else if (out[at] < 9 || out[at] > 126) out[at] = Math.floor(chance() * 256);
  }
  return out;
};

const VALUES: readonly unknown[] = [
  null,
  -1,
  0,
  1,
  7,
  1e9,
  0.5,
  '',
  'constructor',
  '\0',
  [],
  {},
  [0],
  [1, 1, 1, 1],
  true,
];

/** One value of a glTF's JSON exchanged, moved or taken away, in a container that is as sound as before. */
const otherValues: Spoil = (bytes, chance) => {
  const glb = bytes[0] === 0x67 && bytes[3] === 0x46;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  const end = glb ? 20 + view.getUint32(12, true) : bytes.length;
  let json: Record<string, unknown>;
  try {
    json = JSON.parse(strFromU8(bytes.subarray(glb ? 20 : 0, end))) as Record<string, unknown>;
  } catch {
    return otherDigits(bytes, chance);
  }
  for (let node = 1 + Math.floor(chance() * 3); node > 0; node--) exchangeValue(json, chance);
  const text = strToU8(JSON.stringify(json));
  if (!glb) return text;
  const room = (text.length + 3) & ~3;
  const out = new Uint8Array(20 + room + bytes.length - end).fill(32);
  out.set(bytes.subarray(0, 20));
  out.set(text, 20);
  out.set(bytes.subarray(end), 20 + room);
  const head = new DataView(out.buffer);
  head.setUint32(8, out.length, true);
  head.setUint32(12, room, true);
  return out;
};

/** Goes down by chance and exchanges what it comes to. */
function exchangeValue(root: Record<string, unknown>, chance: () => number): void {
  let at = root;
  for (;;) {
    const keys = Object.keys(at);
    if (keys.length === 0) return;
    const key = keys[Math.floor(chance() * keys.length)];
    const value = at[key];
    if (value && typeof value === 'object' && chance() < 0.9) {
      at = value as Record<string, unknown>;
      continue;
    }
    if (chance() < 0.15 && !Array.isArray(at)) delete at[key];
    else if (typeof value === 'number' && chance() < 0.5) at[key] = value + Math.round(chance() * 4 - 2);
    else at[key] = structuredClone(VALUES[Math.floor(chance() * VALUES.length)]);
    return;
  }
}

const SPOILS: readonly Spoil[] = [
  flipBits,
  cutOff,
  repeat,
  zeroOut,
  otherNumbers,
  otherWords,
  otherDigits,
  otherDigits,
  otherValues,
  otherValues,
  otherValues,
];

/** One of the files spoilt, by one or two of the ways. */
export function spoil(files: readonly InputFile[], seed: number): InputFile {
  const chance = makeRandom(seed);
  const { name, bytes } = files[Math.floor(chance() * files.length)];
  let out = bytes;
  for (let node = chance() < 0.3 ? 2 : 1; node > 0; node--)
    out = SPOILS[Math.floor(chance() * SPOILS.length)](out, chance);
  return { name, bytes: out };
}

/**
 * The bundle codec. A value made of plain JSON and typed arrays is taken apart into a manifest, in which
 * every array is a reference, and the arrays themselves. In storage an array is addressed by its content
 * hash, so an array that two revisions share is stored and sent once. `pack` puts the two into one
 * ArrayBuffer:
 *
 * magic "YBB1" | manifest bytes u32 | array count u32 | pad u32 | (type u32, elements u32) per array |
 * manifest | arrays, each aligned to 8
 */
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';

const TYPES = [
  Uint8Array,
  Int8Array,
  Uint16Array,
  Int16Array,
  Uint32Array,
  Int32Array,
  Float32Array,
  Float64Array,
] as const;
type AnyArray = InstanceType<(typeof TYPES)[number]>;

export type Plain = null | boolean | number | string | undefined | Plain[] | { [key: string]: Plain };

const MAGIC = 0x31424259;
const REFERENCE = '$array';
const NUMBER = '$number';

const typeOf = (array: AnyArray): number =>
  TYPES.findIndex((constructor) => array.constructor === constructor);

/** Thrown for bytes that are not a bundle; the message says what was found where. */
export class BundleError extends Error {}

/** Sets a key that comes from a file: “__proto__” is a name like any other. */
function own(to: object, key: string, value: unknown): void {
  Object.defineProperty(to, key, { value, enumerable: true, writable: true, configurable: true });
}

/** Takes a value apart. Arrays appear in `arrays` in the order of first meeting, each once. */
export function dismantle(value: unknown): { manifest: Plain; arrays: AnyArray[] } {
  const arrays: AnyArray[] = [];
  const places = new Map<AnyArray, number>();
  const walk = (x: unknown): Plain => {
    if (ArrayBuffer.isView(x)) {
      const array = x as AnyArray;
      let at = places.get(array);
      if (at === undefined) {
        at = arrays.push(array) - 1;
        places.set(array, at);
      }
      return { [REFERENCE]: at };
    }
    if (Array.isArray(x)) return x.map(walk);
    if (x && typeof x === 'object') {
      const out: { [key: string]: Plain } = {};
      for (const [key, value] of Object.entries(x))
        if (value !== undefined) own(out, key.startsWith('$') ? `$${key}` : key, walk(value));
      return out;
    }
    if (typeof x === 'number' && (!Number.isFinite(x) || Object.is(x, -0)))
      return { [NUMBER]: Object.is(x, -0) ? '-0' : String(x) };
    return x as Plain;
  };
  return { manifest: walk(value), arrays };
}

/** Puts a value together again from a manifest and its arrays. */
export function assemble(manifest: Plain, arrayAt: (index: number) => AnyArray): unknown {
  const walk = (x: Plain): unknown => {
    if (Array.isArray(x)) return x.map(walk);
    if (x && typeof x === 'object') {
      if (typeof x[REFERENCE] === 'number') return arrayAt(x[REFERENCE]);
      if (typeof x[NUMBER] === 'string') return Number(x[NUMBER]);
      const out: Record<string, unknown> = {};
      for (const [name, value] of Object.entries(x)) {
        const key = name.startsWith('$$') ? name.slice(1) : name;
        own(out, key, walk(value));
      }
      return out;
    }
    return x;
  };
  return walk(manifest);
}

/** One array as bytes that carry their own type: a tag byte, seven of padding, then the elements. */
export function arrayBytes(array: AnyArray): Uint8Array {
  const out = new Uint8Array(8 + array.byteLength);
  out[0] = typeOf(array);
  out.set(new Uint8Array(array.buffer, array.byteOffset, array.byteLength), 8);
  return out;
}

/**
 * The inverse of {@link arrayBytes}: a view of the same memory where it is aligned, a copy where not. Treat
 * both as read-only.
 */
export function arrayFromBytes(bytes: Uint8Array): AnyArray {
  const T = TYPES[bytes[0]];
  if (!T || bytes.length < 8 || (bytes.length - 8) % T.BYTES_PER_ELEMENT !== 0)
    throw new BundleError('The stored array is damaged: its type tag and its length do not fit together.');
  const count = (bytes.length - 8) / T.BYTES_PER_ELEMENT;
  if ((bytes.byteOffset + 8) % T.BYTES_PER_ELEMENT === 0)
    return new T(bytes.buffer as ArrayBuffer, bytes.byteOffset + 8, count);
  return new T(bytes.slice(8).buffer, 0, count);
}

/** Node's own sums, which are ten times as fast; a browser has none that answer at once. */
const native = (globalThis as { process?: Partial<NodeJS.Process> }).process?.getBuiltinModule?.(
  'node:crypto',
);

/** Content address: sha-256 (FIPS 180-4) in hex. */
export function addressOf(bytes: Uint8Array): string {
  return native ? native.createHash('sha256').update(bytes).digest('hex') : addressAnywhere(bytes);
}

/** The same where there is nothing but the language. */
export const addressAnywhere = (bytes: Uint8Array): string => bytesToHex(sha256(bytes));

const align = (bytes: number) => (bytes + 7) & ~7;

/** One buffer for a value: header, manifest, aligned arrays. */
export function pack(value: unknown): ArrayBuffer {
  const { manifest, arrays } = dismantle(value);
  const json = new TextEncoder().encode(JSON.stringify(manifest));
  const table = 16 + arrays.length * 8;
  let size = align(table + json.length);
  for (const array of arrays) size += align(array.byteLength);
  const buffer = new ArrayBuffer(size);
  const view = new DataView(buffer);
  view.setUint32(0, MAGIC, true);
  view.setUint32(4, json.length, true);
  view.setUint32(8, arrays.length, true);
  arrays.forEach((array, i) => {
    view.setUint32(16 + i * 8, typeOf(array), true);
    view.setUint32(20 + i * 8, array.length, true);
  });
  new Uint8Array(buffer, table, json.length).set(json);
  let at = align(table + json.length);
  for (const array of arrays) {
    new Uint8Array(buffer, at, array.byteLength).set(
      new Uint8Array(array.buffer, array.byteOffset, array.byteLength),
    );
    at += align(array.byteLength);
  }
  return buffer;
}

/**
 * Reads a bundle; its arrays are views on the buffer given. Throws {@link BundleError} for anything that is
 * not one.
 */
export function unpack(buffer: ArrayBuffer): unknown {
  if (buffer.byteLength < 16)
    throw new BundleError(`The bundle ends at byte ${buffer.byteLength}, before its header does.`);
  const view = new DataView(buffer);
  if (view.getUint32(0, true) !== MAGIC)
    throw new BundleError('The bytes are not a bundle: the mark at byte 0 is missing.');
  const jsonLength = view.getUint32(4, true);
  const count = view.getUint32(8, true);
  const table = 16 + count * 8;
  if (table + jsonLength > buffer.byteLength)
    throw new BundleError(
      `The bundle names ${count} arrays and a manifest of ${jsonLength} bytes, more than its ${buffer.byteLength} bytes hold.`,
    );
  let at = align(table + jsonLength);
  const arrays: AnyArray[] = [];
  for (let i = 0; i < count; i++) {
    const T = TYPES[view.getUint32(16 + i * 8, true)];
    const size = view.getUint32(20 + i * 8, true);
    if (!T || at + size * T.BYTES_PER_ELEMENT > buffer.byteLength)
      throw new BundleError(`Array ${i} of the bundle runs past its end at byte ${buffer.byteLength}.`);
    arrays.push(new T(buffer, at, size));
    at += align(arrays[i].byteLength);
  }
  let manifest: Plain;
  try {
    manifest = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, table, jsonLength))) as Plain;
  } catch {
    throw new BundleError(`The bundle's manifest at byte ${table} is not JSON.`);
  }
  return assemble(manifest, (i) => {
    const array = arrays[i];
    if (!array) throw new BundleError(`The bundle's manifest asks for array ${i} of ${count}.`);
    return array;
  });
}

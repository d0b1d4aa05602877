import type { JsonObject } from '../../character/model';
import { isZip, unzip } from '../archive';
import { type InputFile, ReadError, type ReadLimits, printable, takeBytes } from '../errors';

const GLB_MAGIC = 0x46546c67;
const JSON_CHUNK = 0x4e4f534a;
const BIN_CHUNK = 0x004e4942;

/** A glTF file with its buffers and pictures at hand. */
export interface Opened {
  readonly name: string;
  readonly json: JsonObject;
  readonly bin: Uint8Array | null;
  readonly siblings: ReadonlyMap<string, Uint8Array>;
  readonly limits: ReadLimits;
}

const lower = (name: string) => name.toLowerCase();
const base = (path: string) => path.slice(Math.max(path.lastIndexOf('/'), path.lastIndexOf('\\')) + 1);

/**
 * Finds the one glTF among files chosen together (a .glb, a .gltf with its buffers and pictures, or a zip of
 * those) and opens its container. Throws {@link ReadError}.
 */
export function openContainer(files: readonly InputFile[], limits: ReadLimits): Opened {
  const flat = files.flatMap((file) => (isZip(file.bytes) ? unzip(file, limits) : [file]));
  const mains = flat.filter((file) => /\.(glb|gltf)$/i.test(file.name) || isGlb(file.bytes));
  const first = files[0]?.name ?? 'nothing';
  if (mains.length === 0)
    throw new ReadError(
      first,
      'there is no .glb or .gltf among the files',
      'Choose the .gltf together with its buffers and pictures, or a .glb.',
    );
  if (mains.length > 1)
    throw new ReadError(
      first,
      `there are ${mains.length} glTF files (${mains
        .slice(0, 4)
        .map((file) => printable(file.name))
        .join(', ')})`,
      'Bring in one at a time.',
    );
  const main = mains[0];
  if (main.bytes.length === 0) throw new ReadError(main.name, 'the file is empty', 'Export it again.');
  if (main.bytes.length > limits.bytes)
    throw new ReadError(
      main.name,
      `the file has ${main.bytes.length} bytes, more than the limit of ${limits.bytes}`,
      'Split it, or raise the limit in the settings.',
    );
  const siblings = new Map(
    flat
      .filter((file) => file !== main)
      .flatMap(
        (file) =>
          [
            [lower(file.name), file.bytes],
            [lower(base(file.name)), file.bytes],
          ] as const,
      ),
  );
  const { json, bin } = isGlb(main.bytes)
    ? openGlb(main)
    : { json: parseJson(main.name, main.bytes, limits), bin: null };
  checkDepth(main.name, json, limits.depth);
  return { name: main.name, json: json as JsonObject, bin, siblings, limits };
}

/** Bytes of a buffer or picture: the GLB's own chunk, a data URI, or a file chosen along with it. */
export function resourceOf(opened: Opened, uri: string | undefined, what: string): Uint8Array {
  if (uri === undefined) {
    if (!opened.bin)
      throw new ReadError(
        opened.name,
        `${what} has no uri and the file has no binary chunk`,
        'Export it again as .glb.',
      );
    return opened.bin;
  }
  const data = /^data:[^,]*?(;base64)?,/i.exec(uri);
  if (data) {
    try {
      const text = uri.slice(data[0].length);
      takeBytes(opened.limits, 'unpacked', text.length, opened.name);
      return data[1] ? bytesOfBase64(text) : new TextEncoder().encode(decodeURIComponent(text));
    } catch (error) {
      if (error instanceof ReadError) throw error;
      throw new ReadError(opened.name, `${what} holds a data URI that is not base64`, 'Export it again.');
    }
  }
  let path = uri;
  try {
    path = decodeURIComponent(uri);
  } catch {
    /* a stray % stands for itself */
  }
  const found = opened.siblings.get(lower(path)) ?? opened.siblings.get(lower(base(path)));
  if (!found)
    throw new ReadError(
      opened.name,
      `${what} lies in “${printable(path)}”, which was not chosen along with it`,
      'Choose that file together with the .gltf.',
    );
  return found;
}

/** Byte by byte: what makes an array of letters first needs many times the memory. */
function bytesOfBase64(text: string): Uint8Array {
  const letters = atob(text);
  const out = new Uint8Array(letters.length);
  for (let i = 0; i < letters.length; i++) out[i] = letters.charCodeAt(i);
  return out;
}

const isGlb = (b: Uint8Array) =>
  b.length >= 4 && new DataView(b.buffer, b.byteOffset).getUint32(0, true) === GLB_MAGIC;

function openGlb(file: InputFile): { json: unknown; bin: Uint8Array | null } {
  const { bytes, name } = file;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 20)
    throw new ReadError(
      name,
      `the file ends at byte ${bytes.length}, before its header does`,
      'It was cut off; copy or export it again.',
    );
  const version = view.getUint32(4, true);
  const total = view.getUint32(8, true);
  if (version !== 2)
    throw new ReadError(name, `this is a binary glTF of version ${version}`, 'Export it as glTF 2.0.');
  if (total > bytes.length)
    throw new ReadError(
      name,
      `the header announces ${total} bytes and the file has ${bytes.length}`,
      'It was cut off; copy or export it again.',
    );
  let json: unknown;
  let bin: Uint8Array | null = null;
  for (let at = 12, chunk = 0; at + 8 <= total; chunk++) {
    const size = view.getUint32(at, true);
    const kind = view.getUint32(at + 4, true);
    if (at + 8 + size > total)
      throw new ReadError(
        name,
        `chunk ${chunk} at byte ${at} runs past the end of the file`,
        'It was cut off; copy or export it again.',
      );
    const body = bytes.subarray(at + 8, at + 8 + size);
    if (chunk === 0 && kind !== JSON_CHUNK)
      throw new ReadError(name, 'the first chunk is not JSON', 'Export it again.');
    if (chunk === 0) json = parseText(name, body);
    else if (kind === BIN_CHUNK && !bin) bin = body;
    at += 8 + size + ((4 - (size & 3)) & 3);
  }
  if (json === undefined) throw new ReadError(name, 'the file holds no JSON chunk', 'Export it again.');
  return { json: asRoot(name, json), bin };
}

function parseJson(name: string, bytes: Uint8Array, limits: ReadLimits): unknown {
  if (bytes.length > Math.min(limits.bytes, 1 << 29))
    throw new ReadError(name, 'the file is too large for a text glTF', 'Export it as .glb.');
  return asRoot(name, parseText(name, bytes));
}

function parseText(name: string, bytes: Uint8Array): unknown {
  try {
    return JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes));
  } catch (error) {
    const where = /position (\d+)/.exec(String(error))?.[1];
    throw new ReadError(
      name,
      `the glTF text is not JSON${where ? ` (at character ${where})` : ''}`,
      'Check that the file is a glTF and was not cut off.',
    );
  }
}

function asRoot(name: string, json: unknown): unknown {
  const asset = json && typeof json === 'object' && !Array.isArray(json) ? (json as JsonObject).asset : null;
  if (!asset || typeof asset !== 'object')
    throw new ReadError(name, 'the file is JSON but not glTF: it has no “asset”', 'Choose a glTF 2.0 file.');
  const version = String((asset as JsonObject).version ?? '');
  if (!version.startsWith('2.'))
    throw new ReadError(
      name,
      `the file is glTF ${printable(version) || 'without a version'}`,
      'Export it as glTF 2.0.',
    );
  return json;
}

function checkDepth(name: string, root: unknown, limit: number): void {
  let level: unknown[] = [root];
  for (let depth = 0; level.length > 0; depth++) {
    if (depth > limit)
      throw new ReadError(
        name,
        `its JSON is nested more than ${limit} deep`,
        'Export it again without the nested extras.',
      );
    const next: unknown[] = [];
    for (const x of level)
      if (x && typeof x === 'object')
        for (const value of Object.values(x)) if (value && typeof value === 'object') next.push(value);
    level = next;
  }
}

/** Files on the command line: read with what lies beside them, written in the format of their name. */
import { existsSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { Character } from '../core/character/model';
import { type ReadOptions, WRITES, type WriteFormat, readCharacter, writeCharacter } from '../core/formats';
import { type InputFile, limitsFrom } from '../core/formats/errors';
import { UsageError } from './errors';

/** The bytes of a file. Throws {@link UsageError} where it cannot be opened. */
export function bytesOf(file: string): Uint8Array {
  try {
    if (statSync(file).isDirectory()) throw new UsageError(`“${file}” is a folder; name a file.`);
    return new Uint8Array(readFileSync(file));
  } catch (error) {
    if (error instanceof UsageError) throw error;
    throw new UsageError(`“${file}” cannot be opened; check the name and that you may read it.`);
  }
}

/** Reads a file, with the buffers, materials and pictures that it names, as a character. */
export function readFile(file: string, options: ReadOptions = {}): Character {
  return readCharacter(withSiblings(file), limitsFrom(process.env), options);
}

/**
 * Writes a character in the format of the file's name; gives what the format could not hold, in sentences.
 */
export function writeFile(character: Character, file: string): readonly string[] {
  const format = /\.([a-z]+)$/i.exec(file)?.[1].toLowerCase() as WriteFormat | undefined;
  if (!format || !WRITES.includes(format))
    throw new UsageError(
      `“${file}” is none of ${WRITES.map((w) => `.${w}`).join(', ')}; those are what this writes.`,
    );
  const { files, notes } = writeCharacter(character, format, path.basename(file).replace(/\.[^.]*$/, ''));
  files.forEach((f, i) => writeBytes(i === 0 ? file : path.join(path.dirname(file), f.name), f.bytes));
  return notes;
}

export function writeBytes(file: string, bytes: Uint8Array | string): void {
  try {
    writeFileSync(file, bytes);
  } catch {
    throw new UsageError(`“${file}” cannot be written; check the folder and that you may write there.`);
  }
}

/** A file with what lies beside it and is named by it; nothing outside its folder is opened. */
function withSiblings(file: string): InputFile[] {
  const root = path.resolve(path.dirname(file));
  const out = [{ name: path.basename(file), bytes: bytesOf(file) }];
  for (let k = 0; k < out.length && out.length < 200; k++) {
    if (!/\.(gltf|obj|mtl|dae)$/i.test(out[k].name)) continue;
    for (const name of new Set(namedBy(out[k].name, new TextDecoder().decode(out[k].bytes)))) {
      const full = path.resolve(root, name.replace(/\\/g, '/'));
      const isInside = full.startsWith(root + path.sep) && existsSync(full) && statSync(full).isFile();
      if (isInside && !out.some((o) => o.name === name))
        out.push({ name, bytes: new Uint8Array(readFileSync(full)) });
    }
  }
  return out;
}

/**
 * What a file names beside itself: buffers and pictures of a .gltf, materials and pictures of an .obj,
 * pictures of a .dae.
 */
function namedBy(name: string, text: string): string[] {
  if (/\.gltf$/i.test(name))
    return [...text.matchAll(/"uri"\s*:\s*"((?!data:)[^"]+)"/g)].map((m) => decodeUri(m[1]));
  if (/\.obj$/i.test(name)) return [...text.matchAll(/^\s*mtllib\s+(.+?)\s*$/gm)].map((m) => m[1]);
  if (/\.mtl$/i.test(name)) return [...text.matchAll(/^\s*map_Kd\s+(?:.*\s)?(\S+)\s*$/gm)].map((m) => m[1]);
  if (/\.dae$/i.test(name))
    return [...text.matchAll(/<init_from>\s*(?:<ref>\s*)?([^<#][^<]*?)\s*</g)].map((m) => decodeUri(m[1]));
  return [];
}

function decodeUri(uri: string): string {
  try {
    return decodeURIComponent(uri);
  } catch {
    return uri;
  }
}

/** Files on the command line: read with what lies beside them, written in the format of their name. */
import { existsSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { Character } from '../core/character/model';
import {
  type ReadOptions,
  WRITTEN_FORMATS,
  namedBeside,
  readCharacter,
  writeCharacter,
} from '../core/formats';
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
  const format = WRITTEN_FORMATS.find(({ writer }) => file.toLowerCase().endsWith(`.${writer.ending}`));
  if (!format) {
    const endings = WRITTEN_FORMATS.map(({ writer }) => `.${writer.ending}`).join(', ');
    throw new UsageError(`“${file}” is none of ${endings}; those are what this writes.`);
  }
  const { files, notes } = writeCharacter(character, format.id, path.basename(file).replace(/\.[^.]*$/, ''));
  files.forEach((otherFile, i) =>
    writeBytes(i === 0 ? file : path.join(path.dirname(file), otherFile.name), otherFile.bytes),
  );
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
    // Of a binary file no text is made only to find nothing in it.
    if (!isText(out[k].bytes)) continue;
    for (const name of new Set(namedBeside(out[k].name, new TextDecoder().decode(out[k].bytes)))) {
      const full = path.resolve(root, name.replace(/\\/g, '/'));
      const isInside = full.startsWith(root + path.sep) && existsSync(full) && statSync(full).isFile();
      if (isInside && !out.some((file) => file.name === name))
        out.push({ name, bytes: new Uint8Array(readFileSync(full)) });
    }
  }
  return out;
}

const isText = (bytes: Uint8Array) => !bytes.subarray(0, 512).includes(0);

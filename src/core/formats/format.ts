/**
 * What a format of files is to the house: how its files are known, read and written. A new one is one folder and one line
 * in the list of formats; command line, routes, shelf and docket go by the list.
 */
import type { Character } from '../character/model';
import type { InputFile, ReadLimits } from './errors';
import type { ReadOptions } from './text';

/** The files of one character, and what could not be kept in them. */
export interface WrittenFiles {
  readonly files: readonly { readonly name: string; readonly bytes: Uint8Array; readonly type: string }[];
  readonly notes: readonly string[];
}

/** A pose: world matrices, 16 per node, and how far each node's morph targets are on. */
export interface WrittenPose {
  readonly world: Float64Array;
  readonly morphs: (node: number) => readonly number[];
}

/** How a character is written. */
export interface WriteOptions {
  /** It is written in it where the format holds no motion, at rest where nothing is said. */
  readonly pose?: WrittenPose;
}

/** How files of a format are written. */
export interface FormatWriter {
  /** What its file is called behind the dot. */
  readonly ending: string;
  /** What is offered: “The file”, and in a few words what it holds. */
  readonly offer: string;
  readonly about: string;
  /** Whether it holds skeleton, weights and motion, so that a character can be handed over in it. */
  readonly isWhole: boolean;
  /** The first file is the main one, the others lie beside it; they are called `stem` and an ending. */
  write(character: Character, stem: string, options: WriteOptions): WrittenFiles;
  /** Why a character cannot be written, as a sentence; null where it can. */
  whyNot?(character: Pick<Character, 'nodes' | 'meshes'>): string | null;
}

/** A format of files. */
export interface Format {
  readonly id: string;
  readonly title: string;
  /** Endings of the files that it reads, with their dots, in small letters; the first is the commonest. */
  readonly reads: readonly string[];
  /** Whether a file is of this format by its first letters, marks and blanks before them left out. */
  sniff?(head: string): boolean;
  /**
   * What a file names beside itself (buffers, materials, pictures), as paths from its folder; for its own files and for
   * those that they name. Nothing where the file is of another kind.
   */
  refersTo?(name: string, text: string): readonly string[];
  /** Reads the first of the files, which is of this format, with what lies beside it. Throws ReadError. */
  read(files: readonly InputFile[], limits: ReadLimits, options: ReadOptions): Character;
  readonly writer?: FormatWriter;
}

/** Makes a format. */
export const defineFormat = <F extends Format>(format: F): F => format;

/** An address in a file as a path: what is escaped in it is not. */
export function pathOfUri(uri: string): string {
  try {
    return decodeURIComponent(uri);
  } catch {
    return uri;
  }
}

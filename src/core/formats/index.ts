/** Reading and writing characters in any format of the house: which reader a set of files wants, and which writer a name. */
import { joinCharacters } from '../character/join';
import type { Character } from '../character/model';
import { STILL, underSimilarity } from '../character/similarity';
import { isZip, unzip } from './archive';
import {
  DEEPEST,
  DEFAULT_LIMITS,
  type InputFile,
  ReadError,
  type ReadLimits,
  Taken,
  takeCount,
  takeVertices,
} from './errors';
import { topDown } from '../character/hierarchy';
import type { Format, WriteOptions, WrittenFiles } from './format';
import { FORMATS, READS, WRITTEN_FORMATS, type WrittenFormat } from './list';
import { mendCharacter } from './mend';
import { withinReach } from './reach';
import { recoverPolygons } from './recover';
import type { ReadOptions } from './text';

export type { WriteOptions, WrittenFiles, WrittenPose } from './format';
export { READS, WRITTEN_FORMATS } from './list';
export type { ReadOptions } from './text';

/** A character that cannot be written in a format. The message is a sentence for people. */
export class WriteError extends Error {}

const endsAs = (name: string, format: Format) =>
  format.reads.some((ending) => name.toLowerCase().endsWith(ending));

/**
 * Reads one character from files chosen together: the format follows from the names, or from the first bytes
 * where the name says nothing. Several characters among them (a body, its clothes, a skeleton with motion)
 * become one, in the order in which they were chosen; the first gives the name. `options` gives unit and up
 * axis to files that do not say them. Throws {@link ReadError}.
 */
export function readCharacter(
  files: readonly InputFile[],
  limits: ReadLimits = DEFAULT_LIMITS,
  options: ReadOptions = {},
): Character {
  const first = files[0];
  if (!first)
    throw new ReadError('nothing', 'no file was chosen', 'Choose a glTF, COLLADA, OBJ or BVH file.');
  const bounds = { ...limits, taken: new Taken() };
  const flat = files.flatMap((file) =>
    isZip(file.bytes) && !/\.zae$/i.test(file.name) ? unzip(file, bounds) : [file],
  );
  const mains = flat.flatMap((file) => {
    const format = FORMATS.find((candidate) => endsAs(file.name, candidate));
    return format ? [{ file, format }] : [];
  });
  const take = (format: Format, from: readonly InputFile[], name: string) =>
    scaleRead(
      checkRead(
        withinEngine(name, () => format.read(from, bounds, options)),
        name,
        bounds,
      ),
      options.scale ?? 1,
    );
  if (mains.length === 0) return take(sniff(first, flat), flat, first.name);
  const beside = flat.filter((file) => !mains.some((main) => main.file === file));
  const [one, ...others] = mains.map(({ file, format }) => take(format, [file, ...beside], file.name));
  return others.reduce((all, next) => joinCharacters(all, next), one);
}

/** Reads; where the engine breaks off over a text of some millions of letters, or over depth, that is the file's fault. */
export function withinEngine(file: string, read: () => Character): Character {
  try {
    return read();
  } catch (error) {
    if (!(error instanceof RangeError) || !error.message.includes('call stack')) throw error;
    throw new ReadError(
      file,
      'a name or a text in it has millions of letters, or its parts stand in one another far too deep',
      'Export it again from where it was made.',
    );
  }
}

/** What is asked of a character whatever it was read from. Throws {@link ReadError}. */
function checkRead(character: Character, file: string, limits: ReadLimits): Character {
  if (character.nodes.length === 0)
    throw new ReadError(file, 'it holds no node and no mesh', 'Export it with the character in it.');
  const depth = depthOf(character.nodes);
  if (depth > DEEPEST)
    throw new ReadError(
      file,
      `its nodes hang ${depth} deep, one under the other; the house takes ${DEEPEST}`,
      'Export it again without the chain.',
    );
  const shown = character.nodes.reduce((sum, { mesh }) => sum + (mesh >= 0 ? 1 : 0), 0);
  if (shown > limits.objects) takeCount(limits, 'objects', shown, file);
  // A mesh that several nodes show is placed for every one of them.
  const copies = copiedVertices(character);
  if (copies > 0) takeVertices(limits, copies, file);
  return recoverPolygons(mendCharacter(withinReach(character, file)));
}

/** A character taken `scale` times as large: its file counts as made in a unit so much larger. */
function scaleRead(character: Character, scale: number): Character {
  if (scale === 1) return character;
  const { source } = character;
  return {
    ...underSimilarity(character, { ...STILL, scale }),
    source: {
      ...source,
      unitMetres: source.unitMetres * scale,
      stated: { unit: true, upAxis: source.stated?.upAxis !== false },
    },
  };
}

function depthOf(nodes: Character['nodes']): number {
  const depths = new Int32Array(nodes.length);
  for (const i of topDown(nodes)) depths[i] = nodes[i].parent < 0 ? 1 : depths[nodes[i].parent] + 1;
  return depths.reduce((a, b) => Math.max(a, b), 0);
}

/** Vertices of every showing of a mesh after its first. */
function copiedVertices({ nodes, meshes }: Character): number {
  const shown = new Uint32Array(meshes.length);
  for (const node of nodes) if (node.mesh >= 0) shown[node.mesh]++;
  return meshes.reduce((sum, mesh, i) => sum + mesh.vertexCount * Math.max(0, shown[i] - 1), 0);
}

/** The format that the first letters of a file tell. Throws {@link ReadError} where they tell none. */
function sniff(first: InputFile, files: readonly InputFile[]): Format {
  for (const file of files) {
    const head = new TextDecoder('latin1').decode(file.bytes.subarray(0, 512)).replace(/^(ï»¿|\s)+/, '');
    const format = FORMATS.find((candidate) => candidate.sniff?.(head));
    if (format) return format;
  }
  throw new ReadError(
    first.name,
    first.bytes.length === 0 ? 'the file is empty' : 'this is none of the formats that the house reads',
    `Export it as glTF (.glb) or COLLADA (.dae) where it was made; ${READS.slice(0, -1).join(', ')} and a zip of those are read.`,
  );
}

/** What a file names beside itself, as paths from its folder: buffers, materials and pictures. */
export const namedBeside = (name: string, text: string): readonly string[] =>
  FORMATS.flatMap((format) => format.refersTo?.(name, text) ?? []);

/** A format that is written, by its id. Throws {@link WriteError} where there is none. */
export function writtenFormat(id: string): WrittenFormat {
  const format = WRITTEN_FORMATS.find((candidate) => candidate.id === id);
  if (format) return format;
  const known = WRITTEN_FORMATS.map((candidate) => candidate.id).join(', ');
  throw new WriteError(`“${id}” is no format that is written; choose one of ${known}.`);
}

/** Why a character cannot be written in a format, as a sentence; null where it can. */
export const whyNotWritten = (character: Pick<Character, 'nodes' | 'meshes'>, id: string): string | null =>
  writtenFormat(id).writer.whyNot?.(character) ?? null;

/**
 * Writes a character in a format, named by its id; the first file is the main one, the others lie beside it. Throws
 * {@link WriteError}.
 */
export function writeCharacter(
  character: Character,
  id: string,
  stem: string,
  options: WriteOptions = {},
): WrittenFiles {
  const { writer } = writtenFormat(id);
  const why = writer.whyNot?.(character);
  if (why) throw new WriteError(why);
  return writer.write(character, stem, options);
}

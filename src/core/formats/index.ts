/** Every format of the house: which reader a set of files wants, and which writer a name. */
import { joinCharacters } from '../character/join';
import type { Character } from '../character/model';
import { STILL, underSimilarity } from '../character/similarity';
import { readBvh } from './bvh/read';
import { writeCollada } from './collada/write';
import { readCollada } from './collada/read';
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
import { mendCharacter } from './mend';
import { topDown } from '../character/hierarchy';
import { readGltf } from './gltf/read';
import { writeGlb } from './gltf/write';
import { readObj } from './obj/read';
import { writeObj } from './obj/write';
import { withinReach } from './reach';
import { recoverPolygons } from './recover';
import type { ReadOptions } from './text';
import { WriteError, type WriteFormat, whyNotWritten } from './writes';

export type { ReadOptions } from './text';
export { WRITES, WriteError, type WriteFormat, whyNotWritten } from './writes';

/** Endings of the files that are read. */
export const READS = ['.glb', '.gltf', '.dae', '.zae', '.obj', '.bvh', '.zip'] as const;

type Reader = (files: readonly InputFile[], limits: ReadLimits, options: ReadOptions) => Character;

const READERS: readonly { readonly name: RegExp; readonly read: Reader }[] = [
  { name: /\.(glb|gltf)$/i, read: (files, limits) => readGltf(files, limits) },
  { name: /\.(dae|zae)$/i, read: readCollada },
  { name: /\.obj$/i, read: readObj },
  { name: /\.bvh$/i, read: readBvh },
];

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
  const flat = files.flatMap((f) => (isZip(f.bytes) && !/\.zae$/i.test(f.name) ? unzip(f, bounds) : [f]));
  const mains = flat.flatMap((file) => {
    const reader = READERS.find((r) => r.name.test(file.name));
    return reader ? [{ file, reader }] : [];
  });
  const take = (read: Reader, from: readonly InputFile[], name: string) =>
    scaleRead(
      checkRead(
        withinEngine(name, () => read(from, bounds, options)),
        name,
        bounds,
      ),
      options.scale ?? 1,
    );
  if (mains.length === 0) return take(sniff(first, flat), flat, first.name);
  const beside = flat.filter((f) => !mains.some((m) => m.file === f));
  const [one, ...others] = mains.map(({ file, reader }) => take(reader.read, [file, ...beside], file.name));
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
  const shown = character.nodes.reduce((n, { mesh }) => n + (mesh >= 0 ? 1 : 0), 0);
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
  for (const n of nodes) if (n.mesh >= 0) shown[n.mesh]++;
  return meshes.reduce((sum, m, i) => sum + m.vertexCount * Math.max(0, shown[i] - 1), 0);
}

function sniff(first: InputFile, files: readonly InputFile[]): Reader {
  for (const f of files) {
    const head = new TextDecoder('latin1').decode(f.bytes.subarray(0, 512)).replace(/^(ï»¿|\s)+/, '');
    if (head.startsWith('glTF') || /^\{[\s\S]*"(asset|scenes?|nodes|meshes)"/.test(head))
      return READERS[0].read;
    if (/<COLLADA[\s>]/.test(head)) return READERS[1].read;
    if (head.startsWith('HIERARCHY')) return READERS[3].read;
  }
  throw new ReadError(
    first.name,
    first.bytes.length === 0 ? 'the file is empty' : 'this is none of the formats that the house reads',
    `Export it as glTF (.glb) or COLLADA (.dae) where it was made; ${READS.slice(0, -1).join(', ')} and a zip of those are read.`,
  );
}

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
  /** OBJ is written in it, others at rest. */ readonly pose?: WrittenPose;
}

/** Writes a character; the first file is the main one, the others lie beside it. */
export function writeCharacter(
  character: Character,
  format: WriteFormat,
  stem: string,
  options: WriteOptions = {},
): WrittenFiles {
  const why = whyNotWritten(character, format);
  if (why) throw new WriteError(why);
  if (format === 'glb') {
    const { bytes, notes } = writeGlb(character);
    return { files: [{ name: `${stem}.glb`, bytes, type: 'model/gltf-binary' }], notes };
  }
  return format === 'dae' ? writeCollada(character, stem) : writeObj(character, stem, options.pose);
}

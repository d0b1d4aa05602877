/**
 * Every place of a file spoilt, one at a time: what comes back is sound in itself and can be audited,
 * measured and written, or is refused with one sentence. Never a crash, never a number that is none.
 */
import fc from 'fast-check';
import { briefById } from '@/core/house/briefs';
import { audit } from '@/core/house/audit';
import { brokenInvariants } from '@/core/character/invariants';
import { placedMeshes } from '@/core/character/measure';
import type { Character } from '@/core/character/model';
import { readCharacter, writeCharacter } from '@/core/formats';
import { DEFAULT_LIMITS, type InputFile, ReadError, type ReadLimits } from '@/core/formats/errors';
import { clipMorphs, clipWorld } from '@/core/motion/pose';
import { randomCharacter } from './support/random';

const encode = (text: string) => new TextEncoder().encode(text);
const decode = (b: Uint8Array) => new TextDecoder().decode(b);
const LIMITS: ReadLimits = {
  ...DEFAULT_LIMITS,
  bytes: 1 << 24,
  vertices: 100_000,
  nodes: 2000,
  depth: 64,
  files: 20,
};
const handset = briefById('handset')!;

/** What every reader promises of what it lets through. */
function holdsUp(character: Character): void {
  expect(brokenInvariants(character)).toEqual([]);
  for (const mesh of placedMeshes(character))
    expect([mesh.node, mesh.points.findIndex((x) => Number.isNaN(x))]).toEqual([mesh.node, -1]);
  for (const clip of character.clips) {
    expect(clipWorld(character, clip, 0.4).findIndex((x) => Number.isNaN(x))).toBe(-1);
    character.nodes.forEach((node, i) => {
      if (node.mesh >= 0)
        for (const morph of clipMorphs(character, clip, 0.4, i)) expect(Number.isFinite(morph)).toBe(true);
    });
  }
}

/** Reads; a refusal must be one line that names the file. True where it was read. */
function readOrRefused(files: InputFile[]): boolean {
  let character: Character;
  try {
    character = readCharacter(files, LIMITS, { unitMetres: 1, upAxis: 'y' });
  } catch (error) {
    if (!(error instanceof ReadError)) throw error;
    expect(error.message).toMatch(/^[^\n]*: [^\n]*\.[^\n]*$/);
    expect(error.message.length).toBeLessThan(400);
    return false;
  }
  holdsUp(character);
  return true;
}

/** Every n-th of a list, from a different start for every seed. */
const some = <T>(list: readonly T[], most: number): T[] =>
  list.filter((_, i) => i % Math.max(1, Math.floor(list.length / most)) === 0);

const small = randomCharacter(9);

describe('glTF', () => {
  const glb = writeCharacter(small, 'glb', 'x').files[0].bytes;
  const view = new DataView(glb.buffer, glb.byteOffset);
  const jsonLength = view.getUint32(12, true);
  const json = JSON.parse(decode(glb.subarray(20, 20 + jsonLength))) as Record<string, unknown>;
  const bin = glb.subarray(28 + jsonLength);
  const asGltf = (j: unknown): InputFile[] => {
    const copy = structuredClone(j) as { buffers?: { uri?: string }[] };
    if (Array.isArray(copy.buffers) && copy.buffers[0] && typeof copy.buffers[0] === 'object')
      copy.buffers[0].uri = 'x.bin';
    return [
      { name: 'x.gltf', bytes: encode(JSON.stringify(copy)) },
      { name: 'x.bin', bytes: bin },
    ];
  };
  type Path = readonly (string | number)[];
  function paths(x: unknown, at: Path = []): Path[] {
    if (!x || typeof x !== 'object') return [at];
    return [
      at,
      ...Object.entries(x).flatMap(([key, value]) =>
        paths(value, [...at, Array.isArray(x) ? Number(key) : key]),
      ),
    ];
  }
  const put = (x: unknown, [key, ...rest]: Path, value: unknown): unknown => {
    if (key === undefined) return value;
    if (Array.isArray(x)) return x.map((y, i) => (i === key ? put(y, rest, value) : y));
    return Object.fromEntries(
      Object.entries(x as object).map(([name, otherValue]) => [
        name,
        name === key ? put(otherValue, rest, value) : otherValue,
      ]),
    );
  };
  const everywhere = paths(json).filter((path) => path.length > 0 && path[0] !== 'asset');
  it('reads unspoilt', () => expect(readOrRefused(asGltf(json))).toBe(true));
  it.each<[string, unknown]>([
    ['−1', -1],
    ['a large index', 4_000_000_000],
    ['a fraction', 0.5],
    ['beyond all bounds', 1e308],
    ['null', null],
    ['a word', 'x'],
    ['markup', '<img src=x>'],
    ['an empty list', []],
    ['a list in a list', [[[]]]],
    ['an empty object', {}],
    ['true', true],
    ['a list of words', ['a', 'b', 'c', 'd']],
    ['a list of numbers', [1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16]],
  ])('with %s in every place', (_, value) => {
    let read = 0;
    const places = some(everywhere, 260);
    for (const place of places) if (readOrRefused(asGltf(put(json, place, value)))) read++;
    expect(places.length).toBeGreaterThan(200);
    expect(read).toBeLessThan(places.length);
  });
  it('with anything left out', () => {
    const without = (x: unknown, [key, ...rest]: Path): unknown => {
      if (Array.isArray(x))
        return rest.length === 0
          ? x.filter((_, i) => i !== key)
          : x.map((y, i) => (i === key ? without(y, rest) : y));
      return Object.fromEntries(
        Object.entries(x as object).flatMap(([name, value]) => {
          if (name !== key) return [[name, value]];
          if (rest.length === 0) return [];
          return [[name, without(value, rest)]];
        }),
      );
    };
    for (const p of some(everywhere, 400)) readOrRefused(asGltf(without(json, p)));
  });
  it('a motion of morph targets with too few or too many numbers is refused; one of a mesh without targets is left out and named', () => {
    const at = small.nodes.findIndex((node) => node.name === 'body');
    const bone = small.nodes.findIndex((node) => node.kind === 'bone');
    const accessors = json.accessors as { count: number; type: string }[];
    const scalars = accessors.findIndex((accessor) => accessor.type === 'SCALAR');
    const withClip = (node: number): unknown => ({
      ...json,
      animations: [
        {
          name: 'odd',
          samplers: [{ input: scalars, output: scalars }],
          channels: [{ sampler: 0, target: { node, path: 'weights' } }],
        },
      ],
    });
    expect(() => readCharacter(asGltf(withClip(at)), LIMITS)).toThrow(
      /channel 0 of clip 0 “odd” has \d+ values for \d+ times/,
    );
    const read = readCharacter(asGltf(withClip(bone)), LIMITS);
    expect([read.clips[0].channels.length, read.notes.join(' ')]).toEqual([
      0,
      expect.stringContaining('which has none, and was left out'),
    ]);
  });
});

describe('COLLADA', () => {
  const text = decode(writeCharacter(small, 'dae', 'x').files[0].bytes);
  const read = (text: string) => readOrRefused([{ name: 'x.dae', bytes: encode(text) }]);
  /** Places of all attribute values and of all short texts. */
  const places = [...text.matchAll(/(?<==")[^"]*(?=")/g), ...text.matchAll(/(?<=>)[^<]{1,200}(?=<)/g)]
    .filter((match) => match[0].trim() !== '')
    .map((match) => [match.index, match.index + match[0].length] as const);
  it('reads unspoilt', () => expect(read(text)).toBe(true));
  it.each(['', '-1', '99999999999', '1e400', 'NaN', '#nowhere', '#scene', '&lt;b&gt;', '0 0 0', 'x y z'])(
    'with “%s” in every place',
    (value) => {
      for (const [from, to] of some(places, 80)) read(text.slice(0, from) + value + text.slice(to));
    },
  );
  it('with any element under another name', () => {
    for (const match of some([...text.matchAll(/<([a-z_]+)[ >]/g)], 90))
      read(
        `${text.slice(0, match.index + 1)}odd${text.slice(match.index + 1)}`.replace(
          new RegExp(`</${match[1]}>`),
          `</odd${match[1]}>`,
        ),
      );
  });
  it('cut off anywhere', () => {
    for (let k = 1; k < 60; k++) expect(read(text.slice(0, Math.floor((text.length * k) / 60)))).toBe(false);
  });
});

describe('OBJ and BVH', () => {
  const obj = decode(
    writeCharacter({ ...small, carried: { ...small.carried, materials: [{ name: 'm' }] } }, 'obj', 'x')
      .files[0].bytes,
  );
  const bvh =
    'HIERARCHY\nROOT hips\n{\n OFFSET 0 0 0\n CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation\n JOINT knee\n {\n  OFFSET 0 -1 0\n  CHANNELS 3 Zrotation Xrotation Yrotation\n  End Site\n  {\n   OFFSET 0 -1 0\n  }\n }\n}\nMOTION\nFrames: 2\nFrame Time: 0.033\n0 2 0 10 20 30 5 6 7\n0 2 1 11 21 31 6 7 8\n';
  it.each([
    ['obj', obj],
    ['bvh', bvh],
  ])('%s: any word exchanged for another', (ending, text) => {
    const words = [...text.matchAll(/\S+/g)].map((m) => [m.index, m.index + m[0].length] as const);
    expect(readOrRefused([{ name: `x.${ending}`, bytes: encode(text) }])).toBe(true);
    for (const value of [
      '',
      '-1',
      '0',
      '1e400',
      'nan',
      'f',
      'v',
      '{',
      '}',
      '99999999',
      '1/2/3/4',
      '//',
      'ROOT',
      '\\',
    ]) {
      for (const [from, to] of some(words, 120))
        readOrRefused([{ name: `x.${ending}`, bytes: encode(text.slice(0, from) + value + text.slice(to)) }]);
    }
  });
  it.each([
    ['obj', obj],
    ['bvh', bvh],
  ])('%s: lines doubled, dropped and exchanged', (ending, text) =>
    fc.assert(
      fc.property(fc.nat(), fc.nat(), fc.constantFrom('double', 'drop', 'swap'), (a, b, how) => {
        const lines = text.split('\n');
        const i = a % lines.length;
        const k = b % lines.length;
        if (how === 'double') lines.splice(k, 0, lines[i]);
        else if (how === 'drop') lines.splice(i, 1);
        else [lines[i], lines[k]] = [lines[k], lines[i]];
        readOrRefused([{ name: `x.${ending}`, bytes: encode(lines.join('\n')) }]);
      }),
      { numRuns: 150 },
    ),
  );
});

it('what was let through from spoilt bytes can be audited and written in every format', () => {
  const glb = writeCharacter(small, 'glb', 'x').files[0].bytes;
  const start = 20 + new DataView(glb.buffer, glb.byteOffset).getUint32(12, true) + 8;
  let worked = 0;
  fc.assert(
    fc.property(fc.array(fc.tuple(fc.nat(), fc.nat(255)), { minLength: 1, maxLength: 12 }), (spoils) => {
      const bytes = glb.slice();
      for (const [at, value] of spoils) bytes[start + (at % (bytes.length - start))] = value;
      let character: Character;
      try {
        character = readCharacter([{ name: 'x.glb', bytes }], LIMITS);
      } catch (error) {
        if (!(error instanceof ReadError)) throw error;
        return;
      }
      expect(brokenInvariants(character)).toEqual([]);
      for (const finding of audit(character, handset))
        expect([finding.check, finding.message]).toEqual([
          finding.check,
          expect.not.stringMatching(/undefined|\[object/),
        ]);
      for (const format of ['glb', 'dae', 'obj'] as const)
        expect(writeCharacter(character, format, 'y').files[0].bytes.length).toBeGreaterThan(100);
      worked++;
    }),
    { numRuns: 60 },
  );
  expect(worked).toBeGreaterThan(10);
});

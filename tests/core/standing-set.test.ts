/**
 * Small files that ask for much, or say what cannot be: those that may not be taken are refused, what is taken is told and
 * can be written and read again. How long they take, and how much memory, is tried by `npm run trial`.
 */
import { zipSync, strToU8 } from 'fflate';
import { readCharacter } from '@/core/formats';
import { DEFAULT_LIMITS, type InputFile, ReadError, limitsFrom } from '@/core/formats/errors';
import { wordsOf } from '@/core/anatomy/reading/tokens';
import { soundAttributes } from '@/core/formats/gltf/attributes';
import type { Attribute, Character } from '@/core/character/model';
import { BOMBS } from '@/trial/bombs';
import { brokenLaw } from '@/trial/law';

const read = (files: readonly InputFile[], limits = DEFAULT_LIMITS): Character =>
  readCharacter(files, limits, { unitMetres: 1, upAxis: 'y' });

const bomb = (name: RegExp): InputFile[] => {
  const found = BOMBS.filter((bomb) => name.test(bomb.name));
  expect(found).toHaveLength(1);
  return found[0].files();
};

describe('what may not be taken is refused with one sentence', () => {
  // Two gigabytes take a minute to pack; what comes to too much is tried in small elsewhere.
  const tried = BOMBS.filter((bomb) => bomb.must === 'be refused' && !/two gigabytes/.test(bomb.name));
  it.each(tried.map((bomb) => [bomb.name, bomb] as const))('%s', (_, b) => {
    const files = b.files();
    expect(() => read(files)).toThrow(ReadError);
    expect(() => read(files)).toThrow(/^x\.\w+: [^.].*\. [A-Z].*\.$|^bomb\.glb: .*\. [A-Z].*\.$/);
  });
});

describe('names of millions of letters', () => {
  it('are cut, and told; what differed differs still', () => {
    const character = read(bomb(/of capitals/));
    const bones = character.nodes.filter((node) => node.kind === 'bone').map((node) => node.name);
    expect(bones).toHaveLength(4);
    expect(new Set(bones).size).toBe(4);
    for (const name of bones) expect(name.length).toBeLessThanOrEqual(255);
    expect(character.notes.join('\n')).toContain('4 names were longer than 255 letters and were cut.');
  });
  it('are read by words as before: at signs, changes of case, digits and scripts', () => {
    const words = (name: string) => [...wordsOf(name)];
    expect(words('XMLParser_HTTPServer2')).toEqual(['xml', 'parser', 'http', 'server', '2']);
    expect(words('左upperArm右')).toEqual(['左', 'upperarm', '右']);
    expect(words('A'.repeat(200_000))).toEqual(['a'.repeat(200_000)]);
    expect(words('left_'.repeat(40) + 'x_9')).toHaveLength(24);
    expect(words('left_'.repeat(40) + 'x_9').slice(-2)).toEqual(['x', '9']);
    expect(words('a左'.repeat(3))).toEqual(['a', '左', 'a', '左', 'a', '左']);
  });
});

describe('limits of what is counted', () => {
  it('count what all files of an import hold together', () => {
    const obj = (name: string): InputFile => ({
      name: `${name}.obj`,
      bytes: strToU8(`v 0 0 0\nv 1 0 0\nv 0 1 0\no ${name}1\nf 1 2 3\no ${name}2\nf 1 2 3\n`),
    });
    const limits = { ...DEFAULT_LIMITS, objects: 3 };
    expect(read([obj('a')], limits).meshes).toHaveLength(2);
    expect(() => read([obj('a'), obj('b')], limits)).toThrow(
      /b\.obj: it has more than 3 meshes.*BOUGH_OBJECTS/,
    );
  });
  it('are settings; what is no number is not minded', () => {
    const limits = limitsFrom({ BOUGH_JOINTS: '30000', BOUGH_CLIPS: 'many', BOUGH_TARGETS: '0' });
    expect(limits).toEqual({ ...DEFAULT_LIMITS, joints: 30_000 });
  });
});

describe('what is of another type than the standard has for it', () => {
  it('is left out and told, in attributes', async () => {
    const character = read(bomb(/^normals, tangents/));
    expect(Object.keys(character.meshes[0].attributes)).toEqual(['POSITION']);
    const notes = character.notes.join('\n');
    for (const [name, has, wants] of [
      ['NORMAL', 2, '3'],
      ['TANGENT', 1, '4'],
      ['TEXCOORD_0', 1, '2'],
      ['COLOR_0', 2, '3 or 4'],
    ] as const)
      expect(notes).toContain(
        `${name} of mesh 0, primitive 0 has ${has} numbers for a vertex where ${wants} belong, and was left out.`,
      );
    expect(await brokenLaw(character, DEFAULT_LIMITS)).toBeNull();
  });
  it('is brought to floats where it says the same; what stands quantized stays where the file says so', () => {
    const bytes = { data: Uint8Array.of(255, 0, 0), size: 3, normalized: true, type: 'VEC3' };
    const words = { ...bytes, data: Uint32Array.of(1, 0, 0), normalized: false };
    const stood = (attribute: Attribute, isQuantized: boolean) => {
      const told: string[] = [];
      const { NORMAL } = soundAttributes({ NORMAL: attribute }, 'x', isQuantized, (text) => told.push(text));
      return [NORMAL.data.constructor.name, [...NORMAL.data], told.length];
    };
    expect(stood(bytes, true)).toEqual(['Uint8Array', [255, 0, 0], 0]);
    expect(stood(bytes, false)).toEqual(['Float32Array', [1, 0, 0], 1]);
    // No attribute of glTF stands in whole numbers of 32 bits, quantized or not.
    for (const isQuantized of [true, false])
      expect(stood(words, isQuantized)).toEqual(['Float32Array', [1, 0, 0], 1]);
  });
  it('is left out and told, in morph targets, and the target is still one', async () => {
    const character = read(bomb(/^a morph target whose places/));
    expect(character.meshes[0].morphs).toEqual([{ attributes: {} }]);
    expect(character.notes.join('\n')).toMatch(
      /POSITION of target 0 of .* has 1 numbers where 3 belong, and was left out/,
    );
    expect(character.notes.join('\n')).toMatch(/NORMAL of target 0 of .* moves what the mesh has not/);
    expect(await brokenLaw(character, DEFAULT_LIMITS)).toBeNull();
  });
});

it('an archive whose sums are right is taken, whatever its names are written in', () => {
  const obj = strToU8('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n');
  for (const name of ['x.obj', 'Häuser/ß 左.obj', 'a/b/c.obj'])
    for (const level of [0, 9] as const)
      expect(
        read([{ name: 'x.zip', bytes: zipSync({ [name]: obj, 'y.txt': strToU8('y') }, { level }) }]).meshes,
      ).toHaveLength(1);
});

it('colours that were bytes are brought to shares of one, others are cut', () => {
  const obj = (colours: readonly string[]) =>
    read([
      {
        name: 'x.obj',
        bytes: strToU8(
          `${colours.map((colour, i) => `v ${i % 2} ${i >> 1} 0 ${colour}`).join('\n')}\nf 1 2 3\n`,
        ),
      },
    ]);
  const of = (character: Character) =>
    [...character.meshes[0].attributes.COLOR_0.data].map((x) => +x.toFixed(3));
  const bytes = obj(['255 0 51', '0 0 0', '255 255 255']);
  expect(of(bytes)).toEqual([1, 0, 0.2, 0, 0, 0, 1, 1, 1]);
  expect(bytes.notes.join()).toContain('Colours went from 0 to 255');
  const cut = obj(['1.5 -0.5 0.5', '0 0 0', '1 1 1']);
  expect(of(cut)).toEqual([1, 0, 0.5, 0, 0, 0, 1, 1, 1]);
  expect(cut.notes.join()).toContain('were cut to what a colour can be');
});

it('a chain of two hundred joints is written as COLLADA and read again', async () => {
  const nodes = Array.from({ length: 300 }, (_, i) => ({
    name: `b${i}`,
    translation: [0, 0.01, 0],
    ...(i < 299 && { children: [i + 1] }),
  }));
  const json = { asset: { version: '2.0' }, scene: 0, scenes: [{ nodes: [0] }], nodes };
  const character = read([{ name: 'x.gltf', bytes: strToU8(JSON.stringify(json)) }]);
  expect(await brokenLaw(character, DEFAULT_LIMITS)).toBeNull();
});

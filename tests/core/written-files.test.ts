/**
 * Files that are written hold together on their own, whatever the names in them: read here with nothing of
 * the house's readers.
 */
import fc from 'fast-check';
import { JSDOM } from 'jsdom';
import { type Character, node } from '@/core/character/model';
import { readCharacter, writeCharacter } from '@/core/formats';
import { short } from '@/core/formats/numbers';
import { meshFrom, tube } from './support/build';
import { castCharacter } from './support/cast';
import { randomCharacter, seeds } from './support/random';

const decoded = (character: Character, format: 'dae' | 'obj') =>
  writeCharacter(character, format, 'x').files.map((file) => ({
    name: file.name,
    text: new TextDecoder().decode(file.bytes),
  }));
const { window } = new JSDOM('');
function documentOf(text: string): Document {
  const doc = new window.DOMParser().parseFromString(text, 'text/xml');
  expect(doc.querySelector('parsererror')?.textContent).toBeUndefined();
  return doc;
}

/**
 * Names as people and programs leave them: empty, doubled, with markup, blanks, quotes, controls, other
 * scripts.
 */
const names = fc.oneof(
  fc.constantFrom(
    '',
    'a',
    'a',
    'a_2',
    'arm',
    '<b>&amp;</b>',
    'arm left',
    ' arm',
    '"',
    "'",
    '#x',
    'ärm',
    '骨',
    '🦴',
    'a\tb',
    'a\nb',
    'a\u0000b',
    '\ufffe',
    'x'.repeat(300),
    '-1',
    '../up',
    'mtllib y',
    '&#0;',
    ']]>',
    'constructor',
    '__proto__',
  ),
  fc.string({ maxLength: 12 }),
);
const renamed = (character: Character, list: readonly string[]): Character => {
  let k = 0;
  const next = () => list[k++ % list.length];
  return {
    ...character,
    name: next(),
    nodes: character.nodes.map((node) => ({ ...node, name: next() })),
    meshes: character.meshes.map((mesh) => ({ ...mesh, name: next() })),
    skins: character.skins.map((skin) => ({ ...skin, name: next() })),
    clips: character.clips.map((clip) => ({ ...clip, name: next() })),
  };
};
const lists = fc.array(names, { minLength: 1, maxLength: 30 });

describe('COLLADA', () => {
  /** What the schema of COLLADA 1.4.1 (Khronos, from memory) asks of ids, references and counts. */
  function sound(text: string): Document {
    const doc = documentOf(text);
    const all = [...doc.querySelectorAll('*')];
    const ids = all.flatMap((element) =>
      element.hasAttribute('id') ? [element.getAttribute('id') as string] : [],
    );
    expect(new Set(ids).size).toBe(ids.length);
    // xs:ID and xs:NCName, the part that is plain ASCII.
    for (const id of ids) expect(id).toMatch(/^[A-Za-z_\u0080-\u{10ffff}][\w.\-\u0080-\u{10ffff}]*$/u);
    const known = new Set(ids);
    for (const element of all) {
      for (const a of ['url', 'source', 'target']) {
        const to = element.getAttribute(a);
        if (to?.startsWith('#'))
          expect([element.localName, a, to, known.has(to.slice(1))]).toEqual([
            element.localName,
            a,
            to,
            true,
          ]);
      }
    }
    for (const element of doc.querySelectorAll('skeleton'))
      expect(known.has((element.textContent as string).slice(1))).toBe(true);
    for (const element of doc.querySelectorAll('float_array, Name_array, IDREF_array'))
      expect((element.textContent as string).split(/\s+/).filter(Boolean).length).toBe(
        Number(element.getAttribute('count')),
      );
    for (const element of doc.querySelectorAll('accessor'))
      expect(Number(element.getAttribute('count')) * Number(element.getAttribute('stride'))).toBe(
        Number(
          doc.getElementById((element.getAttribute('source') as string).slice(1))!.getAttribute('count'),
        ),
      );
    for (const element of doc.querySelectorAll('polylist')) {
      const counts = (element.querySelector('vcount')!.textContent as string)
        .split(' ')
        .filter(Boolean)
        .map(Number);
      const words = (element.querySelector('p')!.textContent as string).split(' ').filter(Boolean);
      const wide =
        Math.max(
          ...[...element.querySelectorAll('input')].map((otherElement) =>
            Number(otherElement.getAttribute('offset')),
          ),
        ) + 1;
      expect([counts.length, words.length]).toEqual([
        Number(element.getAttribute('count')),
        counts.reduce((a, b) => a + b, 0) * wide,
      ]);
    }
    for (const element of doc.querySelectorAll('vertex_weights')) {
      const counts = (element.querySelector('vcount')!.textContent as string)
        .split(' ')
        .filter(Boolean)
        .map(Number);
      expect([
        counts.length,
        (element.querySelector('v')!.textContent as string).split(' ').filter(Boolean).length,
      ]).toEqual([Number(element.getAttribute('count')), counts.reduce((a, b) => a + b, 0) * 2]);
    }
    for (const element of doc.querySelectorAll('skin')) {
      const joints = doc
        .querySelector(
          `[id="${element.querySelector('joints input[semantic=JOINT]')!.getAttribute('source')!.slice(1)}-array"]`,
        )!
        .textContent!.split(' ')
        .filter(Boolean);
      const sids = new Set(
        [...doc.querySelectorAll('node[sid]')].map((otherElement) => otherElement.getAttribute('sid')),
      );
      for (const joint of joints) expect([joint, sids.has(joint)]).toEqual([joint, true]);
    }
    return doc;
  }
  it.each(['deckhand-clean.glb', 'capstan.glb', 'stoker.dae'])(
    '%s: ids are single, references lead somewhere, counts are right',
    (file) => {
      sound(decoded(castCharacter(file), 'dae')[0].text);
    },
  );
  it('random characters with any names', () =>
    fc.assert(
      fc.property(seeds, lists, (seed, list) => {
        const character = renamed(randomCharacter(seed), list);
        const doc = sound(decoded(character, 'dae')[0].text);
        expect(doc.querySelectorAll('visual_scene node').length).toBe(character.nodes.length);
        const again = readCharacter([
          { name: 'x.dae', bytes: new TextEncoder().encode(decoded(character, 'dae')[0].text) },
        ]);
        expect([again.nodes.length, again.skins.length, again.clips.length]).toEqual([
          character.nodes.length,
          character.skins.length,
          character.clips.length,
        ]);
      }),
      { numRuns: 40 },
    ));
});

describe('OBJ', () => {
  const materials = (list: readonly string[]) =>
    list.map((name, i) => ({
      name,
      pbrMetallicRoughness: { baseColorFactor: [i / list.length, 0.5, 0.25, 1] },
    }));
  /** Two triangles of every material in turn. */
  const striped = (list: readonly string[]): Character => {
    const target = tube();
    const points = list.flatMap((_, i) => [
      [i, 0, 0],
      [i + 1, 0, 0],
      [i, 1, 0],
    ]);
    const mesh = meshFrom(
      points,
      list.map((_, i) => [i * 3, i * 3 + 1, i * 3 + 2]),
    );
    return {
      ...target,
      skins: [],
      nodes: [node({ name: list[0], kind: 'mesh', mesh: 0 })],
      meshes: [
        {
          ...mesh,
          pieces: list.map((_, i) => ({
            vertexStart: i * 3,
            vertexCount: 3,
            polygonStart: i,
            polygonCount: 1,
            material: i,
            attributes: ['POSITION'],
            mode: 4,
          })),
        },
      ],
      carried: { ...target.carried, materials: materials(list), scenes: [{ json: {}, roots: [0] }] },
    };
  };
  it('every line is one that the format knows, and every number it names is there', () =>
    fc.assert(
      fc.property(seeds, lists, (seed, list) => {
        const character = renamed(randomCharacter(seed), list);
        const counts = { v: 0, vt: 0, vn: 0 };
        for (const line of decoded(character, 'obj')[0].text.split('\n')) {
          const [word, ...rest] = line.split(' ');
          expect(['', '#', 'mtllib', 'o', 'v', 'vt', 'vn', 'usemtl', 'f']).toContain(word);
          if (word in counts) {
            counts[word as 'v']++;
            for (const text of rest) expect(Number.isFinite(Number(text))).toBe(true);
          }
          if (word === 'o') expect(rest.length).toBe(1);
          if (word === 'f')
            for (const corner of rest)
              corner.split('/').forEach((word, k) => {
                if (word) expect(Number(word)).toBeLessThanOrEqual(counts[(['v', 'vt', 'vn'] as const)[k]]);
              });
        }
      }),
      { numRuns: 40 },
    ));
  it('every polygon comes back with the colour that it went with, whatever the materials are called', () =>
    fc.assert(
      fc.property(lists, (list) => {
        const character = striped(list);
        const files = writeCharacter(character, 'obj', 'x').files;
        const again = readCharacter(
          files.map((file) => ({ name: file.name, bytes: file.bytes })),
          undefined,
          { unitMetres: 1, upAxis: 'y' },
        );
        const red = again.meshes.flatMap((mesh) =>
          mesh.pieces.flatMap((piece) =>
            Array.from({ length: piece.polygonCount }, () =>
              Number(
                (
                  again.carried.materials[piece.material] as {
                    pbrMetallicRoughness: { baseColorFactor: number[] };
                  }
                ).pbrMetallicRoughness.baseColorFactor[0].toFixed(4),
              ),
            ),
          ),
        );
        expect(red).toEqual(list.map((_, i) => Number((i / list.length).toFixed(4))));
      }),
      { numRuns: 60 },
    ));
});

it('numbers are written shortest: none with fewer digits reads back as the same single', () =>
  fc.assert(
    fc.property(fc.float({ noNaN: true, noDefaultInfinity: true }), (x) => {
      const text = short(x);
      const digits = text
        .replace(/e.*$/, '')
        .replace(/[-.]/g, '')
        .replace(/^0+|0+$/g, '').length;
      expect(Math.fround(Number(text))).toBe(x === 0 ? 0 : x);
      if (digits > 6) expect(Math.fround(Number(x.toPrecision(digits - 1)))).not.toBe(x);
    }),
    { numRuns: 3000 },
  ));

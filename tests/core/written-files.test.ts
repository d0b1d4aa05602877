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

const decoded = (c: Character, format: 'dae' | 'obj') =>
  writeCharacter(c, format, 'x').files.map((f) => ({
    name: f.name,
    text: new TextDecoder().decode(f.bytes),
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
const renamed = (c: Character, list: readonly string[]): Character => {
  let k = 0;
  const next = () => list[k++ % list.length];
  return {
    ...c,
    name: next(),
    nodes: c.nodes.map((n) => ({ ...n, name: next() })),
    meshes: c.meshes.map((m) => ({ ...m, name: next() })),
    skins: c.skins.map((s) => ({ ...s, name: next() })),
    clips: c.clips.map((x) => ({ ...x, name: next() })),
  };
};
const lists = fc.array(names, { minLength: 1, maxLength: 30 });

describe('COLLADA', () => {
  /** What the schema of COLLADA 1.4.1 (Khronos, from memory) asks of ids, references and counts. */
  function sound(text: string): Document {
    const doc = documentOf(text);
    const all = [...doc.querySelectorAll('*')];
    const ids = all.flatMap((e) => (e.hasAttribute('id') ? [e.getAttribute('id') as string] : []));
    expect(new Set(ids).size).toBe(ids.length);
    // xs:ID and xs:NCName, the part that is plain ASCII.
    for (const id of ids) expect(id).toMatch(/^[A-Za-z_\u0080-\u{10ffff}][\w.\-\u0080-\u{10ffff}]*$/u);
    const known = new Set(ids);
    for (const e of all) {
      for (const a of ['url', 'source', 'target']) {
        const to = e.getAttribute(a);
        if (to?.startsWith('#'))
          expect([e.localName, a, to, known.has(to.slice(1))]).toEqual([e.localName, a, to, true]);
      }
    }
    for (const e of doc.querySelectorAll('skeleton'))
      expect(known.has((e.textContent as string).slice(1))).toBe(true);
    for (const e of doc.querySelectorAll('float_array, Name_array, IDREF_array'))
      expect((e.textContent as string).split(/\s+/).filter(Boolean).length).toBe(
        Number(e.getAttribute('count')),
      );
    for (const e of doc.querySelectorAll('accessor'))
      expect(Number(e.getAttribute('count')) * Number(e.getAttribute('stride'))).toBe(
        Number(doc.getElementById((e.getAttribute('source') as string).slice(1))!.getAttribute('count')),
      );
    for (const e of doc.querySelectorAll('polylist')) {
      const counts = (e.querySelector('vcount')!.textContent as string)
        .split(' ')
        .filter(Boolean)
        .map(Number);
      const p = (e.querySelector('p')!.textContent as string).split(' ').filter(Boolean);
      const wide =
        Math.max(...[...e.querySelectorAll('input')].map((i) => Number(i.getAttribute('offset')))) + 1;
      expect([counts.length, p.length]).toEqual([
        Number(e.getAttribute('count')),
        counts.reduce((a, b) => a + b, 0) * wide,
      ]);
    }
    for (const e of doc.querySelectorAll('vertex_weights')) {
      const counts = (e.querySelector('vcount')!.textContent as string)
        .split(' ')
        .filter(Boolean)
        .map(Number);
      expect([
        counts.length,
        (e.querySelector('v')!.textContent as string).split(' ').filter(Boolean).length,
      ]).toEqual([Number(e.getAttribute('count')), counts.reduce((a, b) => a + b, 0) * 2]);
    }
    for (const e of doc.querySelectorAll('skin')) {
      const joints = doc
        .querySelector(
          `[id="${e.querySelector('joints input[semantic=JOINT]')!.getAttribute('source')!.slice(1)}-array"]`,
        )!
        .textContent!.split(' ')
        .filter(Boolean);
      const sids = new Set([...doc.querySelectorAll('node[sid]')].map((n) => n.getAttribute('sid')));
      for (const j of joints) expect([j, sids.has(j)]).toEqual([j, true]);
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
        const c = renamed(randomCharacter(seed), list);
        const doc = sound(decoded(c, 'dae')[0].text);
        expect(doc.querySelectorAll('visual_scene node').length).toBe(c.nodes.length);
        const again = readCharacter([
          { name: 'x.dae', bytes: new TextEncoder().encode(decoded(c, 'dae')[0].text) },
        ]);
        expect([again.nodes.length, again.skins.length, again.clips.length]).toEqual([
          c.nodes.length,
          c.skins.length,
          c.clips.length,
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
    const t = tube();
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
      ...t,
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
      carried: { ...t.carried, materials: materials(list), scenes: [{ json: {}, roots: [0] }] },
    };
  };
  it('every line is one that the format knows, and every number it names is there', () =>
    fc.assert(
      fc.property(seeds, lists, (seed, list) => {
        const c = renamed(randomCharacter(seed), list);
        const counts = { v: 0, vt: 0, vn: 0 };
        for (const line of decoded(c, 'obj')[0].text.split('\n')) {
          const [word, ...rest] = line.split(' ');
          expect(['', '#', 'mtllib', 'o', 'v', 'vt', 'vn', 'usemtl', 'f']).toContain(word);
          if (word in counts) {
            counts[word as 'v']++;
            for (const x of rest) expect(Number.isFinite(Number(x))).toBe(true);
          }
          if (word === 'o') expect(rest.length).toBe(1);
          if (word === 'f')
            for (const corner of rest)
              corner.split('/').forEach((x, k) => {
                if (x) expect(Number(x)).toBeLessThanOrEqual(counts[(['v', 'vt', 'vn'] as const)[k]]);
              });
        }
      }),
      { numRuns: 40 },
    ));
  it('every polygon comes back with the colour that it went with, whatever the materials are called', () =>
    fc.assert(
      fc.property(lists, (list) => {
        const c = striped(list);
        const files = writeCharacter(c, 'obj', 'x').files;
        const again = readCharacter(
          files.map((f) => ({ name: f.name, bytes: f.bytes })),
          undefined,
          { unitMetres: 1, upAxis: 'y' },
        );
        const red = again.meshes.flatMap((m) =>
          m.pieces.flatMap((p) =>
            Array.from({ length: p.polygonCount }, () =>
              Number(
                (
                  again.carried.materials[p.material] as {
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

/**
 * Files that are small and ask for much, and files whose names are words of the language: each is read and
 * can be worked on like any other, or refused with a sentence before it has taken what it asks for.
 */
import { strToU8, zipSync } from 'fflate';
import { BRIEFS } from '@/core/house/briefs';
import { audit } from '@/core/house/audit';
import type { Character } from '@/core/character/model';
import { skeletonOf } from '@/core/anatomy/skeleton';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { suggest } from '@/core/anatomy/suggest';
import { WRITTEN_FORMATS, readCharacter, whyNotWritten, withinEngine, writeCharacter } from '@/core/formats';
import { DEFAULT_LIMITS, type InputFile, ReadError, type ReadLimits, printable } from '@/core/formats/errors';
import { portrait } from '@/core/rooms/docket/portrait';
import { remap } from '@/core/rooms/crosswalk/remap';
import { symmetryOf } from '@/core/geometry/symmetry';
import { castCharacter } from './support/cast';
import { meshFrom, tube } from './support/build';

const LIMITS: ReadLimits = {
  ...DEFAULT_LIMITS,
  bytes: 1 << 24,
  vertices: 100_000,
  nodes: 65_000,
  depth: 64,
  files: 20,
};
const text = (name: string, text: string): InputFile => ({ name, bytes: strToU8(text) });
const gltf = (json: object, name = 'x.gltf') =>
  text(name, JSON.stringify({ asset: { version: '2.0' }, ...json }));
const refusal = (files: InputFile[], limits = LIMITS): string => {
  try {
    readCharacter(files, limits, { unitMetres: 1, upAxis: 'y' });
  } catch (error) {
    if (error instanceof ReadError) return error.message;
    throw error;
  }
  return 'it was read';
};

const TRIANGLE = 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n';
const WORDS = ['constructor', '__proto__', 'toString', 'hasOwnProperty', 'valueOf', 'prototype', 'length'];

describe('names that are words of the language', () => {
  const named = (character: Character): Character => ({
    ...character,
    nodes: character.nodes.map((node, i) => ({
      ...node,
      name: WORDS[i % WORDS.length] + (i < WORDS.length ? '' : i),
    })),
    meshes: character.meshes.map((mesh, i) => ({ ...mesh, name: WORDS[(i + 1) % WORDS.length] })),
    clips: character.clips.map((clip, i) => ({ ...clip, name: WORDS[(i + 2) % WORDS.length] })),
    sets: [{ name: '__proto__', vertices: [], polygons: [], bones: [0] }],
  });
  const otherCharacter = named(castCharacter('deckhand-clean.glb'));
  it('are written and read in every format that has names', () => {
    for (const format of ['glb', 'dae'] as const) {
      const files = writeCharacter(otherCharacter, format, 'x').files.map((file) => ({ ...file }));
      const back = readCharacter(files, undefined, { unitMetres: 1, upAxis: 'y' });
      const names = back.nodes.map((node) => node.name);
      for (const word of WORDS) expect(names).toContain(word);
    }
  });
  it('are audited under every brief, paired and moved onto another skeleton', () => {
    for (const brief of BRIEFS)
      expect(audit(otherCharacter, brief).filter((finding) => finding.measured === 'broke off')).toEqual([]);
    const rules = suggest(skeletonOf(otherCharacter), QUAY);
    const { character } = remap(otherCharacter, QUAY, rules, { limit: 4 });
    expect(character.nodes.length).toBeGreaterThan(QUAY.bones.length);
  });
  it('are refused where a kind of number or a type of value should stand', () => {
    for (const word of WORDS) {
      const accessor = { componentType: word, type: 'VEC3', count: 3 };
      const mesh = { primitives: [{ attributes: { POSITION: 0 } }] };
      expect(refusal([gltf({ accessors: [accessor], meshes: [mesh], nodes: [{ mesh: 0 }] })])).toMatch(
        /unknown/,
      );
      const typed = { componentType: 5126, type: word, count: 3 };
      expect(refusal([gltf({ accessors: [typed], meshes: [mesh], nodes: [{ mesh: 0 }] })])).toMatch(
        /unknown/,
      );
    }
  });
});

describe('text that nothing can keep', () => {
  it('is mended wherever it stands, and told', () => {
    const nodes = [
      { name: 'a\0b' },
      { name: 'half \ud83d' },
      { name: 'whole 🌿', extras: { 'k\0': ['\udc00'] } },
    ];
    const character = readCharacter([gltf({ nodes, scenes: [{ nodes: [0, 1, 2] }], scene: 0 })]);
    expect(character.nodes.map((node) => node.name)).toEqual(['a\ufffdb', 'half \ufffd', 'whole 🌿']);
    expect(JSON.stringify(character.nodes)).not.toMatch(/\\u0000|\\ud/);
    expect(character.notes.join()).toMatch(/4 names or texts held letters that cannot be kept/);
  });
  it('of files gives names that people read', () => {
    const name = (file: string) => readCharacter([gltf({ nodes: [{ name: 'a' }] }, file)]).name;
    expect([name('.glb.gltf'), name('.gltf'), name('a/b\\Deckhand.v2.gltf')]).toEqual([
      '.glb',
      'character',
      'Deckhand.v2',
    ]);
    expect(name(`${'long '.repeat(100)}.gltf`).length).toBeLessThanOrEqual(80);
  });
});

describe('one budget for a whole import', () => {
  const zeros = (megabytes: number) => new Uint8Array(megabytes << 20);
  it('archives are summed before they are unpacked, archives within archives too', () => {
    const flat = zipSync({ 'a.bin': zeros(7), 'b.bin': zeros(7), 'x.obj': strToU8(TRIANGLE) });
    expect(refusal([{ name: 'flat.zip', bytes: flat }])).toBe('it was read');
    const much = zipSync({ 'a.bin': zeros(9), 'b.bin': zeros(9), 'x.obj': strToU8(TRIANGLE) });
    expect(refusal([{ name: 'much.zip', bytes: much }])).toMatch(/comes to more than 16777216 bytes/);
    const dae =
      '<COLLADA version="1.4.1"><library_visual_scenes><visual_scene id="s"><node id="n" type="JOINT"/></visual_scene></library_visual_scenes><scene><instance_visual_scene url="#s"/></scene></COLLADA>';
    const inner = zipSync({ 'x.dae': strToU8(dae), ballast: zeros(9) });
    const files = [1, 2].map((i) => ({
      name: `part${i}.zip`,
      bytes: zipSync({ [`x${i}.zae`]: inner, y: zeros(1) }),
    }));
    expect(refusal(files)).toMatch(/comes to more than 16777216 bytes/);
    const many = zipSync(Object.fromEntries(Array.from({ length: 40 }, (_, i) => [`f${i}`, strToU8('')])));
    expect(refusal([{ name: 'many.zip', bytes: many }])).toMatch(/holds 40 files, more than 20/);
  });
  it('a mesh counts for every node that shows it', () => {
    const position = { componentType: 5126, type: 'VEC3', count: 1000 };
    const json = (copies: number) => ({
      accessors: [position],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
      nodes: Array.from({ length: copies }, () => ({ mesh: 0 })),
    });
    expect(refusal([gltf(json(90))])).toBe('it was read');
    expect(refusal([gltf(json(110))])).toMatch(/more than 100000 vertices, every copy of a mesh counted/);
  });
  it('a geometry counts for every choice of its materials', () => {
    const points = Array.from({ length: 3000 }, (_, i) => i % 17).join(' ');
    const faces = Array.from({ length: 998 }, (_, i) => `0 ${i + 1} ${i + 2}`).join(' ');
    const materials = Array.from({ length: 120 }, (_, i) => `<material id="m${i}"/>`).join('');
    const node = (i: number) =>
      `<node><instance_geometry url="#g"><bind_material><technique_common><instance_material symbol="s" target="#m${i}"/></technique_common></bind_material></instance_geometry></node>`;
    const dae = (copies: number) =>
      `<COLLADA version="1.4.1"><library_materials>${materials}</library_materials><library_geometries><geometry id="g"><mesh><source id="p"><float_array id="a" count="3000">${points}</float_array><technique_common><accessor source="#a" count="1000" stride="3"><param type="float"/><param type="float"/><param type="float"/></accessor></technique_common></source><vertices id="v"><input semantic="POSITION" source="#p"/></vertices><triangles material="s" count="998"><input semantic="VERTEX" source="#v" offset="0"/><p>${faces}</p></triangles></mesh></geometry></library_geometries><library_visual_scenes><visual_scene id="s">${Array.from({ length: copies }, (_, i) => node(i)).join('')}</visual_scene></library_visual_scenes><scene><instance_visual_scene url="#s"/></scene></COLLADA>`;
    expect(refusal([text('x.dae', dae(80))])).toBe('it was read');
    expect(refusal([text('x.dae', dae(110))])).toMatch(/every copy of a mesh counted/);
  });
  it('what announces numbers without any bytes behind them counts as well', () => {
    const accessors = Array.from({ length: 40 }, () => ({
      componentType: 5126,
      type: 'VEC3',
      count: 90_000,
    }));
    const targets = accessors.slice(1).map((_, i) => ({ POSITION: i + 1 }));
    const meshes = [{ primitives: [{ attributes: { POSITION: 0 }, targets }] }];
    expect(refusal([gltf({ accessors, meshes, nodes: [{ mesh: 0 }] })])).toMatch(
      /comes to more than 16777216 bytes/,
    );
  });
  it('megabytes written as text in a file are decoded', () => {
    const uri = `data:application/octet-stream;base64,${Buffer.alloc(12 << 20).toString('base64')}`;
    const json = (count: number) => ({
      buffers: [{ uri, byteLength: 12 << 20 }],
      bufferViews: [{ buffer: 0, byteLength: 12 << 20 }],
      accessors: [{ bufferView: 0, componentType: 5126, type: 'VEC3', count }],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
      nodes: [{ mesh: 0 }],
    });
    const wide = { ...LIMITS, bytes: 1 << 26 };
    const character = readCharacter([gltf(json(1000))], wide);
    expect(character.meshes[0].vertexCount).toBe(1000);
  });
  it('a chain of nodes is taken as deep as can be worked on', () => {
    const chain = (node: number) => ({
      nodes: Array.from({ length: node }, (_, i) => (i + 1 < node ? { children: [i + 1] } : {})),
    });
    expect(refusal([gltf(chain(1500))])).toBe('it was read');
    expect(refusal([gltf(chain(64_000))])).toMatch(
      /hang 64000 deep, one under the other; the house takes 2000/,
    );
  });
});

describe('long lines', () => {
  it('are quoted by their beginning', () => {
    expect(printable('x'.repeat(50_000_000))).toHaveLength(80);
    expect(refusal([text('x.obj', `v 0 0 ${'y'.repeat(8 << 20)}\n`)]).length).toBeLessThan(200);
    expect(refusal([text('x.bvh', `HIERARCHY ${'y'.repeat(8 << 20)}`)]).length).toBeLessThan(200);
  });
  it('of one word longer than a pattern can read, or of nothing but blanks, are refused with a sentence in every format', () => {
    const wide = { ...LIMITS, bytes: 1 << 27 };
    const long = 'y'.repeat(18 << 20);
    const blank = ' '.repeat(18 << 20);
    const dae = (id: string, target: string) =>
      `<COLLADA version="1.4.1"><library_animations><animation><source id="${id}"/><channel source="#${id}" target="${target}"/></animation></library_animations></COLLADA>`;
    for (const [name, body] of [
      ['x.bvh', `HIERARCHY ${long}`],
      ['x.bvh', `HIERARCHY${blank}ROOT`],
      ['x.bvh', '\n'.repeat(8 << 20)],
      ['x.bvh', `HIERARCHY ROOT a { ${long}`],
      ['x.obj', long],
      ['x.dae', `<!DOCTYPE ${long}`],
      ['x.dae', '<!DOCTYPE '.repeat(1 << 20)],
      ['x.dae', dae('a', `n/${long}`)],
      ['x.dae', dae(long, 'n/x')],
      ['x.gltf', blank],
      ['x.gltf', long],
    ])
      expect(refusal([text(name, body)], wide)).toMatch(/^x\.\w+: .{10,400}\.$/);
  });
  it('what the engine itself breaks off is told as the fault of the file, and nothing else is', () => {
    const endless = (): Character => endless();
    expect(() => withinEngine('x.dae', endless)).toThrow(ReadError);
    expect(() => withinEngine('x.dae', endless)).toThrow(
      /^x\.dae: a name or a text in it .*\. Export it again/,
    );
    const mistake = () => {
      throw new RangeError('Invalid array length');
    };
    expect(() => withinEngine('x.dae', mistake)).toThrow('Invalid array length');
  });
  it('a face of millions of corners is none', () => {
    expect(refusal([text('x.obj', `v 0 0 0\nf${' 1'.repeat(3_000_000)}\n`)])).toMatch(/far too many corners/);
  });
});

describe('numbers that are none beside the points', () => {
  const broken = (): Character => {
    const character = tube();
    const mesh = character.meshes[0];
    const normal = Float32Array.from({ length: mesh.vertexCount * 3 }, (_, i) => (i % 3 === 0 ? 1 : 0));
    normal.fill(0, 0, 3);
    normal[3] = NaN;
    normal[6] = 5;
    const uv = new Float32Array(mesh.vertexCount * 2).fill(0.5);
    uv[9] = Infinity;
    const attributes = {
      ...mesh.attributes,
      NORMAL: { data: normal, size: 3, normalized: false, type: 'VEC3' },
      TEXCOORD_0: { data: uv, size: 2, normalized: false, type: 'VEC2' },
    };
    const pieces = mesh.pieces.map((piece) => ({ ...piece, attributes: Object.keys(attributes) }));
    return { ...character, meshes: [{ ...mesh, attributes, pieces }, ...character.meshes.slice(1)] };
  };
  it('are mended, and told; every normal has length one', () => {
    const file = writeCharacter(broken(), 'glb', 'x').files[0];
    const character = readCharacter([file]);
    const { NORMAL, TEXCOORD_0 } = character.meshes[0].attributes;
    for (let i = 0; i < NORMAL.data.length; i += 3)
      expect(Math.hypot(...NORMAL.data.slice(i, i + 3))).toBeCloseTo(1, 5);
    expect([...TEXCOORD_0.data].every(Number.isFinite)).toBe(true);
    const notes = character.notes.join('\n');
    expect(notes).toMatch(/2 normals had no direction and were made anew from the faces/);
    expect(notes).toMatch(/1 normals were not of length one and were scaled/);
    expect(notes).toMatch(/TEXCOORD_0 held something that is no number at 1 vertices/);
  });
});

it('what the house writes, the house reads; what it cannot write it says before', () => {
  const skeleton = castCharacter('quay-skeleton.glb');
  expect(whyNotWritten(skeleton, 'obj')).toMatch(/OBJ holds meshes only/);
  expect(() => writeCharacter(skeleton, 'obj', 'x')).toThrow(/OBJ holds meshes only/);
  for (const character of [skeleton, castCharacter('capstan.glb'), tube()])
    for (const { id: format } of WRITTEN_FORMATS) {
      if (whyNotWritten(character, format)) continue;
      const files = writeCharacter(character, format, 'x').files.map((file) => ({ ...file }));
      const back = readCharacter(files, undefined, { unitMetres: 1, upAxis: 'y' });
      expect(back.meshes.length > 0).toBe(character.meshes.length > 0);
    }
});

it('faults of XML are told in our own words', () => {
  const good = '<COLLADA version="1.4.1"><asset><up_axis>Y_UP</up_axis></asset></COLLADA>';
  const faults = [
    good.slice(0, -4),
    good.replace('</asset>', '</assets>'),
    good.replace('version=', 'version'),
    good.replace('Y_UP', '&nothing;'),
    good.replace('Y_UP', '\u0001'),
    good.replace('<asset>', '<asset a=1>'),
    '<COLLADA',
    '<COLLADA><!-- ',
    '<?xml version="1.0"?>',
  ];
  for (const fault of faults) {
    const said = refusal([text('x.dae', fault)]);
    expect(said).toMatch(/^x\.dae: [a-z].*\. [A-Z].*\.$/);
    expect(said).not.toMatch(/@#|\[line|xmldom|unexpected|Error|entity not|unclosed/i);
  }
});

it('a picture of triangles that all fill it is drawn as far as it may take, and the reading goes on', () => {
  const n = 10_000;
  const corners = Array.from({ length: n }, (_, share) => [
    [-1, 0, share / n],
    [1, 0, share / n],
    [0, 2, share / n],
  ]).flat();
  const mesh = meshFrom(
    corners,
    Array.from({ length: n }, (_, share) => [share * 3, share * 3 + 1, share * 3 + 2]),
  );
  const character: Character = {
    ...tube(),
    nodes: [{ ...tube().nodes[0], kind: 'mesh', mesh: 0, skin: -1 }],
    meshes: [mesh],
    skins: [],
  };
  expect(portrait(character, 360, 440).pixels.some((x) => x > 0)).toBe(true);
});

it('one point far away does not make the search for twins compare everything with everything', () => {
  const n = 200_000;
  const points = new Float32Array(n * 3);
  for (let i = 0; i < n; i++) points.set([Math.sin(i) * 0.4, (i / n) * 1.8, Math.cos(i) * 0.2], i * 3);
  points.set([0, 1e9, 0], 0);
  const slow = symmetryOf([points], 1e6);
  expect(slow?.share).toBeGreaterThan(0);
});

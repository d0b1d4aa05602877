import fc from 'fast-check';
import { zipSync } from 'fflate';
import { WebIO } from '@gltf-transform/core';
import { brokenInvariants } from '@/core/character/invariants';
import { DEFAULT_LIMITS, ReadError } from '@/core/formats/errors';
import { readGltf } from '@/core/formats/gltf/read';
import { writeGlb } from '@/core/formats/gltf/write';
import { decodeNgons, encodeNgons } from '@/core/formats/gltf/polygons';
import { castBytes, castCharacter, handBytes } from './support/cast';
import { structuralDifferences } from './support/compare';
import { validate } from './support/validator';

type Json = Record<string, never> & { [key: string]: unknown };

/** The two chunks of a .glb. */
function open(bytes: Uint8Array): { json: Json; bin: Uint8Array } {
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  const n = view.getUint32(12, true);
  return {
    json: JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + n))) as Json,
    bin: bytes.slice(28 + n),
  };
}
const text = (x: unknown) => new TextEncoder().encode(JSON.stringify(x));

/** The left hand as a .gltf with its buffer beside it, changed by `change`. */
function asFiles(change: (json: Json) => void = () => {}) {
  const { json, bin } = open(handBytes('left'));
  (json.buffers as { uri?: string }[])[0].uri = 'my%20hand.bin';
  change(json);
  return [
    { name: 'hand.gltf', bytes: text(json) },
    { name: 'my hand.bin', bytes: bin },
  ];
}
const refusal = (files: { name: string; bytes: Uint8Array }[]): string => {
  try {
    readGltf(files);
  } catch (error) {
    if (error instanceof ReadError) return error.message;
    throw error;
  }
  return 'was read';
};

it('reads a .gltf with its buffer, and a zip of both, as the .glb', () => {
  const glb = readGltf([{ name: 'hand.glb', bytes: handBytes('left') }]);
  for (const files of [
    asFiles(),
    [
      {
        name: 'hand.zip',
        bytes: zipSync({ 'a/hand.gltf': asFiles()[0].bytes, 'a/my hand.bin': asFiles()[1].bytes }),
      },
    ],
  ]) {
    expect(structuralDifferences(glb, readGltf(files))).toEqual([]);
  }
});

it('reads the same numbers as gltf-transform', async () => {
  const reference = (await new WebIO().readBinary(castBytes('deckhand-clean.glb'))).getRoot();
  const mine = castCharacter('deckhand-clean.glb');
  reference.listMeshes().forEach((mesh, i) => {
    const primitive = mesh.listPrimitives()[0];
    expect(Array.from(mine.meshes[i].attributes.POSITION.data.slice(0, 300))).toEqual(
      Array.from(primitive.getAttribute('POSITION')!.getArray()!.slice(0, 300)),
    );
    expect(mine.meshes[i].vertexCount).toBe(primitive.getAttribute('POSITION')!.getCount());
  });
  expect(reference.listNodes().map((node) => node.getName())).toEqual(mine.nodes.map((node) => node.name));
  expect(mine.meshes[0].polygonOrigin).toBe('encoded');
});

it('carries through materials, textures, morph targets, clips, lights, cameras, extras and unknown extensions', async () => {
  const { json, bin } = open(writeGlb(castCharacter('deckhand-clean.glb')).bytes);
  const position = (json.meshes as { primitives: { attributes: { POSITION: number } }[] }[])[4].primitives[0]
    .attributes.POSITION;
  for (const primitive of (json.meshes as { primitives: { targets?: unknown }[] }[])[4].primitives)
    primitive.targets = [{ POSITION: position }];
  Object.assign((json.meshes as object[])[4], { weights: [0.25], extras: { targetNames: ['swell'] } });
  Object.assign((json.nodes as object[])[0], {
    extras: { owner: 'quay', list: [1, { a: null }] },
    extensions: { MADE_up: { of: 'thin air' } },
  });
  (json.nodes as object[]).push(
    { name: 'lamp', extensions: { KHR_lights_punctual: { light: 0 } } },
    { name: 'lens', camera: 0 },
  );
  json.extensions = {
    KHR_lights_punctual: { lights: [{ type: 'point', intensity: 3 }] },
    MADE_up_too: { x: 1 },
  } as never;
  json.cameras = [{ type: 'perspective', perspective: { yfov: 0.7, znear: 0.1 } }] as never;
  json.extensionsUsed = [
    ...(json.extensionsUsed as string[]),
    'KHR_lights_punctual',
    'MADE_up',
    'MADE_up_too',
  ] as never;
  json.extras = { note: 'kept' } as never;
  (json.buffers as { uri?: string }[])[0].uri = 'b.bin';
  const first = readGltf([
    { name: 'd.gltf', bytes: text(json) },
    { name: 'b.bin', bytes: bin },
  ]);
  const again = readGltf([{ name: 'd.gltf', bytes: writeGlb(first).bytes }]);
  expect(structuralDifferences(first, again)).toEqual([]);
  expect(again.nodes[0].extensions).toEqual({ MADE_up: { of: 'thin air' } });
  expect(again.meshes[4].morphs.length).toBe(1);
  expect(again.carried.images[0].bytes!.length).toBeGreaterThan(50);
  expect(again.nodes.find((node) => node.name === 'lens')!.kind).toBe('camera');
  expect(await validate(writeGlb(first).bytes)).toEqual([]);
});

it('keeps more than four influences in as many sets as it takes', () => {
  const character = castCharacter('deckhand.glb');
  const again = readGltf([{ name: 'x.glb', bytes: writeGlb(character, { keepSums: true }).bytes }]);
  expect(again.meshes[1].influenceStorage!.sets).toBe(2);
});

it('dequantises positions and keeps small normals as they are', () => {
  const { json, bin } = open(handBytes('left'));
  const position = (
    json.accessors as {
      bufferView: number;
      byteOffset?: number;
      count: number;
      componentType: number;
      normalized?: boolean;
    }[]
  )[0];
  const view = (json.bufferViews as { byteOffset?: number; byteLength: number; byteStride?: number }[])[
    position.bufferView
  ];
  const source = new Float32Array(
    bin.buffer.slice(view.byteOffset ?? 0, (view.byteOffset ?? 0) + view.byteLength),
  );
  const q = new Int16Array(position.count * 4);
  for (let vertex = 0; vertex < position.count; vertex++)
    for (let k = 0; k < 3; k++) q[vertex * 4 + k] = Math.round(source[vertex * 3 + k] * 32767);
  const joined = new Uint8Array(bin.length + q.byteLength);
  joined.set(bin);
  joined.set(new Uint8Array(q.buffer), bin.length);
  (json.bufferViews as object[]).push({
    buffer: 0,
    byteOffset: bin.length,
    byteLength: q.byteLength,
    byteStride: 8,
  });
  Object.assign(position, {
    bufferView: (json.bufferViews as object[]).length - 1,
    byteOffset: 0,
    componentType: 5122,
    normalized: true,
  });
  Object.assign((json.buffers as object[])[0], { uri: 'q.bin', byteLength: joined.length });
  Object.assign(json, {
    extensionsUsed: ['KHR_mesh_quantization'],
    extensionsRequired: ['KHR_mesh_quantization'],
  });
  const character = readGltf([
    { name: 'q.gltf', bytes: text(json) },
    { name: 'q.bin', bytes: joined },
  ]);
  const array = character.meshes[0].attributes.POSITION.data;
  const off = Array.from(array).reduce((most, x, i) => Math.max(most, Math.abs(x - source[i])), 0);
  expect(off).toBeLessThan(1 / 32767);
});

describe('polygons', () => {
  // Polygons that share no vertex with their neighbours but by chance of the generator.
  const polygons = fc.array(
    fc
      .integer({ min: 3, max: 9 })
      .chain((minLength) => fc.uniqueArray(fc.nat(200), { minLength, maxLength: minLength })),
    { minLength: 1, maxLength: 30 },
  );
  const turned = (row: number[]) => {
    const at = row.indexOf(Math.min(...row));
    return [...row.slice(at), ...row.slice(0, at)].join();
  };
  it('come back from the n-gon encoding as they were, up to turning', () => {
    fc.assert(
      fc.property(polygons, (list) => {
        const offsets = Uint32Array.from(
          list.reduce((o, points) => [...o, o[o.length - 1] + points.length], [0]),
        );
        const triangles = encodeNgons(offsets, Uint32Array.from(list.flat()), 0, list.length);
        const back = decodeNgons(triangles);
        expect(back.offsets.length - 1).toBe(list.length);
        list.forEach((row, i) =>
          expect(turned(Array.from(back.corners.subarray(back.offsets[i], back.offsets[i + 1])))).toBe(
            turned(row),
          ),
        );
      }),
    );
  });
});

describe('bad input is refused with one sentence that says what, where and what to do', () => {
  const glb = handBytes('left');
  const cases: [string, () => { name: string; bytes: Uint8Array }[], RegExp][] = [
    ['an empty file', () => [{ name: 'a.glb', bytes: new Uint8Array(0) }], /empty/],
    [
      'a truncated file',
      () => [{ name: 'a.glb', bytes: glb.slice(0, 30_000) }],
      /announces \d+ bytes and the file has 30000/,
    ],
    ['a file cut inside its header', () => [{ name: 'a.glb', bytes: glb.slice(0, 15) }], /ends at byte 15/],
    ['something else under the name', () => [{ name: 'a.glb', bytes: text('hello') }], /not glTF/],
    ['JSON that is not glTF', () => [{ name: 'a.gltf', bytes: text({ hello: 1 }) }], /no “asset”/],
    ['glTF 1.0', () => [{ name: 'a.gltf', bytes: text({ asset: { version: '1.0' } }) }], /glTF 1\.0/],
    ['a missing buffer', () => asFiles().slice(0, 1), /“my hand\.bin”, which was not chosen/],
    [
      'an index out of range',
      () =>
        asFiles((value) => {
          (value.accessors as { count: number }[])[0].count = 100;
          (value.accessors as { count: number }[])[1].count = 100;
          (value.accessors as { count: number }[])[2].count = 100;
          (value.accessors as { count: number }[])[3].count = 100;
          (value.accessors as { count: number }[])[4].count = 100;
        }),
      /names vertex \d+ of 100/,
    ],
    [
      'an accessor beyond its buffer',
      () =>
        asFiles((value) => {
          (value.accessors as { count: number }[])[0].count = 1e6;
        }),
      /reads to byte \d+ of a buffer view/,
    ],
    [
      'an absurd count',
      () =>
        asFiles((value) => {
          (value.accessors as { count: number }[])[0].count = 1e12;
        }),
      /more than the limit/,
    ],
    [
      'a negative offset',
      () =>
        asFiles((value) => {
          (value.bufferViews as { byteOffset: number }[])[1].byteOffset = -4;
        }),
      /length or offset of -4/,
    ],
    [
      'a cycle of nodes',
      () =>
        asFiles((value) => {
          (value.nodes as { children?: number[] }[])[0].children = [29];
        }),
      /cycle/,
    ],
    [
      'two parents',
      () =>
        asFiles((value) => {
          (value.nodes as { children?: number[] }[])[0].children = [5];
        }),
      /two parents/,
    ],
    [
      'a child that is not there',
      () =>
        asFiles((value) => {
          (value.nodes as { children?: number[] }[])[0].children = [999];
        }),
      /child 999/,
    ],
    [
      'a joint that is not there',
      () =>
        asFiles((value) => {
          (value.skins as { joints: number[] }[])[0].joints[3] = 777;
        }),
      /joint node 777/,
    ],
    [
      'a skin with too few joints',
      () =>
        asFiles((value) => {
          (value.skins as { joints: number[] }[])[0].joints.length = 3;
        }),
      /bound to joint \d+, and its skin has 3/,
    ],
    [
      'a joint listed twice',
      () =>
        asFiles((value) => {
          (value.skins as { joints: number[] }[])[0].joints[1] = (
            value.skins as { joints: number[] }[]
          )[0].joints[0];
        }),
      /joint twice/,
    ],
    [
      'infinity in a node',
      () =>
        asFiles((value) => {
          (value.nodes as { translation: unknown[] }[])[0].translation = ['Infinity', 0, 0];
        }),
      /finite numbers/,
    ],
    [
      'compression it cannot open',
      () =>
        asFiles((value) => {
          Object.assign(value, { extensionsRequired: ['KHR_draco_mesh_compression'] });
        }),
      /compressed/,
    ],
    [
      'JSON nested without end',
      () =>
        asFiles((value) => {
          let x: unknown = 1;
          for (let i = 0; i < 500; i++) x = [x];
          Object.assign(value, { extras: x });
        }),
      /nested more than/,
    ],
    ['two characters at once', () => [...asFiles(), { name: 'b.glb', bytes: glb }], /2 glTF files/],
  ];
  it.each(cases)('%s', (_name, files, sentence) => {
    const message = refusal(files());
    expect(message).toMatch(sentence);
    expect(message.split('\n').length).toBe(1);
  });
  it('positions that are not numbers', () => {
    const files = asFiles();
    new DataView(files[1].bytes.buffer).setFloat32(
      ((open(handBytes('left')).json.bufferViews as { byteOffset?: number }[])[0].byteOffset ?? 0) + 12,
      Number.NaN,
      true,
    );
    expect(refusal(files)).toMatch(/vertex 1 of mesh 0.* not a finite number/);
  });
  it('an archive that comes to more than the limit', () => {
    const bomb = zipSync({ 'a.gltf': new Uint8Array(3_000_000) });
    expect(() =>
      readGltf([{ name: 'a.zip', bytes: bomb }], {
        ...DEFAULT_LIMITS,
        bytes: 1_000_000,
        files: 10,
      }),
    ).toThrow(/comes to more than/);
  });
});

it('200 mutated copies of good files are read soundly or refused, never a crash', () => {
  const originals = [handBytes('left'), castBytes('quay-skeleton.glb'), castBytes('deckhand-clean.glb')];
  let seed = 12345;
  const random = (n: number) => {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
    return seed % n;
  };
  let refused = 0;
  for (let i = 0; i < 200; i++) {
    const bytes = originals[i % 20 === 0 ? 2 : i % 2].slice();
    const textLength = new DataView(bytes.buffer).getUint32(12, true);
    for (let k = 0; k < 1 + random(6); k++) {
      const at = random(3) === 0 ? random(bytes.length) : 12 + random(textLength);
      if (random(2)) bytes[at] = random(256);
      else bytes[at] = 48 + random(10);
    }
    try {
      expect(
        brokenInvariants(
          readGltf([
            { name: 'm.glb', bytes: random(8) === 0 ? bytes.slice(0, random(bytes.length)) : bytes },
          ]),
        ),
      ).toEqual([]);
    } catch (error) {
      if (!(error instanceof ReadError)) throw error;
      refused++;
    }
  }
  expect(refused).toBeGreaterThan(40);
});

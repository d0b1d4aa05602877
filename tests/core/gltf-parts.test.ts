/** The less common corners of glTF 2.0, read here and by gltf-transform. */
import { type Document, WebIO } from '@gltf-transform/core';
import { convertPrimitiveToTriangles } from '@gltf-transform/functions';
import { brokenInvariants } from '@/core/character/invariants';
import { placedMeshes } from '@/core/character/measure';
import { readCharacter, writeCharacter } from '@/core/formats';
import type { InputFile } from '@/core/formats/errors';

type Json = Record<string, unknown>;

/**
 * A .gltf with everything inside: arrays become buffer views one behind another, each at a multiple of four
 * bytes.
 */
function gltf(arrays: readonly (Float32Array | Uint16Array | Uint8Array)[], json: Json): InputFile[] {
  const parts = arrays.map((array) => new Uint8Array(array.buffer, array.byteOffset, array.byteLength));
  let at = 0;
  const views = parts.map((part) => {
    const v = { buffer: 0, byteOffset: at, byteLength: part.length };
    at += (part.length + 3) & ~3;
    return v;
  });
  const all = new Uint8Array(at);
  parts.forEach((part, i) => all.set(part, views[i].byteOffset));
  const whole = {
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [{ mesh: 0, name: 'thing' }],
    buffers: [
      { byteLength: at, uri: `data:application/octet-stream;base64,${Buffer.from(all).toString('base64')}` },
    ],
    bufferViews: views,
    ...json,
  };
  return [{ name: 'x.gltf', bytes: new TextEncoder().encode(JSON.stringify(whole)) }];
}

const theirs = async (files: InputFile[]): Promise<Document> => {
  const json = JSON.parse(new TextDecoder().decode(files[0].bytes));
  const { uri: _uri, ...buffer } = json.buffers[0];
  const bytes = Uint8Array.from(Buffer.from(json.buffers[0].uri.split(',')[1], 'base64'));
  return new WebIO().readJSON({
    json: { ...json, buffers: [{ ...buffer, uri: 'x.bin' }] },
    resources: { 'x.bin': bytes },
  });
};

const zigzag = Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0.1, 0, 2, 0, 1, 2, 0.3]);
const position = (view: number, count: number) => ({
  bufferView: view,
  componentType: 5126,
  count,
  type: 'VEC3',
  min: [0, 0, 0],
  max: [1, 2, 0.3],
});

/** Triangles as sorted triples of places, so that it does not matter with which corner they begin. */
function triplesOf(triangles: ArrayLike<number>, at: (value: number) => readonly number[]): string[] {
  const out: string[] = [];
  for (let triangle = 0; triangle + 2 < triangles.length; triangle += 3) {
    const c = [0, 1, 2].map((k) =>
      at(triangles[triangle + k])
        .map((x) => x.toFixed(4))
        .join(),
    );
    const first = c.indexOf([...c].sort()[0]);
    out.push([c[first], c[(first + 1) % 3], c[(first + 2) % 3]].join(' | '));
  }
  return out.sort();
}

describe('primitive modes', () => {
  it.each([
    [5, 'a strip'],
    [6, 'a fan'],
  ])('mode %d, %s, is the triangles that gltf-transform makes of it, wound alike', async (mode) => {
    for (const indices of [null, Uint16Array.from([0, 1, 2, 3, 4, 5])]) {
      const files = gltf(indices ? [zigzag, indices] : [zigzag], {
        accessors: [
          position(0, 6),
          ...(indices ? [{ bufferView: 1, componentType: 5123, count: 6, type: 'SCALAR' }] : []),
        ],
        meshes: [{ primitives: [{ attributes: { POSITION: 0 }, mode, ...(indices ? { indices: 1 } : {}) }] }],
      });
      const reference = (await theirs(files)).getRoot().listMeshes()[0].listPrimitives()[0];
      convertPrimitiveToTriangles(reference);
      const list =
        reference.getIndices()?.getArray() ??
        Uint16Array.from({ length: reference.getAttribute('POSITION')!.getCount() }, (_, i) => i);
      const mesh = readCharacter(files).meshes[0];
      const mine: number[] = [];
      for (let polygon = 0; polygon + 1 < mesh.polygonOffsets.length; polygon++)
        for (let k = mesh.polygonOffsets[polygon] + 1; k < mesh.polygonOffsets[polygon + 1] - 1; k++)
          mine.push(mesh.corners[mesh.polygonOffsets[polygon]], mesh.corners[k], mesh.corners[k + 1]);
      // Quads may have been recovered from pairs: the area and the facing are what counts then.
      const array = mesh.attributes.POSITION.data;
      const q = reference.getAttribute('POSITION')!.getArray()!;
      if (mesh.polygonOrigin === 'triangles')
        expect(triplesOf(mine, (value) => Array.from(array.slice(value * 3, value * 3 + 3)))).toEqual(
          triplesOf(list, (value) => Array.from(q.slice(value * 3, value * 3 + 3))),
        );
      else expect(mine.length).toBe(list.length);
    }
  });
  it('lines and points are carried through as they are', () => {
    const files = gltf([zigzag, Uint16Array.from([0, 1, 1, 2])], {
      accessors: [position(0, 6), { bufferView: 1, componentType: 5123, count: 4, type: 'SCALAR' }],
      meshes: [
        {
          primitives: [
            { attributes: { POSITION: 0 }, mode: 1, indices: 1 },
            { attributes: { POSITION: 0 }, mode: 4 },
          ],
        },
      ],
    });
    const character = readCharacter(files);
    expect(
      character.meshes[0].pieces.map((piece) => [
        piece.mode,
        Array.from(piece.carriedIndices ? [...piece.carriedIndices] : []),
        piece.polygonCount,
      ]),
    ).toEqual([
      [1, [0, 1, 1, 2], 0],
      [4, [], expect.any(Number)],
    ]);
    const again = readCharacter([
      { name: 'y.glb', bytes: writeCharacter(character, 'glb', 'y').files[0].bytes },
    ]);
    expect(Array.from(again.meshes[0].pieces[0].carriedIndices!)).toEqual([0, 1, 1, 2]);
  });
});

describe('accessors', () => {
  it('sparse values take the place of those in the view, as gltf-transform has them', async () => {
    const files = gltf([zigzag, Uint16Array.from([1, 4]), Float32Array.from([9, 9, 9, 7, 7, 7])], {
      accessors: [
        {
          ...position(0, 6),
          max: [9, 9, 9],
          sparse: { count: 2, indices: { bufferView: 1, componentType: 5123 }, values: { bufferView: 2 } },
        },
      ],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
    });
    const reference = (await theirs(files))
      .getRoot()
      .listMeshes()[0]
      .listPrimitives()[0]
      .getAttribute('POSITION')!
      .getArray()!;
    expect(Array.from(readCharacter(files).meshes[0].attributes.POSITION.data)).toEqual(
      Array.from(reference),
    );
    expect(Array.from(reference.slice(3, 6))).toEqual([9, 9, 9]);
  });
  it('sparse values alone stand among zeros', () => {
    const files = gltf([Uint16Array.from([2]), Float32Array.from([1, 2, 3])], {
      accessors: [
        {
          componentType: 5126,
          count: 3,
          type: 'VEC3',
          min: [0, 0, 0],
          max: [1, 2, 3],
          sparse: { count: 1, indices: { bufferView: 0, componentType: 5123 }, values: { bufferView: 1 } },
        },
      ],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
    });
    expect(Array.from(readCharacter(files).meshes[0].attributes.POSITION.data)).toEqual([
      0, 0, 0, 0, 0, 0, 1, 2, 3,
    ]);
  });
  it.each<[string, Json, RegExp]>([
    [
      'for an element that is not there',
      { count: 1, indices: { bufferView: 1, componentType: 5123 }, values: { bufferView: 2 } },
      /sparse value for element 77/,
    ],
    [
      'with indices of no whole type',
      { count: 1, indices: { bufferView: 1, componentType: 5126 }, values: { bufferView: 2 } },
      /sparse indices of an unknown type/,
    ],
    [
      'without end',
      { count: 1e12, indices: { bufferView: 1, componentType: 5123 }, values: { bufferView: 2 } },
      /more than the limit|reads to byte/,
    ],
  ])('sparse values %s are refused', (_, sparse, sentence) => {
    const files = gltf([zigzag, Uint16Array.from([77]), Float32Array.from([9, 9, 9])], {
      accessors: [{ ...position(0, 6), sparse }],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
    });
    expect(() => readCharacter(files)).toThrow(sentence);
  });
  it('interleaved elements are read by their stride', async () => {
    const both = Float32Array.from({ length: 36 }, (_, i) =>
      i % 6 < 3 ? zigzag[Math.floor(i / 6) * 3 + (i % 6)] : [0, 0, 1][i % 3],
    );
    const files = gltf([both], {
      accessors: [
        position(0, 6),
        { bufferView: 0, byteOffset: 12, componentType: 5126, count: 6, type: 'VEC3' },
      ],
      meshes: [{ primitives: [{ attributes: { POSITION: 0, NORMAL: 1 } }] }],
    });
    const json = JSON.parse(new TextDecoder().decode(files[0].bytes));
    json.bufferViews[0].byteStride = 24;
    const strided = [{ name: 'x.gltf', bytes: new TextEncoder().encode(JSON.stringify(json)) }];
    const mesh = readCharacter(strided).meshes[0];
    expect(Array.from(mesh.attributes.POSITION.data)).toEqual(Array.from(zigzag));
    expect(Array.from(mesh.attributes.NORMAL.data.slice(0, 6))).toEqual([0, 0, 1, 0, 0, 1]);
    expect(
      Array.from(
        (await theirs(strided))
          .getRoot()
          .listMeshes()[0]
          .listPrimitives()[0]
          .getAttribute('NORMAL')!
          .getArray()!,
      ),
    ).toEqual(Array.from(mesh.attributes.NORMAL.data));
  });
});

describe('several primitives', () => {
  const uv = Float32Array.from({ length: 12 }, (_, i) => i / 12);
  const red = Uint8Array.from({ length: 24 }, (_, i) => (i % 4 === 3 ? 255 : i));
  const files = gltf([zigzag, uv, zigzag, red], {
    accessors: [
      position(0, 6),
      { bufferView: 1, componentType: 5126, count: 6, type: 'VEC2' },
      position(2, 6),
      { bufferView: 3, componentType: 5121, normalized: true, count: 6, type: 'VEC4' },
    ],
    materials: [{ name: 'cloth' }, { name: 'brass' }],
    meshes: [
      {
        primitives: [
          { attributes: { POSITION: 0, TEXCOORD_0: 1 }, material: 0 },
          { attributes: { POSITION: 2, COLOR_0: 3 }, material: 1 },
          { attributes: { POSITION: 0, TEXCOORD_0: 1 }, material: 1, mode: 6 },
        ],
      },
    ],
  });
  it('lie one behind another as one mesh; those of the same vertices share them; each knows what it has', () => {
    const character = readCharacter(files);
    const mesh = character.meshes[0];
    expect(brokenInvariants(character)).toEqual([]);
    expect([
      mesh.vertexCount,
      mesh.pieces.map((piece) => [
        piece.vertexStart,
        piece.vertexCount,
        piece.material,
        [...piece.attributes].sort().join(),
      ]),
    ]).toEqual([
      12,
      [
        [0, 6, 0, 'POSITION,TEXCOORD_0'],
        [6, 6, 1, 'COLOR_0,POSITION'],
        [0, 6, 1, 'POSITION,TEXCOORD_0'],
      ],
    ]);
    expect(Array.from(mesh.attributes.TEXCOORD_0.data.slice(12))).toEqual(new Array(12).fill(0));
    expect(Array.from(mesh.attributes.COLOR_0.data.slice(24))).toEqual(Array.from(red));
  });
  it('come back as they were, by another reader too', async () => {
    const { bytes } = writeCharacter(readCharacter(files), 'glb', 'x').files[0];
    const primitives = (await new WebIO().readBinary(bytes)).getRoot().listMeshes()[0].listPrimitives();
    expect(
      primitives.map((primitive) => [
        primitive.listSemantics().sort().join(),
        primitive.getMaterial()?.getName(),
        primitive.getAttribute('POSITION')!.getCount(),
      ]),
    ).toEqual([
      ['POSITION,TEXCOORD_0', 'cloth', 6],
      ['COLOR_0,POSITION', 'brass', 6],
      ['POSITION,TEXCOORD_0', 'brass', 6],
    ]);
    expect(Array.from(primitives[1].getAttribute('COLOR_0')!.getArray()!)).toEqual(Array.from(red));
  });
});

describe('data URIs', () => {
  it('text, and base64 that is none', () => {
    const json = JSON.parse(
      new TextDecoder().decode(
        gltf([zigzag], {
          accessors: [position(0, 6)],
          meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
        })[0].bytes,
      ),
    );
    const withUri = (uri: string) =>
      readCharacter([
        {
          name: 'x.gltf',
          bytes: new TextEncoder().encode(
            JSON.stringify({ ...json, buffers: [{ ...json.buffers[0], uri }] }),
          ),
        },
      ]);
    expect(() => withUri('data:application/octet-stream;base64,###')).toThrow(/data URI that is not base64/);
    expect(() => withUri('data:,abc')).toThrow(/reads to byte|bytes/);
    expect(() => withUri('nowhere%2.bin')).toThrow(/“nowhere%2\.bin”, which was not chosen/);
    expect(withUri(json.buffers[0].uri).meshes[0].vertexCount).toBe(6);
    expect(placedMeshes(withUri(json.buffers[0].uri))[0].points.length).toBe(18);
  });
});

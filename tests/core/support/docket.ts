import { Document, WebIO } from '@gltf-transform/core';
import { addressOf } from '@/core/character/bundle';
import { readCharacter } from '@/core/formats';
import { type Docket, sealDocket } from '@/core/house/docket';
import { contentsOf } from '@/core/rooms/docket/contents';
import { itemsOf } from '@/core/rooms/docket/items';

/** A docket over a file. */
export function docketOver(bytes: Uint8Array, name = 'deckhand-r1.glb'): Docket {
  const character = readCharacter([{ name, bytes }]);
  return sealDocket({
    kind: 'young-bough-docket',
    version: 1,
    id: '6f1c',
    at: '2026-11-27T10:00:00.000Z',
    by: 'R. Lindqvist',
    note: '',
    character: { name: 'Deckhand', revision: 1, label: 'as delivered' },
    brief: { id: 'handset', version: 1, title: 'Night Ferry, handset' },
    format: 'glb',
    files: [{ name, bytes: bytes.length, sha256: addressOf(bytes) }],
    taken: itemsOf(character),
    leftOut: [],
    notes: [],
    counts: { stops: 0, worth: 0, note: 0 },
    findings: [],
    waived: [],
    steps: [],
    crosswalk: null,
    receiver: null,
    picture: null,
    contents: contentsOf(character),
  });
}

/** Two triangles, each with a material and a picture of its own; written by glTF-Transform. */
export async function twoPictures(): Promise<Uint8Array> {
  const doc = new Document();
  const buffer = doc.createBuffer();
  const scene = doc.createScene();
  const png = (shade: number) =>
    Uint8Array.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a, ...PNG_OF_ONE, shade]);
  for (const [k, name] of ['first', 'second'].entries()) {
    const points = Float32Array.of(0, 0, k, 1, 0, k, 0, 1, k);
    const texture = doc.createTexture(name).setImage(png(k)).setMimeType('image/png');
    const material = doc.createMaterial(name).setBaseColorTexture(texture);
    const position = doc.createAccessor().setType('VEC3').setArray(points).setBuffer(buffer);
    const uv = doc.createAccessor().setType('VEC2').setArray(new Float32Array(6)).setBuffer(buffer);
    const primitive = doc
      .createPrimitive()
      .setAttribute('POSITION', position)
      .setAttribute('TEXCOORD_0', uv)
      .setMaterial(material);
    scene.addChild(doc.createNode(name).setMesh(doc.createMesh(name).addPrimitive(primitive)));
  }
  return new WebIO().writeBinary(doc);
}

/** The header and the data of a picture of one pixel. */
const PNG_OF_ONE = [
  0, 0, 0, 13, 0x49, 0x48, 0x44, 0x52, 0, 0, 0, 1, 0, 0, 0, 1, 8, 2, 0, 0, 0, 0x90, 0x77, 0x53, 0xde, 0, 0, 0,
  12, 0x49, 0x44, 0x41, 0x54, 8, 0xd7, 0x63, 0xf8, 0xcf, 0xc0, 0, 0, 3, 1, 1, 0, 0x18, 0xdd, 0x8d, 0xb0, 0, 0,
  0, 0, 0x49, 0x45, 0x4e, 0x44, 0xae, 0x42, 0x60, 0x82,
];

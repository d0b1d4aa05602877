/** What goes out when a character is handed over, and the docket that is sealed over it. */
import fc from 'fast-check';
import { brokenInvariants } from '@/core/character/invariants';
import { type Character, node } from '@/core/character/model';
import { writeGlb } from '@/core/formats/gltf/write';
import { readCharacter } from '@/core/formats';
import { type Docket, docketFile, docketFrom, sealOf, verifyFile } from '@/core/house/docket';
import { compareContents, contentsOf } from '@/core/rooms/docket/contents';
import { itemsOf, withItems, withNeeds } from '@/core/rooms/docket/items';
import { tube } from './support/build';
import { castCharacter, handBytes } from './support/cast';
import { docketOver, twoPictures } from './support/docket';
import { randomCharacter } from './support/random';
import { spoiltReads } from './support/spoilt';
import { validate } from './support/validator';

const deckhand = castCharacter('deckhand.glb');
const read = (bytes: Uint8Array) => readCharacter([{ name: 'x.glb', bytes }]);

const codeOf = (error: string) => error.split(' ')[0];

describe('items', () => {
  it('of the Deckhand are its garments, its lantern, its skeleton and its clip', () => {
    const items = itemsOf(deckhand);
    expect(items.map((item) => [item.kind, item.name])).toEqual([
      ['mesh', 'body'],
      ['mesh', 'oilskin coat'],
      ['mesh', 'boots'],
      ['mesh', "sou'wester"],
      ['prop', 'storm lantern'],
      ['skeleton', 'base'],
      ['clip', 'hail the quay'],
      ['clip', 'patrol loop'],
    ]);
    const skeleton = items.find((item) => item.kind === 'skeleton')!;
    for (const mesh of items.filter((item) => item.kind === 'mesh'))
      expect(mesh.needs).toContain(skeleton.id);
    const boots = deckhand.meshes[deckhand.nodes.find((node) => node.name === 'boots')!.mesh];
    const attributes = Object.values(boots.attributes).reduce(
      (sum, attribute) => sum + attribute.data.byteLength,
      0,
    );
    expect(items.find((item) => item.name === 'boots')!.bytes).toBeGreaterThan(attributes);
  });
  it('of any character: what goes out and what stays are all of it, what goes out is whole and writes a valid file', async () => {
    const all: Character[] = [
      deckhand,
      castCharacter('capstan.glb'),
      castCharacter('stoker.dae'),
      ...Array.from({ length: 12 }, (_, seed) => randomCharacter(seed)),
    ];
    let left = 0;
    for (const [seed, character] of all.entries()) {
      const items = itemsOf(character);
      // What a validator says of the whole is not held against a part of it.
      const known = new Set((await validate(writeGlb(character).bytes)).map(codeOf));
      expect(new Set(items.map((item) => item.id)).size).toBe(items.length);
      const picked = fc.sample(fc.subarray(items, { minLength: 1 }), { numRuns: 6, seed });
      for (const some of picked) {
        const chosen = new Set(some.map((item) => item.id));
        const out = withItems(character, chosen);
        expect([...out.taken, ...out.leftOut].map((item) => item.id).sort()).toEqual(
          items.map((item) => item.id).sort(),
        );
        expect(new Set(out.taken.map((item) => item.id))).toEqual(withNeeds(items, chosen));
        expect(brokenInvariants(out.character)).toEqual([]);
        expect(
          itemsOf(out.character)
            .map((item) => item.id)
            .sort(),
        ).toEqual(out.taken.map((item) => item.id).sort());
        left += out.leftOut.length;
        const kept = itemsOf(out.character);
        for (const item of out.taken)
          expect(kept.find((otherItem) => otherItem.id === item.id)).toMatchObject({
            about: expect.any(String),
          });
        const bytes = writeGlb(out.character).bytes;
        const errors = (await validate(bytes)).filter((error) => !known.has(codeOf(error)));
        expect([character.name, errors]).toEqual([character.name, []]);
      }
    }
    expect(left).toBeGreaterThan(50);
  });
  it('what goes out is as it was, and everything chosen changes nothing at all', () => {
    const items = itemsOf(deckhand);
    expect(withItems(deckhand, new Set(items.map((item) => item.id))).character).toBe(deckhand);
    const coat = items.find((item) => item.name === 'oilskin coat')!;
    const { character } = withItems(deckhand, new Set([coat.id]));
    expect(character.nodes.filter((node) => node.mesh >= 0).map((node) => node.name)).toEqual([
      'oilskin coat',
    ]);
    expect(character.clips).toEqual([]);
    const before = new Map(
      contentsOf(deckhand).map((content) => [`${content.of} ${content.what}`, content.sha256]),
    );
    for (const content of contentsOf(character).filter((otherContent) => /oilskin/.test(otherContent.of)))
      expect([content, before.get(`${content.of} ${content.what}`)]).toEqual([content, content.sha256]);
  });
  it('an empty that holds only what stays behind stays behind; one that holds nothing goes out', () => {
    const otherCharacter = tube();
    const withEmpties: Character = {
      ...otherCharacter,
      nodes: [
        ...otherCharacter.nodes,
        node({ name: 'rack' }),
        node({ name: 'lamp', kind: 'mesh', mesh: 0, parent: otherCharacter.nodes.length }),
        node({ name: 'hand socket' }),
      ],
    };
    const bound = itemsOf(withEmpties).filter((item) => item.kind === 'mesh');
    const { character } = withItems(withEmpties, new Set(bound.map((item) => item.id)));
    const names = character.nodes.map((node) => node.name);
    expect([names.includes('rack'), names.includes('lamp'), names.includes('hand socket')]).toEqual([
      false,
      false,
      true,
    ]);
  });
  it('a mesh in the middle of a skeleton goes along with it', () => {
    const character = tube();
    const at = character.nodes.length;
    const bone = character.nodes.findLastIndex((node) => node.kind === 'bone');
    const between: Character = {
      ...character,
      nodes: [
        ...character.nodes,
        node({ name: 'plate', kind: 'mesh', mesh: 0, parent: bone }),
        node({ name: 'finger', kind: 'bone', parent: at }),
      ],
    };
    const items = itemsOf(between);
    const skeleton = items.find((item) => item.kind === 'skeleton')!;
    expect(skeleton.needs).toEqual(['prop/plate/0']);
    const out = withItems(between, new Set([skeleton.id]));
    expect(out.taken.map((item) => item.name).sort()).toEqual(['plate', skeleton.name].sort());
    expect(brokenInvariants(out.character)).toEqual([]);
  });
  it('pictures that only what stays behind shows stay behind, and the others are the same bytes', async () => {
    const bytes = await twoPictures();
    const character = read(bytes);
    expect(character.carried.images).toHaveLength(2);
    const second = itemsOf(character).find((item) => item.name === 'second')!;
    const written = writeGlb(withItems(character, new Set([second.id])).character).bytes;
    const back = read(written);
    expect(back.carried.images).toHaveLength(1);
    expect(back.carried.materials.map((material) => material.name)).toEqual(['second']);
    expect(back.carried.images[0].bytes).toEqual(character.carried.images[1].bytes);
    expect(back.carried.materials[0]).toMatchObject({
      pbrMetallicRoughness: { baseColorTexture: { index: 0 } },
    });
    expect(back.carried.textures).toMatchObject([{ source: 0 }]);
    expect(await validate(written)).toEqual([]);
  });
});

describe('a docket', () => {
  const bytes = handBytes('left');
  const docket = docketOver(bytes);
  it('knows its file, and comes back from its own file as it was', () => {
    expect(verifyFile(docket, { name: 'renamed.glb', bytes })).toEqual({
      isSealed: true,
      same: 'deckhand-r1.glb',
      differences: [],
    });
    expect(docketFrom(JSON.parse(docketFile(docket)))).toEqual(JSON.parse(docketFile(docket)));
    expect(sealOf(docketFrom(JSON.parse(docketFile(docket))))).toBe(docket.seal);
  });
  it('finds any one byte that is another, and never throws over it', () => {
    let told = 0;
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: bytes.length - 1 }),
        fc.integer({ min: 1, max: 255 }),
        (at, by) => {
          const bent = bytes.slice();
          bent[at] ^= by;
          const { same, isSealed, differences, why } = verifyFile(docket, { name: 'x.glb', bytes: bent });
          expect([same, isSealed]).toEqual([null, true]);
          if (differences === null) expect(why).toMatch(/x\.glb/);
          else if (differences.length > 0) told++;
        },
      ),
      { numRuns: 100 },
    );
    expect(told).toBeGreaterThan(20);
  });
  it('is found out when any of its fields is another', () => {
    const fields = Object.keys(docket).filter((key) => key !== 'seal') as (keyof Docket)[];
    for (const field of fields) {
      const value = docket[field];
      const other = typeof value === 'string' ? `${value}x` : [value];
      expect([
        field,
        verifyFile({ ...docket, [field]: other } as Docket, { name: 'x', bytes }).isSealed,
      ]).toEqual([field, false]);
    }
  });
  it('does not mind in which order its fields stand (RFC 8785)', () => {
    const turned = Object.fromEntries(Object.entries(docket).reverse()) as unknown as Docket;
    expect(sealOf(turned)).toBe(docket.seal);
  });
  it.each<[string, object, RegExp]>([
    ['a field that nobody knows', { colour: 'blue' }, /colour/],
    ['no files', { files: [] }, /files/],
    ['a sum that is none', { seal: 'abc' }, /seal/],
    ['another kind', { kind: 'recipe' }, /kind/],
  ])('refuses %s by its name', (_, more, words) => {
    expect(() => docketFrom({ ...JSON.parse(docketFile(docket)), ...more })).toThrow(words);
  });
});

it('a docket with anything in it is read, or refused in a sentence; what is read is never taken for sealed', () => {
  const bytes = writeGlb(castCharacter('quay-skeleton.glb')).bytes;
  const docket = docketOver(bytes);
  let read = 0;
  const refused = spoiltReads(docket, (json) => {
    const spoilt = docketFrom(json);
    read++;
    const { isSealed } = verifyFile(spoilt, { name: 'x.glb', bytes });
    expect(isSealed).toBe(JSON.stringify(spoilt) === JSON.stringify(docket));
  });
  expect([refused > 3, read > 5]).toEqual([true, true]);
});

describe('where two characters differ', () => {
  const character = tube();
  const apart = (other: Character) => compareContents(contentsOf(character), contentsOf(other));
  it('nothing, where nothing was changed', () => {
    expect(apart({ ...character })).toEqual([]);
  });
  it('a point moved, a weight shifted, a bone renamed, a clip gone: each is told by its thing', () => {
    const mesh = character.meshes[0];
    const moved = mesh.attributes.POSITION.data.slice() as Float32Array;
    moved[4] += 0.001;
    const points: Character = {
      ...character,
      meshes: [
        {
          ...mesh,
          attributes: { ...mesh.attributes, POSITION: { ...mesh.attributes.POSITION, data: moved } },
        },
      ],
    };
    expect(apart(points)).toEqual([{ of: expect.stringContaining('mesh'), what: 'points', how: 'changed' }]);
    const influences = mesh.influences!;
    const weight = influences.weight.slice();
    weight[0] *= 0.5;
    expect(apart({ ...character, meshes: [{ ...mesh, influences: { ...influences, weight } }] })).toEqual([
      { of: expect.stringContaining('mesh'), what: 'weights', how: 'changed' },
    ]);
    const bone = character.nodes.findIndex((node) => node.kind === 'bone');
    const renamed = {
      ...character,
      nodes: character.nodes.map((node, i) => (i === bone ? { ...node, name: 'another' } : node)),
    };
    expect(apart(renamed)).toContainEqual({ of: 'node “another”', what: 'place', how: 'new' });
    expect(apart(renamed)).toContainEqual({
      of: `node “${character.nodes[bone].name}”`,
      what: 'place',
      how: 'gone',
    });
    const noClips = compareContents(contentsOf(deckhand), contentsOf({ ...deckhand, clips: [] }));
    expect(noClips).toEqual([
      { of: 'clip “hail the quay”', what: 'motion', how: 'gone' },
      { of: 'clip “patrol loop”', what: 'motion', how: 'gone' },
    ]);
  });
});

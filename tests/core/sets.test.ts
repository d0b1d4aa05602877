/** Sets of bones, points and polygons: kept in files, over steps, on new deliveries; what did not fit is told. */
import fc from 'fast-check';
import { withoutNodes } from '@/core/character/remove';
import { brokenInvariants } from '@/core/character/invariants';
import { joinCharacters } from '@/core/character/join';
import { type Character, type ElementSet, type Mesh, positionsOf } from '@/core/character/model';
import { pick, shuffledVertices } from './support/shuffled';
import { carriedSets, countsOfSet, sizeOfSet, wholePoints } from '@/core/character/sets';
import { pointsOf } from '@/core/character/points';
import { NOTHING_CHOSEN, callsByHand, defaultsOf, remediesByHand } from '@/core/house/by-hand';
import { briefById } from '@/core/house/briefs';
import { effectsOf } from '@/core/house/effects';
import { remedyById } from '@/core/house/registry';
import { nameParams, refitParams } from '@/core/house/rerun';
import { readGltf } from '@/core/formats/gltf/read';
import { writeGlb } from '@/core/formats/gltf/write';
import { readCollada } from '@/core/formats/collada/read';
import { writeCollada } from '@/core/formats/collada/write';
import { castCharacter } from './support/cast';
import { validate } from './support/validator';

const brief = briefById('handset')!;
const deckhand = castCharacter('deckhand-clean.glb');
const [meshNode] = deckhand.nodes.flatMap((node, i) => (node.mesh >= 0 && node.skin >= 0 ? [i] : []));
const meshOf = (character: Character, node: number): Mesh => character.meshes[character.nodes[node].mesh];
const body = meshOf(deckhand, meshNode);

const cuff: ElementSet = {
  name: 'left cuff',
  tint: '#1c7c7c',
  twigSize: 0.5,
  bones: deckhand.nodes.flatMap((node, i) => (node.kind === 'bone' ? [i] : [])).slice(4, 9),
  vertices: [{ node: meshNode, ids: wholePoints(body, [11, 12, 400, 401, 402]) }],
  polygons: [{ node: meshNode, ids: Uint32Array.of(3, 8, 9, 70) }],
};
const withCuff: Character = { ...deckhand, sets: [cuff] };

const placesIn = (character: Character, set: ElementSet) =>
  set.vertices.flatMap(({ node, ids }) => {
    const points = positionsOf(meshOf(character, node));
    return [...ids].map((id) => [0, 1, 2].map((k) => points[id * 3 + k].toFixed(4)).join(' '));
  });
const uniquePlaces = (character: Character, set: ElementSet) => [...new Set(placesIn(character, set))].sort();
const boneNames = (character: Character, { bones }: ElementSet) =>
  bones.map((bone) => character.nodes[bone].name).sort();

describe('in files', () => {
  it('come back from glTF as they were, beside other extras, and the file is valid', async () => {
    const extras = { note: 'mind the lamp' };
    const given = { ...withCuff, carried: { ...withCuff.carried, extras } };
    const { bytes } = writeGlb(given);
    const again = readGltf([{ name: 'a.glb', bytes }]);
    expect(again.sets).toEqual([cuff]);
    expect(again.carried.extras).toEqual(extras);
    expect(await validate(bytes)).toEqual([]);
    expect(readGltf([{ name: 'a.glb', bytes: writeGlb(deckhand).bytes }]).sets).toEqual([]);
  });

  it('come back from COLLADA by name and place, whatever the points count there', () => {
    const { files, notes } = writeCollada(withCuff, 'a');
    expect(notes.filter((note) => /set/i.test(note))).toEqual([]);
    const again = readCollada(files.map(({ name, bytes }) => ({ name, bytes })));
    expect(again.sets.map(({ name, tint, twigSize }) => [name, tint, twigSize])).toEqual([
      ['left cuff', '#1c7c7c', 0.5],
    ]);
    expect(boneNames(again, again.sets[0])).toEqual(boneNames(deckhand, cuff));
    expect(uniquePlaces(again, again.sets[0])).toEqual(uniquePlaces(deckhand, cuff));
    expect(countsOfSet(again, again.sets[0])).toEqual(countsOfSet(deckhand, cuff));
    expect(again.notes.filter((note) => /set “/.test(note))).toEqual([]);
  });

  it('another program that reorders the points does not exchange them', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), (seed) => {
        const shuffled = shuffledVertices(withCuff, seed);
        const json = readGltf([{ name: 'a.glb', bytes: writeGlb(withCuff).bytes }]);
        // The same extras beside points in another order.
        const { sets } = carriedSets(json, { ...shuffled, sets: [] });
        expect(uniquePlaces(shuffled, sets[0])).toEqual(uniquePlaces(deckhand, cuff));
      }),
      { numRuns: 5 },
    );
  });

  it('that are spoilt are left out and told, and nothing else is lost', () => {
    const glb = writeGlb(withCuff).bytes;
    const spoil = (change: (sets: Record<string, unknown>[]) => unknown) => {
      const view = new DataView(glb.buffer, glb.byteOffset);
      const size = view.getUint32(12, true);
      const json = JSON.parse(new TextDecoder().decode(glb.subarray(20, 20 + size))) as {
        extras: Record<string, unknown>;
        buffers: { uri?: string }[];
      };
      const key = Object.keys(json.extras)[0];
      json.extras[key] = change(json.extras[key] as Record<string, unknown>[]);
      json.buffers[0].uri = 'a.bin';
      const bin = glb.slice(28 + size);
      return readGltf([
        { name: 'a.gltf', bytes: new TextEncoder().encode(JSON.stringify(json)) },
        { name: 'a.bin', bytes: bin },
      ]);
    };
    for (const change of [
      () => 'sets',
      () => [7],
      ([set]: Record<string, unknown>[]) => [{ ...set, bones: [{ name: 'x' }] }],
      ([set]: Record<string, unknown>[]) => [{ ...set, tint: 'url(javascript:1)' }],
      ([set]: Record<string, unknown>[]) => [{ ...set, twigSize: 1e9 }],
      ([set]: Record<string, unknown>[]) => [
        { ...set, vertices: [{ ...pick(set, 'vertices'), places: [1] }] },
      ],
      ([set]: Record<string, unknown>[]) => [
        { ...set, polygons: [{ ...pick(set, 'polygons'), ids: ['a'] }] },
      ],
    ]) {
      const read = spoil(change);
      expect(read.sets).toEqual([]);
      expect(read.notes.some((note) => /sets? of the file/.test(note))).toBe(true);
      expect(read.nodes.length).toBe(deckhand.nodes.length);
    }
    const lost = spoil(([set]) => [{ ...set, bones: [{ name: 'nobody', nth: 0 }] }]);
    expect(lost.sets[0].bones).toEqual([]);
    expect(lost.notes.join()).toMatch(/1 things? of the set “left cuff”/);
    expect(brokenInvariants(lost)).toEqual([]);
  });
});

describe('over steps', () => {
  it('follow when nodes go, and when another character is joined', () => {
    const leaf = deckhand.nodes.findIndex(
      (node, i) =>
        node.kind === 'bone' && cuff.bones.includes(i) && !deckhand.nodes.some((x) => x.parent === i),
    );
    const gone = leaf >= 0 ? leaf : deckhand.nodes.length - 1;
    const { character } = withoutNodes(withCuff, new Set([gone]));
    const expected = boneNames(deckhand, cuff).filter((name) => name !== deckhand.nodes[gone].name);
    expect(boneNames(character, character.sets[0])).toEqual(expected);
    expect(brokenInvariants(character)).toEqual([]);
    const joined = joinCharacters(castCharacter('capstan.glb'), withCuff, { shareBones: false });
    expect(boneNames(joined, joined.sets[0])).toEqual(boneNames(deckhand, cuff));
    expect(uniquePlaces(joined, joined.sets[0])).toEqual(uniquePlaces(deckhand, cuff));
    expect(brokenInvariants(joined)).toEqual([]);
  });

  it('points and polygons follow by place where points are merged; a set is never outside what a step promised', () => {
    const dirty = castCharacter('deckhand.glb');
    const node = dirty.nodes.findIndex(({ mesh, skin }) => mesh >= 0 && skin >= 0);
    // Without seams points become one vertex, so that all behind them count otherwise.
    const whole = meshOf(dirty, node);
    const mesh = {
      ...whole,
      attributes: { POSITION: whole.attributes.POSITION },
      pieces: whole.pieces.map((piece) => ({ ...piece, attributes: ['POSITION'] })),
    };
    const given: Character = {
      ...dirty,
      meshes: dirty.meshes.map((other) => (other === whole ? mesh : other)),
      sets: [
        {
          name: 'all',
          bones: [],
          vertices: [{ node, ids: Uint32Array.from({ length: mesh.vertexCount }, (_, i) => i) }],
          polygons: [
            { node, ids: Uint32Array.from({ length: mesh.polygonOffsets.length - 1 }, (_, i) => i) },
          ],
        },
      ],
    };
    const merge = remedyById('merge-points')!;
    const params = { ...defaultsOf(merge), node, distance: 0.001, joins: true };
    const checked = merge.params.validateSync(params) as typeof params;
    const after = merge.apply(given, checked, brief);
    const now = meshOf(after, node);
    expect(now.vertexCount).toBeLessThan(mesh.vertexCount);
    expect(brokenInvariants(after)).toEqual([]);
    expect(after.sets[0].vertices[0].ids.length).toBe(now.vertexCount);
    expect(after.sets[0].polygons[0].ids.length).toBe(now.polygonOffsets.length - 1);
    const effects = effectsOf(given, after, merge.promises(given, checked, brief));
    expect(effects.outside).toEqual([]);
    expect(effects.sets?.join()).toMatch(/Of the set “all” \d+ of \d+ things are gone/);
  });
});

describe('by hand', () => {
  const keep = remedyById('keep-set')!;

  it('whatever is chosen can be kept as a set; points are whole and the figure stays', () => {
    const chosen = {
      ...NOTHING_CHOSEN,
      nodes: cuff.bones,
      vertices: [{ node: meshNode, ids: Uint32Array.of(400, 11) }],
    };
    const offer = remediesByHand(deckhand, chosen, 'weights').find(({ remedy }) => remedy.id === 'keep-set')!;
    const [call] = callsByHand(offer, { name: 'mine', tint: '#123456' });
    const checked = keep.params.validateSync(call.params) as Record<string, unknown>;
    const after = keep.apply(deckhand, checked, brief);
    expect(after.sets.map(({ name, tint, bones }) => [name, tint, bones])).toEqual([
      ['mine', '#123456', cuff.bones],
    ]);
    expect(after.sets[0].vertices[0].ids).toEqual(wholePoints(body, [11, 400]));
    expect(after.meshes).toBe(deckhand.meshes);
    // A second of that name takes its place.
    const again = keep.apply(after, { ...checked, vertices: [] }, brief);
    expect([again.sets.length, again.sets[0].vertices]).toEqual([1, []]);
    expect(() => keep.apply(deckhand, { name: 'none' }, brief)).toThrow(/Nothing is chosen/);
    expect(() =>
      keep.apply(deckhand, { name: 'x', vertices: [{ node: meshNode, ids: [1e9] }] }, brief),
    ).toThrow(/choose anew/);
  });

  it('is named, coloured and dissolved', () => {
    const change = remedyById('change-set')!;
    const renamed = change.apply(withCuff, { set: 0, name: 'cuff' }, brief);
    expect([renamed.sets[0].name, renamed.sets[0].tint]).toEqual(['cuff', '#1c7c7c']);
    expect(change.apply(withCuff, { set: 0, twigSize: 2 }, brief).sets[0]).toEqual({ ...cuff, twigSize: 2 });
    expect(() => change.apply(withCuff, { set: 0, twigSize: 0.5 }, brief)).toThrow(/already/);
    expect(() => change.apply(withCuff, { set: 0 }, brief)).toThrow(/already/);
    const two = { ...withCuff, sets: [cuff, { ...cuff, name: 'other' }] };
    expect(() => change.apply(two, { set: 1, name: 'left cuff' }, brief)).toThrow(/Another set/);
    expect(
      remedyById('remove-set')!
        .apply(two, { set: 0 }, brief)
        .sets.map(({ name }) => name),
    ).toEqual(['other']);
  });

  it('is done again on a delivery whose points count otherwise, and tells what is not found', () => {
    const params = { name: 'mine', bones: cuff.bones, vertices: cuff.vertices, polygons: cuff.polygons };
    const names = nameParams(deckhand, keep, params);
    // As it comes out of the database.
    const stored = JSON.parse(JSON.stringify(names)) as typeof names;
    const shuffled = shuffledVertices(deckhand, 7);
    const fit = refitParams(shuffled, keep, params, stored);
    if ('missing' in fit) throw new Error(fit.missing);
    expect(fit.misfits).toEqual([]);
    const set = keep.apply(shuffled, fit.params, brief).sets[0];
    expect(uniquePlaces(shuffled, set)).toEqual(uniquePlaces(deckhand, cuff));
    // A delivery on which half the mesh went away: pushed far off, so that nothing lies where it lay.
    const points = positionsOf(body).slice();
    const { pointOfVertex } = pointsOf(body);
    const first = cuff.vertices[0].ids[0];
    for (let v = 0; v < body.vertexCount; v++)
      if (pointOfVertex[v] === pointOfVertex[first]) points[v * 3] += 3;
    const attributes = { ...body.attributes, POSITION: { ...body.attributes.POSITION, data: points } };
    const meshes = deckhand.meshes.map((mesh) => (mesh === body ? { ...mesh, attributes } : mesh));
    const moved = shuffledVertices({ ...deckhand, meshes }, 9);
    const part = refitParams(moved, keep, params, stored);
    if ('missing' in part) throw new Error(part.missing);
    expect(part.misfits.join()).toMatch(/1 of \d+ points are not found/);
    expect(sizeOfSet(moved, keep.apply(moved, part.params, brief).sets[0])).toBe(
      sizeOfSet(deckhand, cuff) - 1,
    );
  });
});

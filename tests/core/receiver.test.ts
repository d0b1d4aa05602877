/** What a machine makes of a file on arrival. */
import fc from 'fast-check';
import { arrivedAsItIs } from '@/core/house/arrival';
import { brokenInvariants } from '@/core/character/invariants';
import { restWorld } from '@/core/character/hierarchy';
import type { Character } from '@/core/character/model';
import { node } from '@/core/character/model';
import { influencesFrom } from '@/core/geometry/influences';
import { trialPoses } from '@/core/rooms/crosswalk/poses';
import { prove } from '@/core/rooms/crosswalk/proof';
import { drawsOf } from '@/core/rooms/docket/draws';
import { receive } from '@/core/rooms/docket/receive';
import { RECEIVERS, type Receiver, receiverById, receiverFrom } from '@/core/rooms/docket/receivers';
import { writeGlb } from '@/core/formats/gltf/write';
import { castCharacter } from './support/cast';
import { meshFrom, tube } from './support/build';
import { validate } from './support/validator';

const easy: Receiver = receiverById('browser')!;
const deckhand = castCharacter('deckhand.glb');

describe('the receivers of the house', () => {
  it('are five, each of its own name', () => {
    expect(RECEIVERS.map((r) => r.id)).toEqual(['handset', 'desk', 'browser', 'headset', 'strict-old']);
  });
  it('a file of settings that is wrong is told by its field', () => {
    expect(() => receiverFrom({ ...easy, influences: 0 })).toThrow(/influences/);
    expect(() => receiverFrom({ ...easy, colour: 'blue' })).toThrow(/colour/);
    expect(() => receiverFrom({ ...easy, weights: 'half' })).toThrow(/weights/);
    expect(receiverFrom(JSON.parse(JSON.stringify(easy)))).toEqual(easy);
  });
  it('every one leaves characters that keep the invariants and write files that validate', async () => {
    for (const receiver of RECEIVERS)
      for (const c of [castCharacter('deckhand-clean.glb'), castCharacter('capstan.glb')]) {
        const { character } = receive(c, receiver);
        expect([receiver.id, brokenInvariants(character)]).toEqual([receiver.id, []]);
        expect([receiver.id, await validate(writeGlb(character).bytes)]).toEqual([receiver.id, []]);
      }
  });
});

describe('what it changes', () => {
  it('one that takes everything moves nothing', () => {
    const clean = castCharacter('deckhand-clean.glb');
    const { said, compared } = arrivedAsItIs(clean, easy);
    expect(said).toEqual([]);
    expect(prove(compared, trialPoses(clean).slice(0, 12)).max).toBeLessThan(1e-9);
  });
  it('weights in bytes sum to 255 exactly, in shorts to 65 535 (glTF 2.0, 3.7.3.1)', () => {
    for (const [weights, whole] of [
      ['u8', 255],
      ['u16', 65535],
    ] as const) {
      const { character } = receive(deckhand, { ...easy, weights });
      for (const { influences: f } of character.meshes) {
        if (!f) continue;
        for (let v = 0; v + 1 < f.offsets.length; v += 97) {
          const row = f.weight.subarray(f.offsets[v], f.offsets[v + 1]);
          if (row.length > 0) expect(Math.round(row.reduce((a, w) => a + w * whole, 0))).toBe(whole);
          for (const w of row) expect(Math.abs(w * whole - Math.round(w * whole))).toBeLessThan(4e-3);
        }
      }
    }
  });
  it('what loses bones is counted, and lies off by what that costs', () => {
    const { said, compared } = arrivedAsItIs(deckhand, { ...easy, influences: 1 });
    expect(said.find((s) => /points lose bones/.test(s.text))?.kind).toBe('changed');
    expect(prove(compared, trialPoses(deckhand).slice(0, 20)).max).toBeGreaterThan(0.005);
  });
  it('steps over the box shift no point by more than half a step', () => {
    const { character, said } = receive(deckhand, { ...easy, positions: 'u16' });
    deckhand.meshes.forEach((mesh, m) => {
      const points = mesh.attributes.POSITION.data as Float32Array;
      const box = [0, 1, 2].map((k) => {
        const xs = points.filter((_, i) => i % 3 === k);
        return xs.reduce((a, b) => Math.max(a, b)) - xs.reduce((a, b) => Math.min(a, b));
      });
      const step = Math.max(...box) / 65535;
      const after = character.meshes[m].attributes.POSITION.data as Float32Array;
      after.forEach((x, i) => expect(Math.abs(x - points[i])).toBeLessThan(step * 0.51 + 1e-7));
    });
    expect(said.some((s) => /shift by up to/.test(s.text))).toBe(true);
  });
});

/** The tube with an empty between its bones, a bone that no skin lists, and a hook on that one. */
function withOddments(): Character {
  const t = tube();
  const nodes = [
    ...t.nodes,
    node({ name: 'helper', kind: 'empty', parent: 1, translation: [0.2, 0.1, 0] }),
    node({ name: 'lone', kind: 'bone', parent: 3, translation: [0, 0.3, 0] }),
    node({ name: 'hook', kind: 'mesh', mesh: 1, parent: 4, translation: [0, 0.05, 0], scale: [1, 2, 1] }),
  ];
  const hook = meshFrom(
    [
      [0, 0, 0],
      [0.1, 0, 0],
      [0, 0.1, 0],
    ],
    [[0, 1, 2]],
  );
  return { ...t, nodes, meshes: [...t.meshes, hook] };
}

describe('what it drops', () => {
  it('empties and bones in no skin, and what hung on them stays where it was', () => {
    const sent = withOddments();
    const { character, from, said } = receive(sent, { ...easy, empties: 'dropped', loneBones: 'dropped' });
    expect(character.nodes.map((n) => n.name)).toEqual(['lower', 'upper', 'tube', 'hook']);
    expect(said.filter((s) => s.kind === 'lost').map((s) => s.text)).toEqual([
      expect.stringContaining('“lone”'),
      expect.stringContaining('“helper”'),
    ]);
    const [before, after] = [restWorld(sent.nodes), restWorld(character.nodes)];
    const hook = character.nodes.findIndex((n) => n.name === 'hook');
    expect(from[hook]).toBe(5);
    for (let k = 0; k < 16; k++) expect(after[hook * 16 + k]).toBeCloseTo(before[5 * 16 + k], 9);
    const poses = trialPoses(sent);
    expect(prove(arrivedAsItIs(sent, { ...easy, empties: 'dropped' }).compared, poses).max).toBeLessThan(
      1e-6,
    );
  });
  it('uneven scale is evened out, or taken at one, by name', () => {
    const even = receive(withOddments(), { ...easy, scale: 'even' });
    const hook = even.character.nodes[5];
    expect(hook.scale[0]).toBeCloseTo(Math.cbrt(2), 9);
    expect(new Set(hook.scale).size).toBe(1);
    expect(even.said.map((s) => s.text).join()).toContain('“hook” is evened out');
    expect(receive(withOddments(), { ...easy, scale: 'none' }).character.nodes[5].scale).toEqual([1, 1, 1]);
  });
  it('the place of a mesh node that it forgets, which the proof shows', () => {
    const sent = withOddments();
    const { compared, said } = arrivedAsItIs(sent, { ...easy, meshNodes: 'ignored' });
    expect(said.map((s) => s.text).join()).toContain('forgets where the mesh node “hook” stood');
    expect(prove(compared, trialPoses(sent).slice(0, 1)).max).toBeCloseTo(0.15, 2);
  });
});

describe('draws', () => {
  const strip = fc
    .array(fc.array(fc.nat(9), { minLength: 1, maxLength: 3 }), { minLength: 6, maxLength: 30 })
    .map((bones) => {
      const points = bones.map((_, i) => [i, i % 2, 0]);
      const faces = bones.slice(2).map((_, i) => [i, i + 1, i + 2]);
      const rows = bones.map((b) => [...new Set(b)].map((j): [number, number] => [j, 1 / new Set(b).size]));
      return { mesh: meshFrom(points, faces, influencesFrom(rows)), bones };
    });
  it('no face that fits is left out, and as many bones as there are need one draw', () => {
    fc.assert(
      fc.property(strip, fc.integer({ min: 1, max: 10 }), ({ mesh, bones }, limit) => {
        const faceBones = bones
          .slice(2)
          .map((_, i) => new Set([...bones[i], ...bones[i + 1], ...bones[i + 2]]));
        const draws = drawsOf(mesh, limit, Infinity);
        expect(draws.impossible).toBe(faceBones.filter((f) => f.size > limit).length);
        const all = new Set(bones.flat()).size;
        if (limit >= all) expect([draws.parts, draws.added]).toEqual([1, 0]);
        // Each part after the first brings at least one bone more than it could hold.
        expect(draws.parts).toBeLessThanOrEqual(faceBones.length);
        expect(drawsOf(mesh, limit + 1, Infinity).parts).toBeLessThanOrEqual(draws.parts + faceBones.length);
      }),
    );
  });
  it('a face alone on more bones than a draw knows is told, and what is divided says by which limit', () => {
    const rows = [0, 1, 2, 3].map((v): [number, number][] => [[v, 1]]);
    const two = meshFrom(
      [
        [0, 0, 0],
        [1, 0, 0],
        [0, 1, 0],
        [1, 1, 0],
      ],
      [
        [0, 1, 2],
        [2, 1, 3],
      ],
      influencesFrom(rows),
    );
    expect(drawsOf(two, 2, Infinity).impossible).toBe(2);
    expect(drawsOf(two, 3, Infinity)).toMatchObject({
      parts: 2,
      pieces: 1,
      added: 2,
      reason: 'a draw knows 3 bones',
    });
    expect(drawsOf(two, 4, 3)).toMatchObject({ parts: 2, reason: 'a draw holds 3 vertices' });
  });
});

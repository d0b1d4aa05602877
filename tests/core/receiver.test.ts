/** What a machine makes of a file on arrival. */
import fc from 'fast-check';
import { arrivedAsItIs } from '@/core/house/arrival';
import { brokenInvariants } from '@/core/character/invariants';
import { bodyBox } from '@/core/character/measure';
import { clipSeconds, clipWorld } from '@/core/motion/pose';
import { restWorld } from '@/core/character/hierarchy';
import type { Character } from '@/core/character/model';
import { node } from '@/core/character/model';
import { influencesFrom } from '@/core/geometry/influences';
import { trialPoses } from '@/core/rooms/crosswalk/poses';
import { prove } from '@/core/rooms/crosswalk/proof';
import { cutIntoDraws } from '@/core/rooms/docket/cut';
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
    expect(RECEIVERS.map((receiver) => receiver.id)).toEqual([
      'handset',
      'desk',
      'browser',
      'headset',
      'strict-old',
    ]);
  });
  it('a file of settings that is wrong is told by its field', () => {
    expect(() => receiverFrom({ ...easy, influences: 0 })).toThrow(/influences/);
    expect(() => receiverFrom({ ...easy, colour: 'blue' })).toThrow(/colour/);
    expect(() => receiverFrom({ ...easy, weights: 'half' })).toThrow(/weights/);
    expect(receiverFrom(JSON.parse(JSON.stringify(easy)))).toEqual(easy);
  });
  it('every one leaves characters that keep the invariants and write files that validate', async () => {
    for (const receiver of RECEIVERS)
      for (const otherCharacter of [castCharacter('deckhand-clean.glb'), castCharacter('capstan.glb')]) {
        const { character } = receive(otherCharacter, receiver);
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
      for (const { influences } of character.meshes) {
        if (!influences) continue;
        for (let vertex = 0; vertex + 1 < influences.offsets.length; vertex += 97) {
          const row = influences.weight.subarray(influences.offsets[vertex], influences.offsets[vertex + 1]);
          if (row.length > 0)
            expect(Math.round(row.reduce((sum, weight) => sum + weight * whole, 0))).toBe(whole);
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
    deckhand.meshes.forEach((mesh, index) => {
      const points = mesh.attributes.POSITION.data as Float32Array;
      const box = [0, 1, 2].map((k) => {
        const xs = points.filter((_, i) => i % 3 === k);
        return xs.reduce((a, b) => Math.max(a, b)) - xs.reduce((a, b) => Math.min(a, b));
      });
      const step = Math.max(...box) / 65535;
      const after = character.meshes[index].attributes.POSITION.data as Float32Array;
      const shift = after.reduce((most, x, i) => Math.max(most, Math.abs(x - points[i])), 0);
      expect(shift).toBeLessThan(step * 0.51 + 1e-7);
    });
    expect(said.some((s) => /shift by up to/.test(s.text))).toBe(true);
  });
});

/** The tube with an empty between its bones, a bone that no skin lists, and a hook on that one. */
function withOddments(): Character {
  const target = tube();
  const nodes = [
    ...target.nodes,
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
  return { ...target, nodes, meshes: [...target.meshes, hook] };
}

describe('its own space', () => {
  it('is the one that it counts in: inches with Z up are as high along Z as the body along Y', () => {
    const clean = castCharacter('deckhand-clean.glb');
    const { held, character } = receive(clean, { ...easy, metresPerUnit: 0.0254, up: 'z' });
    const [there, here] = [bodyBox(held)!, bodyBox(clean)!];
    for (const end of ['min', 'max'] as const) expect(there[end][2] * 0.0254).toBeCloseTo(here[end][1], 5);
    expect(there.max[1] * -0.0254).toBeCloseTo(here.min[2], 5);
    const back = bodyBox(character)!;
    expect(back.max[1]).toBeCloseTo(here.max[1], 5);
  });
  it('costs what its floats cost, and clips play as they did', () => {
    const clean = castCharacter('deckhand-clean.glb');
    const { compared } = arrivedAsItIs(clean, { ...easy, metresPerUnit: 0.01, up: 'z' });
    const { max } = prove(compared, trialPoses(clean).slice(0, 20));
    expect(max).toBeGreaterThan(0);
    expect(max).toBeLessThan(5e-6);
    const { character, held } = receive(deckhand, { ...easy, metresPerUnit: 0.01, up: 'z' });
    const at = clipSeconds(deckhand.clips[0]) / 2;
    const [a, b] = [deckhand, character].map((character) => clipWorld(character, character.clips[0], at));
    for (let i = 0; i < deckhand.nodes.length; i++)
      for (let k = 12; k < 15; k++) expect(Math.abs(a[i * 16 + k] - b[i * 16 + k])).toBeLessThan(1e-5);
    expect(held.source).toMatchObject({ unitMetres: 0.01, upAxis: 'z' });
  });
});

describe('a skin that lists more bones than it takes', () => {
  it('loses the rest, and what hung on them hangs on what is left', () => {
    const { character, said } = receive(deckhand, { ...easy, bones: 30 });
    expect(said.find((s) => s.kind === 'lost')?.text).toMatch(
      /takes the first 30 and refuses the rest, on which \d+ points hang/,
    );
    for (const skin of character.skins) expect(skin.joints.length).toBeLessThanOrEqual(30);
    for (const { influences } of character.meshes) {
      if (!influences) continue;
      for (let vertex = 0; vertex + 1 < influences.offsets.length; vertex += 31)
        if (influences.offsets[vertex + 1] > influences.offsets[vertex])
          expect(
            influences.weight
              .subarray(influences.offsets[vertex], influences.offsets[vertex + 1])
              .reduce((x, y) => x + y, 0),
          ).toBeCloseTo(1, 5);
    }
    expect(brokenInvariants(character)).toEqual([]);
  });
});

describe('what it drops', () => {
  it('empties and bones in no skin, and what hung on them stays where it was', () => {
    const sent = withOddments();
    const { character, from, said } = receive(sent, { ...easy, empties: 'dropped', loneBones: 'dropped' });
    expect(character.nodes.map((node) => node.name)).toEqual(['lower', 'upper', 'tube', 'hook']);
    expect(said.filter((s) => s.kind === 'lost').map((s) => s.text)).toEqual([
      expect.stringContaining('“lone”'),
      expect.stringContaining('“helper”'),
    ]);
    const [before, after] = [restWorld(sent.nodes), restWorld(character.nodes)];
    const hook = character.nodes.findIndex((node) => node.name === 'hook');
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
      const rows = bones.map((bone) =>
        [...new Set(bone)].map((j): [number, number] => [j, 1 / new Set(bone).size]),
      );
      return { mesh: meshFrom(points, faces, influencesFrom(rows)), bones };
    });
  it('no face that fits is left out, and as many bones as there are need one draw', () => {
    fc.assert(
      fc.property(strip, fc.integer({ min: 1, max: 10 }), ({ mesh, bones }, limit) => {
        const faceBones = bones
          .slice(2)
          .map((_, i) => new Set([...bones[i], ...bones[i + 1], ...bones[i + 2]]));
        const draws = drawsOf(mesh, limit, Infinity);
        expect(draws.impossible).toBe(faceBones.filter((bone) => bone.size > limit).length);
        const all = new Set(bones.flat()).size;
        if (limit >= all) expect([draws.draws.length, draws.added]).toEqual([1, 0]);
        const drawn = draws.draws.flatMap((draw) => draw.polygons);
        const fits = faceBones.flatMap((bone, i) => (bone.size <= limit ? [i] : []));
        expect([...drawn].sort((a, b) => a - b)).toEqual(fits);
        for (const draw of draws.draws) expect(draw.joints.length).toBeLessThanOrEqual(limit);
      }),
    );
  });
  it('a body in draws has every face once, with the places and the weights that it had', () => {
    const sent = castCharacter('deckhand-clean.glb');
    const { character, origins, from, divided } = cutIntoDraws(sent, 24, 4000);
    expect(brokenInvariants(character)).toEqual([]);
    expect(divided.length).toBeGreaterThan(0);
    const faces = (character: Character) =>
      character.meshes.reduce((sum, mesh) => sum + mesh.polygonOffsets.length - 1, 0);
    expect(faces(character)).toBe(faces(sent));
    // Every face by the vertices of the mesh that it is of, whichever draw it is in.
    const facesOf = (
      character: Character,
      partOf: (node: number) => [number, ArrayLike<number> | undefined],
    ) =>
      character.nodes
        .flatMap((otherNode, i) => {
          if (otherNode.mesh < 0) return [];
          const { polygonOffsets, corners } = character.meshes[otherNode.mesh];
          const [node, vertices] = partOf(i);
          return Array.from({ length: polygonOffsets.length - 1 }, (_, polygon) =>
            [node, ...corners.subarray(polygonOffsets[polygon], polygonOffsets[polygon + 1])]
              .map((vertex, k) => (k > 0 && vertices ? vertices[vertex] : vertex))
              .join(),
          );
        })
        .sort();
    expect(facesOf(character, (i) => [from[i], origins.get(i)])).toEqual(
      facesOf(sent, (i) => [i, undefined]),
    );
    for (const [node, vertices] of origins) {
      const otherNode = character.nodes[node];
      const [mine, theirs] = [character.meshes[otherNode.mesh], sent.meshes[sent.nodes[from[node]].mesh]];
      expect(mine.vertexCount).toBeLessThanOrEqual(4000);
      const [influences, otherInfluences] = [mine.influences, theirs.influences];
      if (!influences || !otherInfluences) continue;
      const [skin, old] = [character.skins[otherNode.skin], sent.skins[sent.nodes[from[node]].skin]];
      expect(skin.joints.length).toBeLessThanOrEqual(24);
      for (let vertex = 0; vertex < mine.vertexCount; vertex += 53) {
        const row = (otherInfluences: typeof influences, joints: readonly number[], at: number) =>
          Array.from(
            otherInfluences.joint.subarray(otherInfluences.offsets[at], otherInfluences.offsets[at + 1]),
            (j, k) => [joints[j], otherInfluences.weight[otherInfluences.offsets[at] + k]],
          ).filter(([, w]) => w > 0);
        expect(row(influences, skin.joints, vertex)).toEqual(
          row(otherInfluences, old.joints, vertices[vertex]),
        );
        for (let k = 0; k < 3; k++)
          expect(mine.attributes.POSITION.data[vertex * 3 + k]).toBe(
            theirs.attributes.POSITION.data[vertices[vertex] * 3 + k],
          );
      }
    }
  });
  it('move no point in any pose, and every vertex that is drawn is compared', () => {
    const clean = castCharacter('deckhand-clean.glb');
    const { character, compared } = arrivedAsItIs(clean, { ...easy, bonesPerDraw: 24 });
    const proof = prove(compared, trialPoses(clean).slice(0, 20));
    expect(proof.max).toBeLessThan(1e-6);
    const shown = character.nodes.reduce(
      (least, node) => least + (node.mesh < 0 ? 0 : character.meshes[node.mesh].vertexCount),
      0,
    );
    expect(proof.compared).toBe(shown);
    expect(character.meshes.length).toBeGreaterThan(clean.meshes.length);
  });
  it('one that finds a face on too many bones leaves a hole, and says so', () => {
    const { character, said } = receive(deckhand, { ...easy, bonesPerDraw: 2 });
    expect(said.find((s) => s.kind === 'lost')?.text).toMatch(/need more than the 2 bones of a draw/);
    const faces = (character: Character) =>
      character.meshes.reduce((sum, mesh) => sum + mesh.polygonOffsets.length - 1, 0);
    expect(faces(character)).toBeLessThan(faces(deckhand));
    for (const { influences, polygonOffsets } of character.meshes)
      if (influences && polygonOffsets.length > 1)
        expect(new Set(influences.joint).size).toBeLessThanOrEqual(2);
  });
  it('a face alone on more bones than a draw knows is told, and what is divided says by which limit', () => {
    const rows = [0, 1, 2, 3].map((value): [number, number][] => [[value, 1]]);
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
    const three = drawsOf(two, 3, Infinity);
    expect(three).toMatchObject({ pieces: 1, added: 2, reason: 'a draw knows 3 bones' });
    expect(three.draws.map((draw) => draw.polygons)).toEqual([[0], [1]]);
    expect(drawsOf(two, 4, 3)).toMatchObject({ draws: { length: 2 }, reason: 'a draw holds 3 vertices' });
  });
});

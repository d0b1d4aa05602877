import { object } from 'yup';
import { defineCheck } from '@/core/contracts/check';
import { anything } from './support/promises';
import fc from 'fast-check';
import { briefById } from '@/core/house/briefs';
import { remedyById } from '@/core/house/registry';
import { audit, runCheck } from '@/core/house/audit';
import { RemedyError } from '@/core/contracts/remedy';
import { effectsOf } from '@/core/house/effects';
import { brokenInvariants } from '@/core/character/invariants';
import { placedMeshes } from '@/core/character/measure';
import { type Character, node } from '@/core/character/model';
import { oneRootCheck } from '@/core/rooms/skeleton/checks/one-root';
import { quatAbout } from '@/core/geometry/matrix';
import { placedPoints } from '@/core/character/deform';
import { pointsOf } from '@/core/character/points';
import { posedWorld } from '@/core/motion/pose';
import { castCharacter } from './support/cast';
import { meshFrom, tube } from './support/build';
import { real } from './support/random';

const handset = briefById('handset')!;
const apply = (character: Character, id: string, params: Record<string, unknown>) =>
  remedyById(id)!.apply(
    character,
    remedyById(id)!.params.validateSync(params) as Record<string, unknown>,
    handset,
  );

describe('baking the scale', () => {
  /** A unit cube under a scaled node, with a child that inherits the scale. */
  const cube = meshFrom(
    [
      [0, 0, 0],
      [1, 0, 0],
      [1, 1, 0],
      [0, 1, 0],
      [0, 0, 1],
      [1, 0, 1],
      [1, 1, 1],
      [0, 1, 1],
    ],
    [
      [3, 2, 1, 0],
      [4, 5, 6, 7],
      [0, 1, 5, 4],
      [2, 3, 7, 6],
      [1, 2, 6, 5],
      [3, 0, 4, 7],
    ],
  );
  const scene = (scale: number[], turn: readonly number[]): Character => ({
    ...tube(),
    meshes: [cube],
    skins: [],
    nodes: [
      node({ name: 'holder', scale, rotation: turn, translation: [1, 2, 3] }),
      node({
        name: 'box',
        kind: 'mesh',
        mesh: 0,
        parent: 0,
        translation: [0.5, 0, 0],
        rotation: quatAbout([0, 0, 1], 0.4),
      }),
      node({ name: 'other', kind: 'mesh', mesh: 0 }),
    ],
  });
  /** Volume of a closed mesh: Σ a·(b×c)/6. */
  const volume = (character: Character, i: number) => {
    const placed = placedMeshes(character).find((mesh) => mesh.node === i)!;
    let vertex = 0;
    for (let polygon = 0; polygon + 1 < placed.mesh.polygonOffsets.length; polygon++) {
      for (
        let k = placed.mesh.polygonOffsets[polygon] + 1;
        k < placed.mesh.polygonOffsets[polygon + 1] - 1;
        k++
      ) {
        const [a, b, d] = [
          placed.mesh.corners[placed.mesh.polygonOffsets[polygon]],
          placed.mesh.corners[k],
          placed.mesh.corners[k + 1],
        ].map((x) => Array.from(placed.points.subarray(x * 3, x * 3 + 3)));
        vertex +=
          (a[0] * (b[1] * d[2] - b[2] * d[1]) +
            a[1] * (b[2] * d[0] - b[0] * d[2]) +
            a[2] * (b[0] * d[1] - b[1] * d[0])) /
          6;
      }
    }
    return vertex;
  };
  it('moves no point, whatever the scale, the turn or the mirror, and leaves every node at 1', () => {
    const s = real(0.2, 3);
    fc.assert(
      fc.property(s, s, s, fc.constantFrom(1, -1), real(-3, 3), (x, y, z, flip, a) => {
        const before = scene([x * flip, y, z], quatAbout([0, 1, 0], a));
        const after = apply(before, 'bake-scale', { node: 0 });
        expect(brokenInvariants(after)).toEqual([]);
        expect(effectsOf(before, after, anything(before)).largestMove).toBeLessThan(1e-5);
        expect(after.nodes.every((node) => node.scale.every((k) => k === 1) && !node.matrix)).toBe(true);
        // Closed form: lengths s, volume s³; and a mirror leaves the faces looking outwards.
        expect(volume(after, 1)).toBeCloseTo(x * y * z, 3);
        expect(volume(after, 2)).toBeCloseTo(1, 9);
      }),
    );
  });
  it('keeps the deformation in every pose below an even scale, clips included', () => {
    const target = tube();
    const scaled: Character = {
      ...target,
      nodes: [
        node({ name: 'rig', scale: [2, 2, 2] }),
        ...target.nodes.slice(0, 2).map((node, i) => ({ ...node, parent: i === 0 ? 0 : 1 })),
        { ...target.nodes[2] },
      ],
      skins: [{ ...target.skins[0], joints: [1, 2] }],
    };
    const baked = apply(scaled, 'bake-scale', { node: 0 });
    fc.assert(
      fc.property(real(-3, 3), real(-3, 3), (a, b) => {
        const turns = new Map([
          [1, quatAbout([0, 0, 1], a)],
          [2, quatAbout([1, 0, 0], b)],
        ]);
        const points = placedPoints(scaled.meshes[0], scaled.skins[0], 3, posedWorld(scaled, turns));
        const rotation = placedPoints(baked.meshes[0], baked.skins[0], 3, posedWorld(baked, turns));
        for (let i = 0; i < points.length; i++)
          expect(Math.abs(points[i] - rotation[i])).toBeLessThan(1e-5 * 4);
      }),
      { numRuns: 20 },
    );
  });
  it('refuses a scale of nothing', () =>
    expect(() => apply(scene([0, 1, 1], [0, 0, 0, 1]), 'bake-scale', { node: 0 })).toThrow(RemedyError));
});

describe('merging points', () => {
  const quads = (gap: number) =>
    meshFrom(
      [
        [0, 0, 0],
        [1, 0, 0],
        [1, 1, 0],
        [0, 1, 0],
        [1 + gap, 0, 0],
        [2, 0, 0],
        [2, 1, 0],
        [1 + gap, 1, 0],
      ],
      [
        [0, 1, 2, 3],
        [4, 5, 6, 7],
      ],
    );
  const holding = (mesh: Character['meshes'][number]): Character => ({
    ...tube(),
    meshes: [mesh],
    skins: [],
    nodes: [node({ name: 'm', kind: 'mesh', mesh: 0 })],
  });
  it('joins two quads along an edge and leaves the rest alone', () => {
    const after = apply(holding(quads(5e-5)), 'merge-points', { node: 0, distance: 1e-4 });
    expect(brokenInvariants(after)).toEqual([]);
    expect([
      after.meshes[0].vertexCount,
      pointsOf(after.meshes[0]).pointCount,
      after.meshes[0].polygonOffsets.length - 1,
    ]).toEqual([6, 6, 2]);
  });
  it('does not close lips: points that face away from each other stay two', () => {
    const lips = meshFrom(
      [
        [0, 0, 0],
        [1, 0, 0],
        [1, 0, 1],
        [0, 0, 1],
        [0, 2e-5, 0],
        [1, 2e-5, 0],
        [1, 2e-5, 1],
        [0, 2e-5, 1],
      ],
      [
        [0, 1, 2, 3],
        [7, 6, 5, 4],
      ],
    );
    expect(() => apply(holding(lips), 'merge-points', { node: 0, distance: 1e-4 })).toThrow(/No two points/);
  });
  it('does not swallow a short edge', () =>
    expect(() =>
      apply(
        holding(
          meshFrom(
            [
              [0, 0, 0],
              [5e-5, 0, 0],
              [1, 1, 0],
              [0, 1, 0],
            ],
            [[0, 1, 2, 3]],
          ),
        ),
        'merge-points',
        { node: 0, distance: 1e-4 },
      ),
    ).toThrow(RemedyError));
  it('goes through a polygon of any number of corners', () => {
    const n = 150_000;
    const rim = Array.from({ length: n }, (_, i) => [
      100 * Math.cos((i * 2 * Math.PI) / n),
      100 * Math.sin((i * 2 * Math.PI) / n),
      0,
    ]);
    const plate = meshFrom(
      [...rim, [100.00005, 0, 0], [101, 0, 1], [101, 1, 1]],
      [rim.map((_, i) => i), [n, n + 1, n + 2]],
    );
    const [mesh] = apply(holding(plate), 'merge-points', { node: 0, distance: 1e-4 }).meshes;
    expect([mesh.vertexCount, [...mesh.polygonOffsets], mesh.corners[n]]).toEqual([n + 2, [0, n, n + 3], 0]);
  });
  it('mends the coat that was never merged', () => {
    const character = castCharacter('fine/deckhand.glb');
    const finding = audit(character, handset).find((otherFinding) => otherFinding.check === 'coincident')!;
    const after = apply(character, 'merge-points', finding.remedies[0].params);
    expect(audit(after, handset).some((otherFinding) => otherFinding.check === 'coincident')).toBe(false);
    expect(
      effectsOf(character, after, anything(character)).vertices[0] -
        effectsOf(character, after, anything(character)).vertices[1],
    ).toBe(20);
  });
});

describe('renaming', () => {
  const character = castCharacter('deckhand.glb');
  it('renames, and two names may change places', () => {
    const after = apply(character, 'rename', { table: { L_hand: 'R_hand', R_hand: 'L_hand' } });
    const at = (otherCharacter: Character, name: string) =>
      otherCharacter.nodes.findIndex((node) => node.name === name);
    expect(at(after, 'L_hand')).toBe(at(character, 'R_hand'));
    expect(after.meshes).toEqual(character.meshes);
  });
  it.each([
    [{ L_hand: 'R_hand' }, /Two bones would be called “R_hand”/],
    [{ L_hand: ' ' }, /without a name/],
    [{ nobody: 'x' }, /No name in the table/],
  ])('refuses %j', (table, sentence) =>
    expect(() => apply(character, 'rename', { table })).toThrow(sentence),
  );
});

describe('skeleton and weights', () => {
  const character = castCharacter('deckhand.glb');
  const at = (name: string) => character.nodes.findIndex((node) => node.name === name);
  it('re-hanging moves nothing at rest, and not under itself', () => {
    expect(
      effectsOf(
        character,
        apply(character, 're-hang', { bone: at('L_toes'), parent: at('L_foot') }),
        anything(character),
      ).largestMove,
    ).toBeLessThan(1e-6);
    expect(() => apply(character, 're-hang', { bone: at('L_upperarm'), parent: at('L_hand') })).toThrow(
      /hangs below it/,
    );
  });
  it('the root goes to the origin and the skin stays', () => {
    const after = apply(character, 'root-to-origin', { bone: at('base') });
    expect(effectsOf(character, after, anything(character)).largestMove).toBeLessThan(1e-6);
    expect(runCheck(oneRootCheck, after, handset)).toEqual([]);
  });
  it('weight given to the parent arrives there, all of it, and nowhere else', () => {
    const weigh = (otherCharacter: Character, name: string) => {
      let s = 0;
      otherCharacter.meshes.forEach((mesh, i) => {
        const joint = otherCharacter.skins[0].joints.indexOf(at(name));
        mesh.influences?.joint.forEach((j, k) => {
          if (j === joint) s += otherCharacter.meshes[i].influences!.weight[k];
        });
      });
      return s;
    };
    const after = apply(character, 'give-to-parent', { bone: at('cap_tip') });
    expect(weigh(after, 'cap_tip')).toBe(0);
    expect(weigh(after, 'cap')).toBeCloseTo(weigh(character, 'cap') + weigh(character, 'cap_tip'), 2);
    expect(weigh(after, 'head_c')).toBe(weigh(character, 'head_c'));
  });
  it('filling gives bare points their neighbours’ bones and leaves the others to the bit', () => {
    const after = apply(character, 'fill-weights', { limit: 4 });
    expect(audit(after, handset).some((finding) => finding.check === 'no-weight')).toBe(false);
    expect(after.meshes[0].influences).toBe(character.meshes[0].influences);
  });
});

describe('the audit', () => {
  it('turns a check that throws into a finding about itself', () => {
    const broken = defineCheck({
      id: 'broken',
      room: 'surface',
      title: 'Broken',
      why: 'x',
      settings: object({}),
      reads: [],
      run: () => {
        throw new Error('ran out of chalk');
      },
    });
    expect(runCheck(broken, tube(), handset)).toMatchObject([
      { check: 'broken', gravity: 'worth', message: expect.stringContaining('ran out of chalk') },
    ]);
  });
  it('finds a body and a skeleton of different sizes, and a wrong height', () => {
    const character = castCharacter('deckhand-clean.glb');
    const tall = {
      ...character,
      meshes: character.meshes.map((mesh) => ({
        ...mesh,
        attributes: {
          ...mesh.attributes,
          POSITION: {
            ...mesh.attributes.POSITION,
            data: (mesh.attributes.POSITION.data as Float32Array).map((x) => x * 1.4),
          },
        },
      })),
    };
    const checks = audit(tall, handset)
      .filter((finding) => finding.gravity === 'stops')
      .map((finding) => finding.check);
    expect(checks).toEqual(expect.arrayContaining(['height', 'skeleton-height']));
    expect(audit(tall, handset).find((finding) => finding.check === 'height')).toMatchObject({
      unit: 'm',
      expected: 1.76,
    });
  });
  it('tells scales apart: even, uneven, mirrored, inherited', () => {
    const kinds: [number[], RegExp][] = [
      [[2, 2, 2], /“thing” reads 1 but stands at 2 × 2 × 2: the unseen “hook” above is scaled evenly/],
      [[1, 2, 1], /scaled unevenly/],
      [[-1, 1, 1], /mirrored/],
    ];
    for (const [scale, sentence] of kinds) {
      const target = tube();
      const character: Character = {
        ...target,
        nodes: [
          ...target.nodes,
          node({ name: 'hook', scale }),
          node({ name: 'thing', kind: 'mesh', mesh: 0, parent: 3 }),
        ],
      };
      const found = audit(character, handset).filter((finding) => finding.check === 'inherited-scale');
      expect(found.length).toBe(1);
      expect(found[0].message).toMatch(sentence);
      expect(found[0].subject.name).toBe('thing');
      expect(found[0].message).toContain('“hook”');
    }
  });
  it('holds a skeleton with H-Anim names against H-Anim’s parents', () => {
    const rows: [string, number][] = [
      ['HumanoidRoot', -1],
      ['sacroiliac', 0],
      ['vl5', 0],
      ['l_hip', 1],
      ['l_knee', 3],
      ['l_ankle', 4],
      ['l_midtarsal', 5],
      ['r_hip', 1],
      ['r_knee', 7],
      ['r_ankle', 8],
      ['r_midtarsal', 9],
      ['skullbase', 2],
      ['l_shoulder', 2],
      ['l_elbow', 12],
      ['l_wrist', 13],
      ['r_shoulder', 2],
      ['r_elbow', 15],
      ['r_wrist', 13],
    ];
    const target = tube();
    const character: Character = {
      ...target,
      meshes: [],
      skins: [],
      nodes: rows.map(([name, parent]) => node({ name, parent, kind: 'bone' })),
    };
    const found = audit(character, { ...handset, tree: 'h-anim' }).filter(
      (finding) => finding.check === 'parents',
    );
    expect(found.map((finding) => [finding.subject.name, finding.measured, finding.expected])).toEqual([
      ['r_wrist', 'l_elbow', 'r_elbow'],
    ]);
  });
});

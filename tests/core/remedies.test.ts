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
const apply = (c: Character, id: string, params: Record<string, unknown>) =>
  remedyById(id)!.apply(c, remedyById(id)!.params.validateSync(params) as Record<string, unknown>, handset);

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
  const volume = (c: Character, i: number) => {
    const p = placedMeshes(c).find((x) => x.node === i)!;
    let v = 0;
    for (let q = 0; q + 1 < p.mesh.polygonOffsets.length; q++) {
      for (let k = p.mesh.polygonOffsets[q] + 1; k < p.mesh.polygonOffsets[q + 1] - 1; k++) {
        const [a, b, d] = [
          p.mesh.corners[p.mesh.polygonOffsets[q]],
          p.mesh.corners[k],
          p.mesh.corners[k + 1],
        ].map((x) => Array.from(p.points.subarray(x * 3, x * 3 + 3)));
        v +=
          (a[0] * (b[1] * d[2] - b[2] * d[1]) +
            a[1] * (b[2] * d[0] - b[0] * d[2]) +
            a[2] * (b[0] * d[1] - b[1] * d[0])) /
          6;
      }
    }
    return v;
  };
  it('moves no point, whatever the scale, the turn or the mirror, and leaves every node at 1', () => {
    const s = real(0.2, 3);
    fc.assert(
      fc.property(s, s, s, fc.constantFrom(1, -1), real(-3, 3), (x, y, z, flip, a) => {
        const before = scene([x * flip, y, z], quatAbout([0, 1, 0], a));
        const after = apply(before, 'bake-scale', { node: 0 });
        expect(brokenInvariants(after)).toEqual([]);
        expect(effectsOf(before, after, anything(before)).largestMove).toBeLessThan(1e-5);
        expect(after.nodes.every((n) => n.scale.every((k) => k === 1) && !n.matrix)).toBe(true);
        // Closed form: lengths s, volume s³; and a mirror leaves the faces looking outwards.
        expect(volume(after, 1)).toBeCloseTo(x * y * z, 3);
        expect(volume(after, 2)).toBeCloseTo(1, 9);
      }),
    );
  });
  it('keeps the deformation in every pose below an even scale, clips included', () => {
    const t = tube();
    const scaled: Character = {
      ...t,
      nodes: [
        node({ name: 'rig', scale: [2, 2, 2] }),
        ...t.nodes.slice(0, 2).map((n, i) => ({ ...n, parent: i === 0 ? 0 : 1 })),
        { ...t.nodes[2] },
      ],
      skins: [{ ...t.skins[0], joints: [1, 2] }],
    };
    const baked = apply(scaled, 'bake-scale', { node: 0 });
    fc.assert(
      fc.property(real(-3, 3), real(-3, 3), (a, b) => {
        const turns = new Map([
          [1, quatAbout([0, 0, 1], a)],
          [2, quatAbout([1, 0, 0], b)],
        ]);
        const p = placedPoints(scaled.meshes[0], scaled.skins[0], 3, posedWorld(scaled, turns));
        const q = placedPoints(baked.meshes[0], baked.skins[0], 3, posedWorld(baked, turns));
        for (let i = 0; i < p.length; i++) expect(Math.abs(p[i] - q[i])).toBeLessThan(1e-5 * 4);
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
    const c = castCharacter('deckhand.glb');
    const f = audit(c, handset).find((x) => x.check === 'coincident')!;
    const after = apply(c, 'merge-points', f.remedies[0].params);
    expect(audit(after, handset).some((x) => x.check === 'coincident')).toBe(false);
    expect(effectsOf(c, after, anything(c)).vertices[0] - effectsOf(c, after, anything(c)).vertices[1]).toBe(
      20,
    );
  });
});

describe('renaming', () => {
  const c = castCharacter('deckhand.glb');
  it('renames, and two names may change places', () => {
    const after = apply(c, 'rename', { table: { L_hand: 'R_hand', R_hand: 'L_hand' } });
    const at = (x: Character, n: string) => x.nodes.findIndex((k) => k.name === n);
    expect(at(after, 'L_hand')).toBe(at(c, 'R_hand'));
    expect(after.meshes).toEqual(c.meshes);
  });
  it.each([
    [{ L_hand: 'R_hand' }, /Two bones would be called “R_hand”/],
    [{ L_hand: ' ' }, /without a name/],
    [{ nobody: 'x' }, /No name in the table/],
  ])('refuses %j', (table, sentence) => expect(() => apply(c, 'rename', { table })).toThrow(sentence));
});

describe('skeleton and weights', () => {
  const c = castCharacter('deckhand.glb');
  const at = (n: string) => c.nodes.findIndex((x) => x.name === n);
  it('re-hanging moves nothing at rest, and not under itself', () => {
    expect(
      effectsOf(c, apply(c, 're-hang', { bone: at('L_toes'), parent: at('L_foot') }), anything(c))
        .largestMove,
    ).toBeLessThan(1e-6);
    expect(() => apply(c, 're-hang', { bone: at('L_upperarm'), parent: at('L_hand') })).toThrow(
      /hangs below it/,
    );
  });
  it('the root goes to the origin and the skin stays', () => {
    const after = apply(c, 'root-to-origin', { bone: at('base') });
    expect(effectsOf(c, after, anything(c)).largestMove).toBeLessThan(1e-6);
    expect(runCheck(oneRootCheck, after, handset)).toEqual([]);
  });
  it('weight given to the parent arrives there, all of it, and nowhere else', () => {
    const weigh = (x: Character, n: string) => {
      let s = 0;
      x.meshes.forEach((m, i) => {
        const joint = x.skins[0].joints.indexOf(at(n));
        m.influences?.joint.forEach((j, k) => {
          if (j === joint) s += x.meshes[i].influences!.weight[k];
        });
      });
      return s;
    };
    const after = apply(c, 'give-to-parent', { bone: at('cap_tip') });
    expect(weigh(after, 'cap_tip')).toBe(0);
    expect(weigh(after, 'cap')).toBeCloseTo(weigh(c, 'cap') + weigh(c, 'cap_tip'), 2);
    expect(weigh(after, 'head_c')).toBe(weigh(c, 'head_c'));
  });
  it('filling gives bare points their neighbours’ bones and leaves the others to the bit', () => {
    const after = apply(c, 'fill-weights', { limit: 4 });
    expect(audit(after, handset).some((f) => f.check === 'no-weight')).toBe(false);
    expect(after.meshes[0].influences).toBe(c.meshes[0].influences);
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
    const c = castCharacter('deckhand-clean.glb');
    const tall = {
      ...c,
      meshes: c.meshes.map((m) => ({
        ...m,
        attributes: {
          ...m.attributes,
          POSITION: {
            ...m.attributes.POSITION,
            data: (m.attributes.POSITION.data as Float32Array).map((x) => x * 1.4),
          },
        },
      })),
    };
    const checks = audit(tall, handset)
      .filter((f) => f.gravity === 'stops')
      .map((f) => f.check);
    expect(checks).toEqual(expect.arrayContaining(['height', 'skeleton-height']));
    expect(audit(tall, handset).find((f) => f.check === 'height')).toMatchObject({
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
      const t = tube();
      const c: Character = {
        ...t,
        nodes: [
          ...t.nodes,
          node({ name: 'hook', scale }),
          node({ name: 'thing', kind: 'mesh', mesh: 0, parent: 3 }),
        ],
      };
      const found = audit(c, handset).filter((f) => f.check === 'inherited-scale');
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
    const t = tube();
    const c: Character = {
      ...t,
      meshes: [],
      skins: [],
      nodes: rows.map(([name, parent]) => node({ name, parent, kind: 'bone' })),
    };
    const found = audit(c, { ...handset, tree: 'h-anim' }).filter((f) => f.check === 'parents');
    expect(found.map((f) => [f.subject.name, f.measured, f.expected])).toEqual([
      ['r_wrist', 'l_elbow', 'r_elbow'],
    ]);
  });
});

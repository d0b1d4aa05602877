/** Joints at the loops modelled for them: loops found on made tubes, pockets by their distances, the check and its remedy. */
import fc from 'fast-check';
import { restPlace } from '@/core/character/hierarchy';
import { placedMeshes } from '@/core/character/measure';
import { withJointsAt } from '@/core/character/place-joints';
import { edgeLoopThrough } from '@/core/geometry/edge-loops';
import { halfEdgesOf } from '@/core/geometry/half-edges';
import { type Vec3, distance } from '@/core/geometry/matrix';
import type { Brief } from '@/core/house/brief';
import { briefById } from '@/core/house/briefs';
import { previewRemedy } from '@/core/house/preview';
import { checkById, remedyById } from '@/core/house/registry';
import { type LimbLoop, jointLoopsOf, pocketAmong } from '@/core/anatomy/joint-loops';
import { limbDirection } from '@/core/anatomy/limb-middle';
import { castCharacter } from './support/cast';

const brief = briefById('handset')!;
const check = checkById('joint-at-loops')!;
const clean = castCharacter('fine/deckhand-clean.glb');
const nodeOf = (name: string) => clean.nodes.findIndex((node) => node.name === name);

/** A torus of quads: its rows and its columns are the loops, and it has nothing else. */
function torus(rows: number, columns: number) {
  const at = (i: number, j: number) => (i % rows) * columns + (j % columns);
  const corners: number[] = [];
  for (let i = 0; i < rows; i++)
    for (let j = 0; j < columns; j++) corners.push(at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1));
  const offsets = Uint32Array.from({ length: rows * columns + 1 }, (_, i) => i * 4);
  return { offsets, corners: Uint32Array.from(corners), count: rows * columns };
}

const oneToOne = (count: number) => Uint32Array.from({ length: count }, (_, i) => i);

describe('loops of edges', () => {
  it('of a torus are its rows and its columns, each edge in just one', () => {
    fc.assert(
      fc.property(fc.integer({ min: 3, max: 12 }), fc.integer({ min: 3, max: 12 }), (rows, columns) => {
        const { offsets, corners, count } = torus(rows, columns);
        const half = halfEdgesOf(offsets, corners, oneToOne(count), count);
        const seen = new Set<number>();
        const lengths: number[] = [];
        for (let edge = 0; edge < corners.length; edge++) {
          if (seen.has(half.edge[edge])) continue;
          const loop = edgeLoopThrough(half, edge)!;
          for (const one of loop) seen.add(half.edge[one]);
          lengths.push(loop.length);
        }
        const wanted = [...Array(columns).fill(rows), ...Array(rows).fill(columns)] as number[];
        expect(lengths.sort((one, other) => one - other)).toEqual(wanted.sort((one, other) => one - other));
      }),
    );
  });

  it('end at a border, and where three edges meet', () => {
    // A grid of 2 by 2 quads has borders all round.
    const corners = Uint32Array.of(0, 1, 4, 3, 1, 2, 5, 4, 3, 4, 7, 6, 4, 5, 8, 7);
    const half = halfEdgesOf(Uint32Array.of(0, 4, 8, 12, 16), corners, oneToOne(9), 9);
    for (let edge = 0; edge < corners.length; edge++) expect(edgeLoopThrough(half, edge)).toBeNull();
    // A cube: three edges at every corner.
    const cube = Uint32Array.of(0, 3, 2, 1, 4, 5, 6, 7, 0, 1, 5, 4, 1, 2, 6, 5, 2, 3, 7, 6, 3, 0, 4, 7);
    const ofCube = halfEdgesOf(Uint32Array.of(0, 4, 8, 12, 16, 20, 24), cube, oneToOne(8), 8);
    for (let edge = 0; edge < cube.length; edge++) expect(edgeLoopThrough(ofCube, edge)).toBeNull();
  });
});

const loopsAt = (...along: number[]): LimbLoop[] =>
  along.map((where) => ({ along: where, middle: [0, -where, 0], radius: 0.5 }));

describe('the pocket among the loops of a limb', () => {
  it('is the loops that lie closer, wherever the joint stands beside them', () => {
    for (const shift of [0, 0.3, -0.7, 1.4]) {
      const pocket = pocketAmong(
        loopsAt(...[-4, -3, -2, -1, -0.4, 0, 0.4, 1, 2, 3, 4].map((x) => x + shift)),
      )!;
      expect([pocket.loops, Number(pocket.along.toFixed(9))]).toEqual([5, shift]);
      pocket.middle.forEach((x, k) => expect(x).toBeCloseTo(k === 1 ? -shift : 0, 9));
    }
  });

  it('is none where loops lie evenly, only grow finer one way, or are too few', () => {
    expect(pocketAmong(loopsAt(-4, -3, -2, -1, 0, 1, 2, 3, 4))).toBeNull();
    expect(pocketAmong(loopsAt(-4, -2.5, -1.4, -0.6, 0, 0.4, 0.7, 0.9, 1.05))).toBeNull();
    expect(pocketAmong(loopsAt(-1, -0.3, 0, 0.3, 1))).toBeNull();
    // One loop set askew makes no pocket.
    expect(pocketAmong(loopsAt(-4, -3, -2, -1, -0.4, 1, 2, 3, 4))).toBeNull();
  });

  it('does not depend on how large the limb is', () => {
    const along = [-4, -3, -2, -1, -0.4, 0, 0.4, 1, 2, 3, 4];
    fc.assert(
      fc.property(fc.double({ min: 1e-4, max: 1e4, noNaN: true }), (size) => {
        expect(pocketAmong(loopsAt(...along.map((x) => x * size)))?.loops).toBe(5);
      }),
    );
  });
});

describe('a joint beside its loops', () => {
  const moved = (name: string, by: number) => {
    const bone = nodeOf(name);
    const way = limbDirection(clean, bone)!;
    const here = restPlace(clean.nodes, bone);
    const place = here.map((x, k) => x + by * way[k]) as unknown as Vec3;
    return withJointsAt(clean, new Map([[bone, place]]));
  };
  const asking: Brief = { ...brief, jointLoops: 0.5 };

  it('of the clean cast none is told, and many of their limbs have loops that tell it', () => {
    for (const file of ['deckhand-clean.glb', 'stoker.dae', 'heron.glb']) {
      const character = castCharacter(`fine/${file}`);
      expect([file, jointLoopsOf(character).length >= 6, check.run(character, brief)]).toEqual([
        file,
        true,
        [],
      ]);
    }
    expect(check.run(clean, { ...brief, jointLoops: null })).toEqual([]);
  });

  it.each([
    ['arm_lower_lt', 0.06],
    ['leg_lower_rt', -0.08],
  ])('%s, moved along its limb: told by how much, and put back', (name, by) => {
    const bone = nodeOf(name);
    const wrong = moved(name, by);
    const findings = check.run(wrong, asking);
    expect(findings.map(({ subject }) => subject.name)).toEqual([name]);
    const [{ message, measured, remedies }] = findings;
    expect(message).toMatch(by > 0 ? /stands below the \d+ loops/ : /stands above the \d+ loops/);
    const before = jointLoopsOf(clean).find((joint) => joint.bone === bone)!;
    const off = (Math.abs(by - before.pocket.along) / before.radius) * 100;
    // Half of the limb on either side is looked at, which moves along with the joint.
    expect(Math.abs((measured as number) - off)).toBeLessThan(off / 3);
    const remedy = remedyById('centre-joints')!;
    const params = remedy.params.cast(remedies![0].params) as Record<string, unknown>;
    const { after, effects } = previewRemedy(remedy, wrong, params, asking);
    expect([effects.outside, check.run(after, asking)]).toEqual([[], []]);
    expect(distance(restPlace(after.nodes, bone), before.pocket.middle)).toBeLessThan(0.02);
    placedMeshes(wrong).forEach(({ points }, i) => {
      const now = placedMeshes(after)[i].points;
      expect(Math.max(...points.map((x, k) => Math.abs(x - now[k])))).toBeLessThan(2e-6);
    });
  });

  it('many joints go into the middle of their limbs at once; where none has a limb that is said', () => {
    const remedy = remedyById('centre-joints')!;
    const bones = ['arm_lower_lt', 'arm_lower_rt', 'leg_lower_lt', 'leg_lower_rt'].map(nodeOf);
    const after = remedy.apply(clean, { bones, to: 'middle', share: 0.5 }, brief);
    for (const row of remedy.rows(after, { bones, to: 'middle', share: 0.5 }, brief))
      expect(row.value).toBeCloseTo(0, 2);
    expect(() => remedy.apply(clean, { bones: [nodeOf('head')], to: 'loops', share: 0.5 }, brief)).toThrow(
      /no loops that lie closer/,
    );
    const outside = remedy.apply(clean, { bones: [bones[2]], to: 'outside', share: 0.5 }, brief);
    // A knee bends back: its outside lies before it.
    const [before, now] = [clean, outside].map(({ nodes }) => restPlace(nodes, bones[2])[2]);
    expect(now).toBeGreaterThan(before + 0.01);
  });
});

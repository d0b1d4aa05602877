/**
 * Exact edits of weights. Held as properties: sums stay one, locked bones stay, untouched points keep their bits, what is asked for
 * is what comes, as far as there is room for it.
 */
import fc from 'fast-check';
import { meshSidesOf } from '@/core/anatomy/mesh-sides';
import { partsOf } from '@/core/anatomy/parts';
import { PointWeights } from '@/core/character/point-weights';
import type { Character } from '@/core/character/model';
import { influencesFrom } from '@/core/geometry/influences';
import {
  type WeightShares,
  blendedShares,
  limitedShares,
  meanShares,
  normalisedShares,
  towardsShares,
  withShare,
} from '@/core/geometry/row-edits';
import { smoothedRows } from '@/core/geometry/smooth-rows';
import { topologyOf } from '@/core/character/topology';
import { placesOfPoints } from '@/core/character/point-places';
import { briefById } from '@/core/house/briefs';
import { remedyById } from '@/core/house/registry';
import { NothingToDo, RemedyError } from '@/core/contracts/remedy';
import { oddTwins } from '@/core/rooms/weights/sides';
import { rowsOfMesh, sharesOfMesh, stepBetween } from '@/core/rooms/weights/steps';
import { castCharacter } from './support/cast';
import { chainTube } from './support/chain';
import { real } from './support/random';

const brief = briefById('handset')!;

const sumOf = (row: WeightShares): number => [...row.values()].reduce((sum, share) => sum + share, 0);

/** A row of up to five joints that sums to one. */
const rows = fc
  .uniqueArray(fc.tuple(fc.integer({ min: 0, max: 9 }), real(0.01, 1)), {
    minLength: 1,
    maxLength: 5,
    selector: ([joint]) => joint,
  })
  .map((entries) => normalisedShares(new Map(entries)));
const locks = fc.uniqueArray(fc.integer({ min: 0, max: 9 }), { maxLength: 4 }).map((list) => new Set(list));

describe('a share that is set', () => {
  it('is what was asked for, as far as locked bones leave room; sums stay one and locked bones stay', () => {
    fc.assert(
      fc.property(rows, fc.integer({ min: 0, max: 9 }), real(0, 1), locks, (row, joint, wanted, locked) => {
        const after = withShare(row, joint, wanted, { locked, otherwise: 20 });
        expect(sumOf(after)).toBeCloseTo(1, 5);
        for (const lock of locked) expect(after.get(lock) ?? 0).toBeCloseTo(row.get(lock) ?? 0, 5);
        if (locked.has(joint)) return;
        const held = [...row].reduce(
          (sum, [other, share]) => sum + (other !== joint && locked.has(other) ? share : 0),
          0,
        );
        expect(after.get(joint) ?? 0).toBeCloseTo(Math.min(wanted, 1 - held), 4);
      }),
    );
  });
  it('leaves the others in the proportion that they had', () => {
    const after = withShare(
      new Map([
        [0, 0.2],
        [1, 0.6],
        [2, 0.2],
      ]),
      0,
      0.5,
      { locked: new Set(), otherwise: -1 },
    );
    expect(after.get(1)! / after.get(2)!).toBeCloseTo(3, 6);
    expect(after.get(0)).toBeCloseTo(0.5, 6);
  });
  it('goes to the bone above where nobody else is there, and stays where there is none', () => {
    const alone: WeightShares = new Map([[3, 1]]);
    const free = new Set<number>();
    expect(withShare(alone, 3, 0.25, { locked: free, otherwise: 7 })).toEqual(
      new Map([
        [7, 0.75],
        [3, 0.25],
      ]),
    );
    expect(withShare(alone, 3, 0.25, { locked: free, otherwise: -1 })).toBe(alone);
    expect(withShare(alone, 3, 0.25, { locked: new Set([7]), otherwise: 7 })).toBe(alone);
  });
});

describe('rows that are blended, meant and limited', () => {
  it('sum to one, and lie between those that they come from', () => {
    fc.assert(
      fc.property(rows, rows, real(0, 1), locks, (one, other, way, locked) => {
        const blend = blendedShares(one, other, way);
        expect(sumOf(blend)).toBeCloseTo(1, 5);
        for (const [joint, share] of blend) {
          const ends = [one.get(joint) ?? 0, other.get(joint) ?? 0];
          expect(share).toBeGreaterThanOrEqual(Math.min(...ends) - 1e-5);
          expect(share).toBeLessThanOrEqual(Math.max(...ends) + 1e-5);
        }
        const towards = towardsShares(one, other, way, locked);
        expect(sumOf(towards)).toBeCloseTo(1, 5);
        for (const lock of locked)
          if (one.has(lock)) expect(towards.get(lock)).toBeCloseTo(one.get(lock)!, 4);
        expect(sumOf(meanShares([one, other]))).toBeCloseTo(1, 5);
        expect(limitedShares(blend, 2).size).toBeLessThanOrEqual(2);
        expect(sumOf(limitedShares(blend, 2))).toBeCloseTo(1, 5);
      }),
    );
  });
});

/** A tube on four bones, and the remedies done to it. */
const tube = chainTube(4);
const TUBE = 4;
const done = (id: string, character: Character, params: object): Character => {
  const remedy = remedyById(id)!;
  return remedy.apply(character, remedy.params.validateSync(params) as Record<string, unknown>, brief);
};
const rowAt = (character: Character, point: number, node = TUBE) => {
  const shares = sharesOfMesh(character.meshes[character.nodes[node].mesh])!;
  const { joints } = character.skins[character.nodes[node].skin];
  return joints.map((_, joint) => shares.shareOf(point, joint));
};
const CHOSEN = [{ node: TUBE, ids: [80, 81, 82, 83] }];

describe('on chosen points', () => {
  it('a weight is set, added to, taken from, scaled and blended, and no other point changes a bit', () => {
    const before = tube.meshes[0].influences!;
    const cases: readonly [string, number, (share: number) => number][] = [
      ['set', 0.3, () => 0.3],
      ['add', 0.2, (share) => share + 0.2],
      ['take', 0.1, (share) => share - 0.1],
      ['scale', 0.5, (share) => share * 0.5],
      ['blend', 0.8, (share) => (share + 0.8) / 2],
    ];
    for (const [how, value, wanted] of cases) {
      const after = done('edit-weights', tube, { vertices: CHOSEN, bone: 1, how, value });
      for (const point of CHOSEN[0].ids) {
        expect(rowAt(after, point)[1]).toBeCloseTo(
          Math.min(1, Math.max(0, wanted(rowAt(tube, point)[1]))),
          5,
        );
        expect(rowAt(after, point).reduce((sum, share) => sum + share, 0)).toBeCloseTo(1, 5);
      }
      const { offsets, weight } = after.meshes[0].influences!;
      for (let vertex = 0; vertex < 80; vertex++)
        expect([...weight.subarray(offsets[vertex], offsets[vertex + 1])]).toEqual([
          ...before.weight.subarray(before.offsets[vertex], before.offsets[vertex + 1]),
        ]);
    }
  });
  it('locked bones keep what they have', () => {
    const after = done('edit-weights', tube, { vertices: CHOSEN, bone: 3, value: 1, locked: [1] });
    for (const point of CHOSEN[0].ids) {
      expect(rowAt(after, point)[1]).toBeCloseTo(rowAt(tube, point)[1], 5);
      expect(rowAt(after, point)[3]).toBeCloseTo(1 - rowAt(tube, point)[1], 5);
    }
  });
  it('a bone that no skin lists is taken in where it stands, and at rest nothing moves', () => {
    const joints = tube.skins[0].joints.slice(0, 3);
    const cut: Character = {
      ...tube,
      skins: [{ ...tube.skins[0], joints, inverseBinds: tube.skins[0].inverseBinds.slice(0, 48) }],
      meshes: [
        {
          ...tube.meshes[0],
          influences: influencesFrom(Array.from({ length: tube.meshes[0].vertexCount }, () => [[2, 1]])),
        },
      ],
    };
    const after = done('edit-weights', cut, { vertices: CHOSEN, bone: 3, value: 1 });
    expect(after.skins[0].joints).toEqual([0, 1, 2, 3]);
    expect([...after.skins[0].inverseBinds.slice(48)]).toEqual([...tube.skins[0].inverseBinds.slice(48)]);
    expect(rowAt(after, 80)[3]).toBe(1);
  });
  it('a bone is taken out here, on the mesh and everywhere', () => {
    const here = done('take-bone-out', tube, { vertices: CHOSEN, bone: 1 });
    const pulls = (character: Character) =>
      rowsOfMesh(character.meshes[0]).filter((row) => row.has(1)).length;
    expect(rowAt(here, 80)[1]).toBe(0);
    expect(pulls(here)).toBe(pulls(tube) - CHOSEN[0].ids.filter((id) => rowAt(tube, id)[1] > 0).length);
    expect(pulls(done('take-bone-out', tube, { vertices: CHOSEN, bone: 1, where: 'mesh' }))).toBe(0);
    expect(pulls(done('take-bone-out', tube, { vertices: CHOSEN, bone: 1, where: 'everywhere' }))).toBe(0);
  });
  it('points are shared between two bones, or all get the same', () => {
    const split = done('split-between', tube, { vertices: CHOSEN, bone: 0, other: 3, share: 0.25 });
    expect(rowAt(split, 81)).toEqual([0.25, 0, 0, 0.75]);
    const wide = [{ node: TUBE, ids: [0, 80, 160, 240] }];
    const even = done('average-weights', tube, { vertices: wide });
    for (const id of wide[0].ids) expect(rowAt(even, id)).toEqual(rowAt(even, 0));
    for (let bone = 0; bone < 4; bone++)
      expect(rowAt(even, 0)[bone]).toBeCloseTo(
        wide[0].ids.reduce((sum, id) => sum + rowAt(tube, id)[bone] / 4, 0),
        5,
      );
    expect(() => done('split-between', tube, { vertices: CHOSEN, bone: 0, other: 0 })).toThrow(RemedyError);
  });
  it('how far the farthest bone that pulls them is stands in the preview, before weight goes far away', () => {
    const { rows, params } = remedyById('split-between')!;
    const asked = params.validateSync({ vertices: CHOSEN, bone: 0, other: 3 }) as Record<string, unknown>;
    const farthest = (character: Character) =>
      rows(character, asked, brief).find(({ label }) => label.startsWith('Farthest of these'))!.value;
    // They lie round the end of the first bone, 12 cm from it; the fourth begins a metre farther on.
    expect(farthest(tube)).toBe(120);
    const after = done('split-between', tube, { vertices: CHOSEN, bone: 0, other: 3 });
    expect(farthest(after)).toBe(Math.round(1000 * Math.hypot(1, 0.12)));
    // A share that nobody sees pulls nothing.
    const hardly = done('split-between', tube, { vertices: CHOSEN, bone: 0, other: 3, share: 0.995 });
    expect(farthest(hardly)).toBe(120);
  });
  it('some of a bone fades along the surface to nothing at the distance', () => {
    const ring = [{ node: TUBE, ids: Array.from({ length: 8 }, (_, k) => 160 + k) }];
    const after = done('fade-weight', tube, { vertices: ring, bone: 0, share: 0.4, distance: 0.2 });
    // Rings are 0.05 apart; two of the four lie within the distance on either side, and the fourth is at its end.
    const shares = [0, 1, 2, 3, 4, 5].map((row) => rowAt(after, 160 + row * 8)[0]);
    expect(shares[0]).toBeCloseTo(0.4, 5);
    // Half way the curve has half of it.
    expect(shares[2]).toBeCloseTo(0.2, 3);
    for (let row = 1; row < 5; row++) expect(shares[row]).toBeLessThan(shares[row - 1]);
    expect(rowAt(after, 160 + 5 * 8)).toEqual(rowAt(tube, 160 + 5 * 8));
  });
  it('a joint gets a band of a given width, half and half in its middle', () => {
    const after = done('set-band', tube, { bone: 2, width: 0.2 });
    // The joint is at 1, where the ring 20 is.
    expect(rowAt(after, 20 * 8)[2]).toBeCloseTo(0.5, 5);
    expect(rowAt(after, 22 * 8)[2]).toBeCloseTo(1, 5);
    expect(rowAt(after, 18 * 8)[1]).toBeCloseTo(1, 5);
    expect(rowAt(after, 21 * 8)[2]).toBeCloseTo(0.75 ** 2 * 1.5, 5);
    expect(() => done('set-band', after, { bone: 2, width: 0.2 })).toThrow(NothingToDo);
    expect(() => done('set-band', tube, { bone: 0 })).toThrow(/no bone above it/);
  });
});

describe('weights that are smoothed', () => {
  it('stay within what they and their neighbours had, sum to one, and level out in the end', () => {
    const [mesh] = tube.meshes;
    const weights = new PointWeights(mesh);
    const points = Array.from({ length: 80 }, (_, k) => 120 + k);
    const settings = { strength: 0.7, locked: new Set<number>(), softRings: 0 };
    const smooth = (rounds: number) =>
      smoothedRows(
        points,
        (point) => weights.rowOf(point),
        topologyOf(mesh).neighbours,
        placesOfPoints(mesh),
        {
          ...settings,
          rounds,
        },
      );
    const most = [0, 1, 2, 3].map((joint) => Math.max(...rowsOfMesh(mesh).map((row) => row.get(joint) ?? 0)));
    for (const row of smooth(10)) {
      expect(sumOf(row)).toBeCloseTo(1, 5);
      for (const [joint, share] of row) expect(share).toBeLessThanOrEqual(most[joint] + 1e-6);
    }
    // The harmonic function on a tube is linear along it (closed form): its rim is fixed.
    const long = smooth(4000);
    const [low, high] = [rowsOfMesh(mesh)[112], rowsOfMesh(mesh)[200]];
    for (let ring = 0; ring < 10; ring++) {
      const share = (ring + 1) / 11;
      const wanted = blendedShares(low, high, share);
      expect(stepBetween(long[ring * 8], wanted)).toBeLessThan(0.01);
    }
  });
});

describe('weights that are mirrored', () => {
  const deckhand = castCharacter('deckhand-clean.glb');
  const body = deckhand.nodes.findIndex(({ name }) => name === 'body');
  it('leave a body alone that is alike, and bring back a side that was brushed', () => {
    expect(oddTwins(deckhand, body).differing).toEqual([]);
    const { twins, plane, places } = meshSidesOf(deckhand, body)!;
    const left = [...twins.keys()].filter(
      (point) => twins[point] >= 0 && places[point * 3] * plane.normal[0] > 0.3,
    );
    const { vertexOfPoint } = new PointWeights(deckhand.meshes[deckhand.nodes[body].mesh]);
    const ids = left.slice(0, 40).map((point) => vertexOfPoint[point]);
    const head = deckhand.nodes.findIndex(({ name }) => name === 'head');
    const brushed = done('edit-weights', deckhand, {
      vertices: [{ node: body, ids }],
      bone: head,
      value: 0.5,
    });
    expect(oddTwins(brushed, body).differing.length).toBe(80);
    const back = done('mirror-weights', brushed, { node: body, from: 'right' });
    expect(oddTwins(back, body).differing).toEqual([]);
    const [was, is] = [deckhand, back].map((character) =>
      rowsOfMesh(character.meshes[character.nodes[body].mesh]),
    );
    was.forEach((row, point) => expect(stepBetween(row, is[point])).toBeLessThan(0.02));
  });
});

describe('weights of bones whose twins are not known', () => {
  const clean = castCharacter('deckhand-clean.glb');
  const body = clean.nodes.findIndex(({ name }) => name === 'body');
  const finger = clean.nodes.findIndex(({ name }) => name === 'point_2_lt');
  const renamed: Character = {
    ...clean,
    nodes: clean.nodes.map((own, i) => (i === finger ? { ...own, name: 'point_2_lt_copy_of' } : own)),
  };
  it('are left where they are by a mirror, and counted, in place of given to the other side', () => {
    const { joints } = renamed.skins[renamed.nodes[body].skin];
    const joint = joints.indexOf(finger);
    const pulled = (character: Character) =>
      rowsOfMesh(character.meshes[character.nodes[body].mesh]).flatMap((row, point) =>
        row.has(joint) ? [point] : [],
      );
    const { unknown } = oddTwins(renamed, body);
    expect(unknown).toBeGreaterThan(0);
    const { vertexOfPoint } = new PointWeights(renamed.meshes[renamed.nodes[body].mesh]);
    const ids = Array.from(vertexOfPoint).slice(0, 400);
    const head = renamed.nodes.findIndex(({ name }) => name === 'head');
    const brushed = done('edit-weights', renamed, {
      vertices: [{ node: body, ids }],
      bone: head,
      value: 0.3,
    });
    const mirrored = done('mirror-weights', brushed, { node: body, from: 'left' });
    expect(pulled(mirrored)).toEqual(pulled(brushed));
  });
  it('take in no bone that carries nothing', () => {
    const { joints } = clean.skins[clean.nodes[body].skin];
    const ids = [0, 1, 2, 3];
    const head = clean.nodes.findIndex(({ name }) => name === 'head');
    const brushed = done('edit-weights', clean, { vertices: [{ node: body, ids }], bone: head, value: 0.3 });
    const mirrored = done('mirror-weights', brushed, { node: body, from: 'right' });
    expect(mirrored.skins[mirrored.nodes[body].skin].joints).toEqual(joints);
  });
});

describe('rows that are limited', () => {
  it('keep what is locked, and the heaviest of the others', () => {
    fc.assert(
      fc.property(rows, fc.integer({ min: 1, max: 4 }), locks, (row, limit, locked) => {
        const after = limitedShares(row, limit, locked);
        const held = [...row.keys()].filter((joint) => locked.has(joint));
        expect(after.size).toBeLessThanOrEqual(Math.max(limit, held.length));
        expect(sumOf(after)).toBeCloseTo(1, 5);
        if (held.length < row.size && held.length < limit)
          for (const joint of held) expect(after.get(joint)).toBeCloseTo(row.get(joint)!, 5);
      }),
    );
  });
});

describe('parts that are made rigid', () => {
  it('go with one bone, are marked, and the check is quiet', () => {
    const deckhand = castCharacter('deckhand-clean.glb');
    const part = partsOf(deckhand).find(({ drivers, points }) => drivers.length > 1 && points < 6000)!;
    const [{ node: bone }] = part.drivers;
    const polygons = [{ node: part.node, ids: [part.polygons[0]] }];
    const rigid = done('make-rigid', deckhand, { polygons, bone });
    const made = partsOf(rigid).find(({ node, island }) => node === part.node && island === part.island)!;
    expect(made.drivers).toEqual([{ node: bone, share: 1 }]);
    expect(made.isRigid).toBe(true);
    expect(() => done('make-rigid', rigid, { polygons, bone })).toThrow(NothingToDo);
  });
});

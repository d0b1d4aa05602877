/**
 * What the hand does: cross-sections and limb middles against closed forms, joints moved, drafts taken back
 * and done again, edits packed and pointed anew.
 */
import fc from 'fast-check';
import { restPlace } from '@/core/character/hierarchy';
import { placedMeshes } from '@/core/character/measure';
import { pointsOf } from '@/core/character/points';
import type { Character } from '@/core/character/model';
import { cutByPlane } from '@/core/geometry/cross-section';
import { briefById } from '@/core/house/briefs';
import { Draft } from '@/core/house/draft';
import {
  type Patch,
  applyPatches,
  packPatches,
  refitPatches,
  titleOf,
  unpackPatches,
} from '@/core/house/edit';
import { limbMiddle } from '@/core/anatomy/limb-middle';
import { remedyById } from '@/core/house/registry';
import { meshFrom, tube } from './support/build';
import { castCharacter } from './support/cast';
import { box } from './support/figure';

const brief = briefById('handset')!;

const move = (bone: number, place: readonly number[], alone = false): Patch => ({
  remedy: 'move-joint',
  params: { bone, place: [...place], alone },
});

const apply = (character: Character, patch: Patch): Character =>
  remedyById(patch.remedy)!.apply(character, patch.params, brief);

const cut = (points: readonly (readonly number[])[], polygons: readonly (readonly number[])[], y: number) => {
  const mesh = meshFrom(points, polygons);
  const { pointOfVertex } = pointsOf(mesh);
  const positions = mesh.attributes.POSITION.data as Float32Array;
  return cutByPlane(positions, mesh.polygonOffsets, mesh.corners, pointOfVertex, [0, y, 0], [0, 1, 0]);
};

describe('a plane through a mesh', () => {
  it('cuts a box in a rectangle: its sides, its middle', () => {
    const { points, polygons } = box([1, 2, 3], [2, 4, 6]);
    const loops = cut(points, polygons, 2.5);
    expect(loops.length).toBe(1);
    const size = [0, 1, 2].map(
      (k) => Math.max(...points.map((point) => point[k])) - Math.min(...points.map((point) => point[k])),
    );
    const middle = [0, 2].map(
      (k) =>
        (Math.max(...points.map((point) => point[k])) + Math.min(...points.map((point) => point[k]))) / 2,
    );
    expect(loops[0].area).toBeCloseTo(size[0] * size[2], 5);
    expect([loops[0].middle[0], loops[0].middle[2]].map((x) => Number(x.toFixed(5)))).toEqual(middle);
    expect(loops[0].middle[1]).toBeCloseTo(2.5, 6);
  });
  it('that misses it, or that meets an open end only, gives no loop', () => {
    const { points, polygons } = box([0, 0, 0], [1, 1, 1]);
    expect(cut(points, polygons, 50)).toEqual([]);
    // One side of the box taken away: the cut runs into the hole.
    const open = polygons.filter(
      (_, i) =>
        i !== polygons.findIndex((polygon) => new Set(polygon.map((vertex) => points[vertex][0])).size === 1),
    );
    expect(cut(points, open, 0.5)).toEqual([]);
  });
  it('does not mind seams: a point that is several vertices closes the loop all the same', () => {
    const { points, polygons } = box([0, 0, 0], [1, 1, 1]);
    const split = polygons.flatMap((polygon) => polygon.map((vertex) => points[vertex]));
    let n = 0;
    const loops = cut(
      split,
      polygons.map((polygon) => polygon.map(() => n++)),
      0.5,
    );
    expect(loops.map((loop) => Number(loop.area.toFixed(5)))).toEqual([1]);
  });
});

describe('the middle of a limb', () => {
  it('of a tube is its axis, wherever the joint lies in it', () => {
    const off = fc.integer({ min: -80, max: 80 }).map((x) => x / 1000);
    fc.assert(
      fc.property(off, off, (y, z) => {
        const moved = y === 0 && z === 0 ? tube() : apply(tube(), move(1, [1, y, z]));
        const middle = limbMiddle(moved, 1)!;
        expect(Math.hypot(middle[1], middle[2])).toBeLessThan(1e-6);
      }),
    );
  });
  it('of every arm and leg of the cast lies inside the body, near the joint', () => {
    const character = castCharacter('fine/deckhand-clean.glb');
    const limbs = character.nodes.flatMap((node, i) =>
      node.kind === 'bone' && /^(arm|leg)_(upper|lower)_/.test(node.name) ? [i] : [],
    );
    expect(limbs.length).toBe(8);
    for (const bone of limbs) {
      const middle = limbMiddle(character, bone);
      expect([character.nodes[bone].name, middle !== null]).toEqual([character.nodes[bone].name, true]);
      const far = Math.hypot(...restPlace(character.nodes, bone).map((x, k) => x - middle![k]));
      expect(far).toBeLessThan(0.09);
    }
  });
  it('is not there for a bone in empty air', () => {
    const target = tube();
    const nodes = target.nodes.map((node, i) =>
      i === 1 ? { ...node, translation: [5, 5, 5] as const } : node,
    );
    expect(limbMiddle({ ...target, nodes: nodes as Character['nodes'] }, 1)).toBeNull();
  });
});

const largestMove = (a: Character, b: Character) => {
  const before = placedMeshes(a);
  return Math.max(
    ...placedMeshes(b).map((placed, i) =>
      Math.max(...placed.points.map((x, k) => Math.abs(x - before[i].points[k]))),
    ),
  );
};

describe('a joint moved', () => {
  it('stands where it was put, the skin stays, and what hangs below comes along or stays', () => {
    const character = castCharacter('deckhand-clean.glb');
    const elbow = character.nodes.findIndex((node) => node.name === 'arm_lower_lt');
    const hand = character.nodes.findIndex((node) => node.name === 'hand_lt');
    const from = restPlace(character.nodes, elbow);
    const to = [from[0] + 0.03, from[1] - 0.02, from[2] + 0.01];
    for (const alone of [false, true]) {
      const after = apply(character, move(elbow, to, alone));
      restPlace(after.nodes, elbow).forEach((x, k) => expect(x).toBeCloseTo(to[k], 12));
      const by = restPlace(after.nodes, hand).map((x, k) => x - restPlace(character.nodes, hand)[k]);
      const wanted = alone ? [0, 0, 0] : [0.03, -0.02, 0.01];
      by.forEach((x, k) => expect(x).toBeCloseTo(wanted[k], 10));
      expect(largestMove(character, after)).toBeLessThan(1e-6);
      expect(after.meshes).toBe(character.meshes);
    }
  });
  it('there and back again is as before', () => {
    const character = castCharacter('deckhand-clean.glb');
    const elbow = character.nodes.findIndex((node) => node.name === 'arm_lower_lt');
    const from = restPlace(character.nodes, elbow);
    const back = apply(apply(character, move(elbow, [0.3, 1, 0.1])), move(elbow, from));
    character.skins[0].inverseBinds.forEach((x, i) =>
      expect(back.skins[0].inverseBinds[i]).toBeCloseTo(x, 9),
    );
    back.nodes[elbow].translation.forEach((x, k) =>
      expect(x).toBeCloseTo(character.nodes[elbow].translation[k], 9),
    );
  });
});

describe('a draft', () => {
  const place = (character: Character, bone: number) =>
    restPlace(character.nodes, bone).map((x) => Number(x.toFixed(9)));
  it('counts a drag as one change however many moves it took, and takes gestures back one by one', () => {
    const draft = new Draft(tube(), brief);
    draft.put(move(1, [1, 0.1, 0]), 1);
    draft.put(move(1, [1, 0.2, 0]), 1);
    draft.put(move(1, [1, 0.3, 0]), 2);
    expect([draft.steps, draft.patches().length, place(draft.character, 1)]).toEqual([2, 2, [1, 0.3, 0]]);
    draft.undo();
    expect([draft.steps, place(draft.character, 1), draft.canRedo]).toEqual([1, [1, 0.2, 0], true]);
    draft.undo();
    expect([draft.isEmpty, draft.character]).toEqual([true, tube()]);
    draft.redo();
    draft.redo();
    expect([draft.steps, place(draft.character, 1), draft.canRedo]).toEqual([2, [1, 0.3, 0], false]);
    expect(() => draft.redo()).toThrow('nothing in the draft to do again');
  });
  it('any row of gestures, undos and redos leaves what its patches make of the base', () => {
    const gestures = fc.array(
      fc.oneof(
        fc.record({ put: fc.tuple(fc.nat(1), fc.integer({ min: -9, max: 9 }), fc.boolean(), fc.boolean()) }),
        fc.constant({ undo: true }),
        fc.constant({ redo: true }),
      ),
      { maxLength: 24 },
    );
    fc.assert(
      fc.property(gestures, (row) => {
        const base = tube();
        const draft = new Draft(base, brief);
        let gesture = 0;
        for (const step of row) {
          if ('put' in step) {
            const [bone, y, alone, isNew] = step.put;
            if (isNew) gesture++;
            draft.put(move(bone, [bone, y / 50, 0], alone), gesture);
          } else if ('undo' in step && !draft.isEmpty) draft.undo();
          else if ('redo' in step && draft.canRedo) draft.redo();
        }
        const again = draft.isEmpty ? base : applyPatches(base, draft.patches(), brief).character;
        for (const bone of [0, 1]) expect(place(again, bone)).toEqual(place(draft.character, bone));
      }),
    );
  });
  it('a patch that cannot be done leaves it as it was; one that goes back to where it began is none', () => {
    const draft = new Draft(tube(), brief);
    expect(() => draft.put(move(7, [0, 0, 0]), 1)).toThrow(/not there any more/);
    expect(draft.isEmpty).toBe(true);
    draft.put(move(1, [1, 0.1, 0]), 1);
    draft.put(move(1, restPlace(tube().nodes, 1)), 1);
    expect(draft.isEmpty).toBe(true);
    expect(() => draft.undo()).toThrow('nothing in the draft to take back');
  });
});

describe('an edit', () => {
  const patches = [move(0, [0.1, 0, 0]), move(1, [1.0000000000000002, Math.PI, -0])];
  it('is the same after packing, to the last bit', () =>
    expect(unpackPatches(packPatches(patches))).toEqual(patches));
  it('that is spoilt says so, whatever the bytes', () => {
    const good = packPatches(patches);
    fc.assert(
      fc.property(fc.nat(good.length - 1), fc.nat(255), (at, byte) => {
        const bytes = good.slice();
        bytes[at] = byte;
        try {
          unpackPatches(bytes);
        } catch (error) {
          expect((error as Error).message).toMatch(/^(The edit|Change \d+)/);
        }
      }),
    );
    for (const bad of [new Uint8Array(0), packPatches([]), good.slice(0, 9)])
      expect(() => unpackPatches(bad)).toThrow(/^The edit/);
  });
  it('tells what it did in words', () => {
    expect(titleOf(patches)).toBe('move a joint (2)');
    expect(titleOf([patches[0]])).toBe('move a joint');
  });
  it('is pointed at the same names on another delivery, and says what is not there', () => {
    const base = tube();
    const { names } = applyPatches(base, patches, brief);
    const renamed: Character = {
      ...base,
      nodes: base.nodes.map((node, i) => (i === 1 ? { ...node, name: 'other' } : node)),
    };
    const fit = refitPatches(renamed, patches, names);
    expect(fit.patches).toEqual([patches[0]]);
    expect(fit.misfits).toEqual([expect.stringContaining('“upper”')]);
  });
});

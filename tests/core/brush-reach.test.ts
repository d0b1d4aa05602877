/** What a brush does and how far it reaches: kept to a choice, to what is seen, along the surface, on both sides; held bones stay. */
import fc from 'fast-check';
import { restWorld } from '@/core/character/hierarchy';
import type { Character } from '@/core/character/model';
import { replaceAt } from '@/core/character/model';
import { pointsOf } from '@/core/character/points';
import { InfluenceRows } from '@/core/geometry/influence-rows';
import { influencesFrom } from '@/core/geometry/influences';
import { felt, touchRow } from '@/core/geometry/weight-brush';
import { PaintedMesh, type WeightBrush } from '@/core/rooms/weights/painting';
import { oddTwins } from '@/core/rooms/weights/sides';
import { rowsOfMesh, stepBetween } from '@/core/rooms/weights/steps';
import { castCharacter } from './support/cast';
import { real } from './support/random';

const deckhand = castCharacter('fine/deckhand-clean.glb');
const node = deckhand.nodes.findIndex(({ name, mesh }) => name === 'body' && mesh >= 0);
const mesh = deckhand.meshes[deckhand.nodes[node].mesh];
const skin = deckhand.skins[deckhand.nodes[node].skin];
const boneNamed = (name: string) => deckhand.nodes.findIndex((own) => own.name === name);
const THIGH = boneNamed('leg_upper_lt');
const world = restWorld(deckhand.nodes);
const before = rowsOfMesh(mesh);
const { pointOfVertex, vertexOfPoint } = pointsOf(mesh);

const brush = (change: Partial<WeightBrush> = {}): WeightBrush => ({
  bone: THIGH,
  radius: 0.12,
  strength: 0.5,
  target: 0.2,
  hardness: 0.3,
  limit: 6,
  ...change,
});

const painted = new PaintedMesh(deckhand, node, world);
const placeOf = (vertex: number) => [...painted.points.subarray(vertex * 3, vertex * 3 + 3)];

/** The innermost vertex of the left thigh, half way down. */
const inner = (() => {
  let best = -1;
  for (let v = 0; v < mesh.vertexCount; v++) {
    const [x, y] = placeOf(v);
    if (x > 0.01 && y > 0.6 && y < 0.7 && (best < 0 || x < placeOf(best)[0])) best = v;
  }
  return best;
})();

/** Dabs once where the thighs are nearest; gives the points whose rows are not what they were, and the rows. */
function dabbed(change: Partial<WeightBrush>, way: readonly number[] | null = null) {
  const own = new PaintedMesh(deckhand, node, world);
  const settings = brush(change);
  expect(own.begin(settings.bone, settings)).toBe(true);
  own.strokeTo(placeOf(inner), settings, 1, { way });
  const delta = own.end();
  const rows = rowsOfMesh({ ...mesh, influences: own.influences() });
  const changed = rows.flatMap((row, point) => (stepBetween(row, before[point]) > 1e-4 ? [point] : []));
  return { own, delta, rows, changed };
}

const xOf = (point: number) => placeOf(vertexOfPoint[point])[0];

describe('a touch', () => {
  it('adds, takes away and sets; held joints keep what they have, and sums stay one', () => {
    const row = fc
      .uniqueArray(fc.tuple(fc.nat(9), real(0.05, 1)), {
        minLength: 2,
        maxLength: 6,
        selector: ([joint]) => joint,
      })
      .map((entries) => {
        const sum = entries.reduce((total, [, weight]) => total + weight, 0);
        return entries.map(([joint, weight]): [number, number] => [joint, weight / sum]);
      });
    const does = fc.constantFrom('set' as const, 'add' as const, 'take' as const);
    const held = fc.uniqueArray(fc.nat(9), { maxLength: 3 }).map((list) => new Set(list));
    fc.assert(
      fc.property(
        row,
        fc.nat(9),
        real(0, 1),
        real(0, 1),
        does,
        held,
        (entries, joint, target, share, how, locked) => {
          const edited = new InfluenceRows(influencesFrom([entries]));
          const was = edited.weightOf(0, joint);
          const kept = entries.filter(([other]) => locked.has(other) && other !== joint);
          const isChanged = touchRow(edited, 0, share, {
            joint,
            target,
            limit: 64,
            otherwise: 20,
            does: how,
            locked,
          });
          for (const [other, weight] of kept) expect(edited.weightOf(0, other)).toBeCloseTo(weight, 4);
          if (!isChanged) return;
          expect(locked.has(joint)).toBe(false);
          expect(edited.rowOf(0).weight.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 4);
          const room = 1 - kept.reduce((sum, [, weight]) => sum + weight, 0);
          const aims = {
            set: was + (target - was) * share,
            add: was + target * share,
            take: was - target * share,
          };
          expect(edited.weightOf(0, joint)).toBeCloseTo(Math.min(room, Math.max(0, aims[how])), 3);
        },
      ),
    );
  });
  it('is felt by its edge: all of it, falling evenly, or smoothly (closed forms)', () => {
    expect([0, 0.5, 0.99, 1].map((at) => felt(at, 0, 'hard'))).toEqual([1, 1, 1, 0]);
    expect(felt(0.25, 0, 'linear')).toBeCloseTo(0.75, 9);
    expect(felt(0.6, 0.2, 'linear')).toBeCloseTo(0.5, 9);
    expect(felt(0.5, 0, 'smooth')).toBeCloseTo(0.5, 9);
  });
});

describe('how far it reaches', () => {
  it('right through: to the other thigh as well, and it says so; along the surface: not', () => {
    const eye = [-1, 0, 0];
    const through = dabbed({ reach: 'through' }, eye);
    expect(through.changed.some((point) => xOf(point) < -0.005)).toBe(true);
    expect(through.own.reachedBehind).toBe(true);
    const along = dabbed({ reach: 'skin' }, eye);
    expect(along.changed.length).toBeGreaterThan(20);
    expect(along.changed.filter((point) => xOf(point) < -0.005)).toEqual([]);
    expect(along.own.reachedBehind).toBe(false);
    // Nothing that lies beyond the radius is reached either way.
    const [x, y, z] = placeOf(inner);
    for (const point of through.changed) {
      const [px, py, pz] = placeOf(vertexOfPoint[point]);
      expect(Math.hypot(px - x, py - y, pz - z)).toBeLessThan(0.12 + 1e-6);
    }
  });
  it('what is seen: nothing that faces away from the eye', () => {
    const eye = [-1, 0, 0];
    const { changed } = dabbed({ reach: 'seen' }, eye);
    expect(changed.length).toBeGreaterThan(10);
    for (const point of changed) {
      const vertex = vertexOfPoint[point];
      const facing = painted.normals[vertex * 3] * eye[0];
      expect(facing).toBeLessThanOrEqual(1e-6);
    }
  });
  it('kept to chosen points: no other changes', () => {
    const chosen = dabbed({ reach: 'through' }).changed.slice(0, 12);
    const kept = Uint32Array.from(chosen, (point) => vertexOfPoint[point]);
    const { changed } = dabbed({ reach: 'through', kept });
    expect(changed.length).toBeGreaterThan(0);
    for (const point of changed) expect(chosen).toContain(point);
    expect(dabbed({ reach: 'through', kept: new Uint32Array(0) }).changed).toEqual([]);
  });
  it('both sides at once: what was alike stays alike', () => {
    const { own, changed } = dabbed({ reach: 'skin', isBothSides: true });
    expect(changed.some((point) => xOf(point) < -0.01)).toBe(true);
    const after: Character = {
      ...deckhand,
      meshes: replaceAt(
        deckhand.meshes,
        new Map([[deckhand.nodes[node].mesh, { ...mesh, influences: own.influences() }]]),
      ),
    };
    expect(oddTwins(after, node).differing).toEqual([]);
  });
  it('a bone that is held cannot be brushed', () => {
    const own = new PaintedMesh(deckhand, node, world);
    expect(own.begin(THIGH, brush({ locked: [THIGH] }))).toBe(false);
  });
});

describe('smoothing and evening out', () => {
  it('keep what neighbours have as bounds, and hold what is held', () => {
    const held = skin.joints.indexOf(boneNamed('pelvis'));
    const { rows, changed } = dabbed({
      does: 'smooth',
      reach: 'through',
      radius: 0.3,
      locked: [skin.joints[held]],
    });
    expect(changed.length).toBeGreaterThan(20);
    const most = new Map<number, number>();
    for (const row of before)
      for (const [joint, share] of row) most.set(joint, Math.max(most.get(joint) ?? 0, share));
    for (const point of changed) {
      expect([...rows[point].values()].reduce((sum, share) => sum + share, 0)).toBeCloseTo(1, 4);
      for (const [joint, share] of rows[point])
        expect(share).toBeLessThanOrEqual((most.get(joint) ?? 0) + 0.02);
      expect(rows[point].get(held) ?? 0).toBeCloseTo(before[point].get(held) ?? 0, 3);
    }
  });
  it('keep to the limit, touch what they have changed alone, and each side once where both lie under the brush', () => {
    const limited = dabbed({ does: 'smooth', reach: 'through', radius: 0.3, limit: 2 });
    for (const point of limited.changed) expect(limited.rows[point].size).toBeLessThanOrEqual(2);
    // The head, where all go with one bone: smoothing changes nothing, and is no stroke.
    const crown = [...pointOfVertex.keys()].reduce(
      (top, v) => (placeOf(v)[1] > placeOf(top)[1] ? v : top),
      0,
    );
    const own = new PaintedMesh(deckhand, node, world);
    const head = boneNamed('head');
    expect(own.begin(head, brush({ bone: head, does: 'smooth' }))).toBe(true);
    own.dabOn([crown], brush({ bone: head, does: 'smooth' }));
    expect(own.end()).toBeNull();
    // Right through with a brush that covers both thighs: a side that is smoothed twice goes farther than one that is smoothed once.
    const both = dabbed({ does: 'smooth', reach: 'through', radius: 0.3, isBothSides: true });
    const once = dabbed({ does: 'smooth', reach: 'through', radius: 0.3 });
    const apart = once.changed.map((point) => stepBetween(both.rows[point], once.rows[point]));
    expect(Math.max(...apart)).toBeLessThan(0.02);
  });
  it('even out: the points under it come nearer to each other', () => {
    const { rows, changed } = dabbed({ does: 'even', strength: 1, edge: 'hard', reach: 'skin', radius: 0.2 });
    const [first] = changed;
    for (const point of changed) expect(stepBetween(rows[point], rows[first])).toBeLessThan(0.01);
  });
  it('one dab on chosen points without a pointer is a stroke like any other, and is taken back', () => {
    const own = new PaintedMesh(deckhand, node, world);
    const settings = brush({ strength: 1, target: 0.5 });
    expect(own.begin(THIGH, settings)).toBe(true);
    const vertices = [inner, inner + 1];
    own.dabOn(vertices, settings);
    const delta = own.end()!;
    const joint = skin.joints.indexOf(THIGH);
    const rows = rowsOfMesh({ ...mesh, influences: own.influences() });
    for (const vertex of vertices) expect(rows[pointOfVertex[vertex]].get(joint)).toBeCloseTo(0.5, 4);
    own.put(delta.vertices, delta.before);
    expect([...own.influences().weight]).toEqual([...mesh.influences!.weight]);
  });
});

/** A brush that sets a bone's weight: rows that sum to one, strokes that are taken back exactly, seams that do not tear. */
import fc from 'fast-check';
import { restWorld } from '@/core/character/hierarchy';
import { placedPoints } from '@/core/character/deform';
import type { Character } from '@/core/character/model';
import { pointsOf } from '@/core/character/points';
import { InfluenceRows } from '@/core/geometry/influence-rows';
import { influencesFrom } from '@/core/geometry/influences';
import { quatAbout } from '@/core/geometry/matrix';
import { falloff, touchRow } from '@/core/geometry/weight-brush';
import { briefById } from '@/core/house/briefs';
import { Draft } from '@/core/house/draft';
import { packPatches, refitPatches, unpackPatches } from '@/core/house/edit';
import { nameParams } from '@/core/house/rerun';
import { remedyById } from '@/core/house/registry';
import { ownPosedWorld } from '@/core/motion/hand-pose';
import { PaintedMesh, type Touched, type WeightBrush } from '@/core/rooms/weights/painting';
import { paramsOfStroke } from '@/core/rooms/weights/remedies/brush-weights';
import { weldedNormals } from '@/ui/worker/figure';
import { castCharacter } from './support/cast';
import { shuffledVertices } from './support/shuffled';
import { real } from './support/random';

const brief = briefById('handset')!;
const deckhand = castCharacter('fine/deckhand-clean.glb');
const node = deckhand.nodes.findIndex(({ mesh, skin }) => mesh >= 0 && skin >= 0);
const mesh = deckhand.meshes[deckhand.nodes[node].mesh];
const skin = deckhand.skins[deckhand.nodes[node].skin];
const bone =
  skin.joints.find((joint) => /forearm_l|elbow_l|lowerarm_l|arm_lower_l/i.test(deckhand.nodes[joint].name)) ??
  skin.joints[8];

const brush = (change: Partial<WeightBrush> = {}): WeightBrush => ({
  bone,
  radius: 0.08,
  strength: 0.6,
  target: 1,
  hardness: 0.3,
  limit: 4,
  ...change,
});

/** The deckhand with two bones turned. */
const pose = () =>
  ownPosedWorld(
    deckhand,
    new Map([
      [bone, quatAbout([0, 0, 1], 0.7)],
      [skin.joints[3], quatAbout([1, 0, 0], 0.2)],
    ]),
  );

const paintedIn = (world: Float64Array, character: Character = deckhand) =>
  new PaintedMesh(character, node, world);

/** The vertex that the bone carries most. */
const heaviest = (() => {
  const joint = skin.joints.indexOf(bone);
  let best = 0;
  let most = -1;
  const { offsets, joint: joints, weight } = mesh.influences!;
  for (let v = 0; v < mesh.vertexCount; v++)
    for (let k = offsets[v]; k < offsets[v + 1]; k++)
      if (joints[k] === joint && weight[k] > most) [best, most] = [v, weight[k]];
  return best;
})();

const placeOf = (painted: PaintedMesh, vertex = heaviest) => [
  ...painted.points.subarray(vertex * 3, vertex * 3 + 3),
];

/** A stroke down the limb. */
function stroke(painted: PaintedMesh, change: Partial<WeightBrush> = {}) {
  expect(painted.begin(bone)).toBe(true);
  const [x, y, z] = placeOf(painted);
  for (let i = 0; i < 12; i++) painted.strokeTo([x + i * 0.02, y, z], brush(change), 1);
  return painted.end();
}

const rows = fc
  .array(fc.tuple(fc.nat(9), real(0.01, 1)), { maxLength: 6 })
  .map((entries) => [...new Map(entries).entries()])
  .map((entries) => {
    const sum = entries.reduce((total, [, weight]) => total + weight, 0);
    return entries.map(([joint, weight]): [number, number] => [joint, weight / sum]);
  });

describe('one touch', () => {
  it('sets the bone as far as it goes; the others give or take in proportion, and the sum is one', () => {
    fc.assert(
      fc.property(rows, fc.nat(9), real(0, 1), real(0, 1), (row, joint, target, share) => {
        const influences = influencesFrom([row]);
        const edited = new InfluenceRows(influences);
        const before = new Map(row);
        const isChanged = touchRow(edited, 0, share, { joint, target, limit: 64, otherwise: -1 });
        const { joint: joints, weight } = edited.rowOf(0);
        if (!isChanged) return;
        expect(new Set(joints).size).toBe(joints.length);
        expect(weight.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 5);
        if (row.length === 0) return;
        const was = before.get(joint) ?? 0;
        const wanted = was + (target - was) * share;
        expect(edited.weightOf(0, joint)).toBeCloseTo(wanted, 4);
        for (const [other, old] of before)
          if (other !== joint && old > 1e-3)
            expect(edited.weightOf(0, other)).toBeCloseTo((old / (1 - was)) * (1 - wanted), 4);
      }),
    );
  });

  it('keeps to the limit by letting the lightest go, never the painted one', () => {
    fc.assert(
      fc.property(rows, fc.nat(9), fc.integer({ min: 1, max: 4 }), (row, joint, limit) => {
        const edited = new InfluenceRows(influencesFrom([row]));
        if (!touchRow(edited, 0, 0.5, { joint, target: 0.7, limit, otherwise: -1 })) return;
        expect(edited.countOf(0)).toBeLessThanOrEqual(Math.max(1, limit));
        expect(edited.weightOf(0, joint)).toBeGreaterThan(0);
        expect(edited.rowOf(0).weight.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 5);
      }),
    );
  });

  it('what nobody else can take goes to the bone above, or stays where there is none', () => {
    const alone = () => new InfluenceRows(influencesFrom([[[3, 1]]]));
    const given = alone();
    expect(touchRow(given, 0, 1, { joint: 3, target: 0.25, limit: 4, otherwise: 1 })).toBe(true);
    expect([given.weightOf(0, 3), given.weightOf(0, 1)]).toEqual([0.25, 0.75]);
    const kept = alone();
    expect(touchRow(kept, 0, 1, { joint: 3, target: 0.25, limit: 4, otherwise: -1 })).toBe(false);
    expect(kept.weightOf(0, 3)).toBe(1);
  });

  it('fades from the hard part to nothing at the rim', () => {
    expect([falloff(0, 0.4), falloff(0.4, 0.4), falloff(1, 0.4)]).toEqual([1, 1, 0]);
    // Smoothstep at its middle is one half.
    expect(falloff(0.7, 0.4)).toBeCloseTo(0.5, 12);
    expect(falloff(0.99, 1)).toBe(1);
  });

  it('rows grow in place and come out as they went in', () => {
    fc.assert(
      fc.property(
        fc.array(rows, { minLength: 1, maxLength: 8 }),
        fc.array(fc.tuple(fc.nat(7), rows)),
        (all, puts) => {
          const edited = new InfluenceRows(influencesFrom(all));
          const model = all.map((row) => row);
          for (const [at, row] of puts) {
            const vertex = at % all.length;
            model[vertex] = row;
            edited.set(vertex, { joint: row.map(([j]) => j), weight: row.map(([, w]) => w) });
          }
          expect(edited.toInfluences()).toEqual(influencesFrom(model));
        },
      ),
    );
  });
});

describe('a stroke on a posed figure', () => {
  it('changes only what is under the brush, and tells places and normals as the whole figure would have them', () => {
    const world = pose();
    const painted = paintedIn(world);
    const before = painted.influences();
    const normalsBefore = painted.normals.slice();
    const delta = stroke(painted);
    const touched = painted.takeTouched(bone)!;
    expect(delta!.vertices.length).toBeGreaterThan(20);
    const influences = painted.influences();
    const made = { ...mesh, influences };
    const whole = placedPoints(made, skin, node, world);
    const normals = weldedNormals(whole, made);
    expect(worst(touched, 'points', whole)).toBeLessThan(1e-5);
    expect(worst(touched, 'normals', normals)).toBeLessThan(1e-3);
    const isTold = new Set(touched.ids);
    // A normal turns where a neighbour has moved, too: those are told as well, and none is left as it was.
    let stale = 0;
    let untold = 0;
    normals.forEach((x, i) => {
      if (Math.abs(painted.normals[i] - x) > 1e-3) stale++;
      if (Math.abs(normalsBefore[i] - x) > 1e-3 && !isTold.has(Math.floor(i / 3))) untold++;
    });
    expect([stale, untold]).toEqual([0, 0]);
    const { offsets, joint, weight } = before;
    for (let v = 0; v < mesh.vertexCount; v += 7) {
      if (isTold.has(v)) continue;
      const own = [...weight.subarray(offsets[v], offsets[v + 1])];
      expect([...influences.weight.subarray(influences.offsets[v], influences.offsets[v + 1])]).toEqual(own);
      expect(joint[offsets[v]]).toBe(influences.joint[influences.offsets[v]]);
    }
    // Nothing is told twice.
    expect(painted.takeTouched(bone)).toBeNull();
  });

  it('what a seam split has one row', () => {
    const painted = paintedIn(pose());
    stroke(painted);
    const { pointOfVertex, vertexOfPoint } = pointsOf(mesh);
    const { offsets, joint, weight } = painted.influences();
    const rowOf = (v: number) => [
      ...joint.subarray(offsets[v], offsets[v + 1]),
      ...weight.subarray(offsets[v], offsets[v + 1]),
    ];
    const isTold = painted.takeTouched(bone)!.ids;
    for (const v of isTold) expect(rowOf(v)).toEqual(rowOf(vertexOfPoint[pointOfVertex[v]]));
  });

  it('is taken back and done again to the last bit, in any order of many', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(real(0, 1), real(-0.1, 0.1)), { minLength: 1, maxLength: 4 }),
        (strokes) => {
          const painted = paintedIn(pose());
          const start = painted.influences();
          const deltas = strokes.flatMap(([target, aside]) => {
            painted.begin(bone);
            const [x, y, z] = placeOf(painted);
            painted.strokeTo([x + aside, y, z], brush({ target }), 1);
            painted.strokeTo([x + aside + 0.05, y, z], brush({ target }), 0.5);
            return painted.end() ?? [];
          });
          const end = painted.influences();
          for (const delta of [...deltas].reverse()) painted.put(delta.vertices, delta.before);
          expect(painted.influences()).toEqual(start);
          for (const delta of deltas) painted.put(delta.vertices, delta.after);
          expect(painted.influences()).toEqual(end);
        },
      ),
      { numRuns: 10 },
    );
  });

  it('of two thousand points costs kilobytes', () => {
    const painted = paintedIn(restWorld(deckhand.nodes));
    const { vertices, before, after } = stroke(painted, { radius: 0.35 })!;
    expect(vertices.length).toBeGreaterThan(1500);
    const bytes = [vertices, ...Object.values(before), ...Object.values(after)].reduce(
      (sum, a) => sum + a.byteLength,
      0,
    );
    expect(bytes / vertices.length).toBeLessThan(100);
  });

  it('a bone that the skin does not know paints nothing', () => {
    const stranger = deckhand.nodes.findIndex((_, i) => !skin.joints.includes(i));
    const painted = paintedIn(restWorld(deckhand.nodes));
    expect(painted.begin(stranger)).toBe(false);
  });
});

describe('kept as one step', () => {
  it('the draft undoes strokes and remedies in one line, and makes the same of them as the brush did', () => {
    const draft = new Draft(deckhand, brief);
    const painted = paintedIn(restWorld(deckhand.nodes));
    draft.putStroke(stroke(painted)!, 1);
    draft.put({ remedy: 'move-joint', params: { bone, place: [0.5, 1.2, 0], alone: true } }, 2);
    draft.putStroke(stroke(painted, { target: 0 })!, 3);
    expect([draft.steps, draft.patches().map(({ remedy }) => remedy)]).toEqual([
      3,
      ['brush-weights', 'move-joint', 'brush-weights'],
    ]);
    const of = (character: Character) => character.meshes[character.nodes[node].mesh].influences!;
    expect(of(draft.character)).toEqual(painted.influences());
    expect(draft.undo().map(({ delta }) => delta !== null)).toEqual([true]);
    draft.undo();
    draft.undo();
    expect(draft.character).toBe(deckhand);
    draft.redo();
    draft.redo();
    draft.redo();
    expect(of(draft.character)).toEqual(painted.influences());
  });

  it('goes through the bundle, and is done again on a delivery whose points count otherwise', () => {
    const painted = paintedIn(restWorld(deckhand.nodes));
    const delta = stroke(painted)!;
    const remedy = remedyById('brush-weights')!;
    const [patch] = unpackPatches(
      packPatches([{ remedy: 'brush-weights', params: paramsOfStroke(deckhand, delta) }]),
    );
    const names = JSON.parse(JSON.stringify(nameParams(deckhand, remedy, patch.params)));
    const other = shuffledVertices(deckhand, 5);
    const { patches, misfits } = refitPatches(other, [patch], [names]);
    expect(misfits).toEqual([]);
    const after = remedy.apply(
      other,
      remedy.params.validateSync(patches[0].params) as typeof patch.params,
      brief,
    );
    const now = after.meshes[after.nodes[node].mesh];
    // The same weights at the same places.
    const seen = new Map<string, string>();
    const keys = (of: typeof now, v: number) => {
      const { offsets, joint, weight } = of.influences!;
      const place = [...of.attributes.POSITION.data.subarray(v * 3, v * 3 + 3)].join();
      const row = [...joint.subarray(offsets[v], offsets[v + 1])].map(
        (j, k) => `${j}:${weight[offsets[v] + k]}`,
      );
      return [place, row.sort().join()] as const;
    };
    const made = { ...mesh, influences: painted.influences() };
    for (let v = 0; v < mesh.vertexCount; v++) seen.set(...keys(made, v));
    for (let v = 0; v < now.vertexCount; v++) {
      const [place, row] = keys(now, v);
      expect(row).toBe(seen.get(place));
    }
  });

  it('rows that do not hold together are refused', () => {
    const remedy = remedyById('brush-weights')!;
    const good = paramsOfStroke(deckhand, stroke(paintedIn(restWorld(deckhand.nodes)))!);
    const [some] = good.points;
    expect(() => remedy.params.validateSync(good)).not.toThrow();
    for (const bad of [
      { ...some, rows: { ...some.rows, weight: some.rows.weight.slice(1) } },
      { ...some, ids: some.ids.slice(1) },
      { ...some, rows: { ...some.rows, weight: some.rows.weight.map(() => Number.NaN) } },
      { ...some, rows: { ...some.rows, offsets: some.rows.offsets.slice().reverse() } },
    ])
      expect(() => remedy.params.validateSync({ ...good, points: [bad] })).toThrow();
    expect(() => remedy.apply(deckhand, { ...good, bones: good.bones.slice(1) }, brief)).toThrow(
      /draw the stroke anew/,
    );
  });
});

function worst({ ids, ...touched }: Touched, what: 'points' | 'normals', whole: Float32Array): number {
  let most = 0;
  ids.forEach((id, i) => {
    for (let k = 0; k < 3; k++) most = Math.max(most, Math.abs(touched[what][i * 3 + k] - whole[id * 3 + k]));
  });
  return most;
}

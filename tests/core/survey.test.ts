/** What is measured of a figure whose every joint and corner is known in closed form. */
import fc from 'fast-check';
import { briefById } from '@/core/house/briefs';
import { remedyById } from '@/core/house/registry';
import { restPlace } from '@/core/character/hierarchy';
import { type Character, node, replaceAt } from '@/core/character/model';
import { STILL, underSimilarity } from '@/core/character/similarity';
import {
  type Quat,
  type Vec3,
  distance,
  quatAbout,
  quatBetween,
  quatMultiply,
  quatRotate,
  subtract,
} from '@/core/geometry/matrix';
import { facingCheck } from '@/core/rooms/placement/checks/facing';
import { inheritedScaleCheck } from '@/core/rooms/placement/checks/node-scale';
import { skeletonHeightCheck } from '@/core/rooms/placement/checks/skeleton-height';
import { AXES, type SignedAxis, degreesBetween, nearestAxis } from '@/core/anatomy/bearing';
import { bearingOf, landmarksOf } from '@/core/anatomy/landmarks';
import { knownProp } from '@/core/contracts/props';
import { measuresOf } from '@/core/rooms/placement/measures';
import {
  bodyHeight,
  boxOfNode,
  facingOf,
  footprintOf,
  groundGap,
  limbsOf,
  longSideOf,
  middleOf,
  overlapOf,
  segmentsOf,
  skeletonHeight,
} from '@/core/rooms/placement/survey';
import { UNITS, heightIn, likelierUnit, unitWord } from '@/core/contracts/units';
import { meshFrom } from './support/build';
import { box, figure, jointsOf } from './support/figure';
import { real } from './support/random';

const handset = briefById('handset')!;
const T = { arms: 0, legs: 0, bend: 0 };
const stances = fc.record({ arms: real(-70, 85), legs: real(0, 40), bend: real(0, 100) });
const turns = fc.tuple(real(-1, 1), real(-1, 1), real(0.1, 1), real(-3, 3)).map(([x, y, z, a]): Quat =>
  quatAbout(
    [x, y, z].map((c) => c / Math.hypot(x, y, z)),
    a,
  ),
);
const moved = (c: Character, change: { scale?: number; rotation?: Quat; translation?: Vec3 }) =>
  underSimilarity(c, { ...STILL, ...change });
/** The 24 turns that put axes onto axes. */
const QUARTERS: { up: SignedAxis; front: SignedAxis; turn: Quat }[] = (
  Object.keys(AXES) as SignedAxis[]
).flatMap((up) => {
  const first = quatBetween([0, 1, 0], AXES[up]);
  return [0, 1, 2, 3].map((k) => {
    const turn = quatMultiply(quatAbout(AXES[up], (k * Math.PI) / 2), first);
    return { up, front: nearestAxis(quatRotate(turn, [0, 0, 1])), turn };
  });
});

describe('landmarks', () => {
  const PARTS = [
    'pelvis',
    'neck',
    'head',
    ...['left', 'right'].flatMap((s) =>
      ['upperarm', 'lowerarm', 'hand', 'upperleg', 'lowerleg', 'foot', 'toe'].map((p) => `${p} ${s}`),
    ),
  ];
  const found = (c: Character) => Object.fromEntries([...landmarksOf(c)].map(([mark, i]) => [mark, i]));
  const expected = found(figure(T));
  it('are all there', () => expect(Object.keys(expected).sort()).toEqual(PARTS.sort()));
  it.each<[string, (n: string) => string]>([
    ['parts first, sides last', (n) => n.replace(/^(left|right) (.*)$/, '$2_$1').replaceAll(' ', '_')],
    [
      'one letter for the side',
      (n) =>
        n
          .replace(/^left /, 'L_')
          .replace(/^right /, 'R_')
          .replaceAll(' ', ''),
    ],
    [
      'capitals without a gap',
      (n) =>
        n
          .split(' ')
          .map((w) => w[0].toUpperCase() + w.slice(1))
          .join(''),
    ],
    ['a name before a colon', (n) => `crew:${n.replaceAll(' ', '-')}`],
    [
      'anatomy',
      (n) =>
        n
          .replace('upper arm', 'humerus')
          .replace('forearm', 'radius')
          .replace('thigh', 'femur')
          .replace('shin', 'tibia')
          .replaceAll(' ', '.'),
    ],
  ])('are found in names with %s', (_, named) => expect(found(figure(T, named))).toEqual(expected));
  it('are found by shape where the names say nothing', () => {
    let k = 0;
    const by = found(figure(T, () => `b${k++}`));
    expect(Object.keys(by).length).toBeGreaterThanOrEqual(8);
    for (const [mark, i] of Object.entries(by))
      if (/arm|leg|hand|foot|head/.test(mark)) expect([mark, i]).toEqual([mark, expected[mark]]);
  });
  it('pass over ends and twist bones', () => {
    const c = figure(T);
    const at = c.nodes.findIndex((n) => n.name === 'left forearm');
    const more = {
      ...c,
      nodes: [
        ...c.nodes,
        node({ name: 'left hand end', kind: 'bone', parent: at }),
        node({ name: 'left forearm twist', kind: 'bone', parent: at }),
      ],
    };
    expect(found(more)).toEqual(expected);
  });
});

describe('limbs', () => {
  it('stand at the angles they were made with, the figure turned any way', () =>
    fc.assert(
      fc.property(stances, turns, (s, rotation) => {
        const limbs = limbsOf(moved(figure(s), { rotation }));
        expect(limbs.length).toBe(4);
        for (const l of limbs) {
          expect(Math.abs(l.angle - (l.limb === 'arm' ? s.arms : s.legs))).toBeLessThan(0.01);
          expect(Math.abs(l.bend - s.bend)).toBeLessThan(0.01);
        }
      }),
      { numRuns: 60 },
    ));
  it('are not told of a figure without them', () => {
    const c = figure(T);
    const without = (part: RegExp) =>
      limbsOf({ ...c, nodes: c.nodes.map((n) => (part.test(n.name) ? { ...n, name: 'x' } : n)) })
        .map((l) => `${l.limb} ${l.side}`)
        .sort();
    expect(without(/^left hand/)).toEqual(['arm right', 'leg left', 'leg right']);
  });
});

describe('straightening', () => {
  it('a bent leg keeps its line from hip to foot, so that the feet stay under the figure', () =>
    fc.assert(
      fc.property(real(0, 14), real(25, 100), (legs, bend) => {
        const c = figure({ arms: 0, legs, bend });
        const straight = remedyById('set-stance')!.apply(c, { arms: 0, bend: 20, legs: 15 }, handset);
        const line = (x: Character, side: string): Vec3 => {
          const at = (n: string) =>
            restPlace(
              x.nodes,
              x.nodes.findIndex((k) => k.name === `${side} ${n}`),
            );
          return subtract(at('foot'), at('thigh'));
        };
        for (const side of ['left', 'right'])
          expect(degreesBetween(line(c, side), line(straight, side))).toBeLessThan(1e-3);
        expect(limbsOf(straight).every((l) => Math.abs(l.bend - 5) < 1e-3)).toBe(true);
      }),
      { numRuns: 20 },
    ));
  it('the feet stay as flat as they were, whatever the legs did', () =>
    fc.assert(
      fc.property(real(0, 40), real(0, 100), (legs, bend) => {
        fc.pre(legs > 15 || bend > 20);
        const c = figure({ arms: 0, legs, bend });
        const after = remedyById('set-stance')!.apply(c, { arms: 0, bend: 20, legs: 15 }, handset);
        const sole = (x: Character, side: string): Vec3 => {
          const at = (n: string) =>
            restPlace(
              x.nodes,
              x.nodes.findIndex((k) => k.name === `${side} ${n}`),
            );
          return subtract(at('toe'), at('foot'));
        };
        for (const side of ['left', 'right'])
          expect(degreesBetween(sole(c, side), sole(after, side))).toBeLessThan(1e-3);
        // The soles are the lowest of the figure, so its height tells whether they tipped.
        const [knee, ankle] = ['left shin', 'left foot'].map(
          (n) =>
            restPlace(
              after.nodes,
              after.nodes.findIndex((k) => k.name === n),
            )[1],
        );
        expect(Math.min(knee, ankle) - 0.06 - groundGap(after)!).toBeCloseTo(0, 4);
      }),
      { numRuns: 20 },
    ));
});

describe('facing', () => {
  it.each(QUARTERS)('upright along $up, looking along $front', ({ up, front, turn }) => {
    const f = facingOf(moved(figure(T), { rotation: turn, translation: [3, -2, 1] }))!;
    expect([f.up, f.forward, f.crossed]).toEqual([up, front, false]);
    expect(f.upOff).toBeCloseTo(degreesBetween(AXES[up], AXES.y), 4);
    expect(f.forwardOff(front)).toBeLessThan(1e-3);
  });
  it('its up, left and front are a right-handed frame, and turn as the figure turns', () =>
    fc.assert(
      fc.property(turns, (rotation) => {
        const b = bearingOf(moved(figure(T), { rotation }))!;
        for (const [own, axis] of [
          [b.left, AXES.x],
          [b.up, AXES.y],
          [b.forward, AXES.z],
        ] as const)
          expect(degreesBetween(own, quatRotate(rotation, axis))).toBeLessThan(1e-3);
      }),
      { numRuns: 40 },
    ));
  it('left and right exchanged in the names are found by the toes', () => {
    const c = figure(T, (n) => n.replace(/^(left|right)/, (s) => (s === 'left' ? 'right' : 'left')));
    const f = facingOf(c)!;
    expect([f.crossed, f.forward]).toEqual([true, 'z']);
    // Brought to a stance, each arm stays on the side on which it is.
    const a = remedyById('set-stance')!.apply(c, { arms: 40, bend: 20, legs: 15 }, handset);
    const at = (name: string) =>
      restPlace(
        a.nodes,
        a.nodes.findIndex((n) => n.name === name),
      );
    for (const side of ['left', 'right'] as const)
      expect(Math.sign(at(`${side} hand`)[0] - at(`${side} upper arm`)[0])).toBe(
        Math.sign(at(`${side} upper arm`)[0]),
      );
  });
  it('a stoop is a posture, not a tilt: it turns with the figure by quarters, and its limbs are measured as they were', () =>
    fc.assert(
      fc.property(real(-40, 40), real(-40, 40), (stoop, lean) => {
        // The head stands 1.54 m over the ankles.
        const c = figure(T);
        const head = c.nodes.findIndex((n) => n.name === 'head');
        const off = [lean, 0, stoop].map((a) => 1.54 * Math.tan((a * Math.PI) / 180));
        const stooped: Character = {
          ...c,
          nodes: replaceAt(
            c.nodes,
            new Map([
              [head, { ...c.nodes[head], translation: c.nodes[head].translation.map((x, k) => x + off[k]) }],
            ]),
          ),
        };
        const f = facingOf(stooped)!;
        expect([
          f.upright.map((x) => Math.round(x * 1e6) / 1e6 + 0),
          f.forward,
          f.forwardOff('z') < 1e-3,
          facingCheck.run(stooped, handset),
        ]).toEqual([AXES.y, 'z', true, []]);
        for (const l of limbsOf(stooped)) expect([l.limb, Math.abs(l.angle) < 1e-4]).toEqual([l.limb, true]);
        const away = moved(stooped, { rotation: quatAbout([0, 1, 0], Math.PI / 2) as Quat });
        expect(facingCheck.run(away, handset).map((x) => x.message)).toEqual([
          'It looks along x, 90° off; the brief wants z ± 8°',
        ]);
        const back = remedyById('turn-to-axes')!.apply(away, {}, handset);
        expect(distance(restPlace(back.nodes, head), restPlace(stooped.nodes, head))).toBeLessThan(1e-6);
      }),
      { numRuns: 40 },
    ));
  it.each([
    ['forwards', [1, 0, 0], 8.1],
    ['sideways', [0, 0, 1], 8.1],
  ] as const)(
    'what lies beyond it, %s, is a tilt of the whole, and is turned back as a whole',
    (_, axis, least) =>
      fc.assert(
        fc.property(real(least, 44), fc.boolean(), (tilt, back) => {
          const c = moved(figure(T), {
            rotation: quatAbout(axis, ((back ? -tilt : tilt) * Math.PI) / 180) as Quat,
          });
          expect(facingCheck.run(c, handset)).toHaveLength(1);
          expect(facingOf(remedyById('turn-to-axes')!.apply(c, {}, handset))!.upOff).toBeLessThan(1e-3);
        }),
        { numRuns: 20 },
      ),
  );
  it('what stands within the bound is turned by quarters exactly, and keeps what it is off', () =>
    fc.assert(
      fc.property(real(-7.9, 7.9), fc.constantFrom(1, 2, 3), (off, quarters) => {
        const c = moved(figure(T), { rotation: quatAbout([1, 0, 0], (off * Math.PI) / 180) as Quat });
        const at = (x: Character) =>
          restPlace(
            x.nodes,
            x.nodes.findIndex((n) => n.name === 'head'),
          );
        const back = remedyById('turn-to-axes')!.apply(
          moved(c, { rotation: quatAbout([0, 1, 0], (quarters * Math.PI) / 2) as Quat }),
          {},
          handset,
        );
        expect(distance(at(back), at(c))).toBeLessThan(1e-6);
      }),
      { numRuns: 20 },
    ));
  it('a skeleton whose names do not say head or sides is told by its shape', () =>
    expect(facingOf(figure(T, (n) => (/^(left|right|head|neck)/.test(n) ? 'x' : n)))?.forward).toBe('z'));
  it('a chain alone does not tell', () => {
    const c = figure(T);
    const chain = c.nodes
      .slice(0, 14)
      .map((n, i) => ({ ...n, name: `b${i}`, parent: i - 1, mesh: -1, skin: -1 }));
    expect(facingOf({ ...c, nodes: chain, meshes: [], skins: [], clips: [] })).toBeNull();
  });
});

describe('size and place', () => {
  it('height, ground, middle and pivot follow a move and a rescale exactly', () =>
    fc.assert(
      fc.property(real(0.2, 5), fc.tuple(...[0, 1, 2].map(() => real(-3, 3))), (scale, t) => {
        const c = moved(figure(T), { scale, translation: t as unknown as Vec3 });
        const near = scale * 1e-5;
        expect(Math.abs(bodyHeight(c)! - 1.8 * scale)).toBeLessThan(near);
        // From the toes to the head: a root in the origin stays there, wherever the figure goes, and counts
        // for nothing.
        expect(Math.abs(skeletonHeight(c)! - (1.6 - jointsOf(T)['left toe'][1]) * scale)).toBeLessThan(near);
        expect(Math.abs(groundGap(c)! - t[1])).toBeLessThan(near + 1e-6);
        const middle = middleOf(c)!;
        expect(middle.share).toBe(1);
        expect(Math.abs(middle.offset - t[0])).toBeLessThan(near + 1e-6);
        // The feet reach from −0.15 to 0.15 sideways, and from the heel to the toes.
        const foot = footprintOf(c)!;
        const wide = 0.17 * scale;
        expect(foot.outside[0]).toBeCloseTo(Math.max(0, Math.abs(t[0]) - wide), 4);
      }),
      { numRuns: 40 },
    ));
  it('joints inside the body are counted, and how far the others are outside is the distance to its nearest point', () => {
    const c = figure(T);
    const all = overlapOf(c)!;
    expect([all.inside, all.joints, all.worst, all.worstNode]).toEqual([all.joints, all.joints, 0, -1]);
    const hand = c.nodes.findIndex((n) => n.name === 'left hand');
    const [x, y, z] = jointsOf(T)['left hand'];
    // The skin is bound anew where it stands: only the joint has moved, 20 cm up.
    const nodes = replaceAt(
      c.nodes,
      new Map([
        [
          hand,
          {
            ...c.nodes[hand],
            translation: [
              c.nodes[hand].translation[0],
              c.nodes[hand].translation[1] + 0.2,
              c.nodes[hand].translation[2],
            ],
          },
        ],
      ]),
    );
    const binds = Float64Array.from(c.skins[0].inverseBinds);
    binds[hand * 16 + 13] -= 0.2;
    const o = overlapOf({ ...c, nodes, skins: [{ ...c.skins[0], inverseBinds: binds }] })!;
    expect([o.joints - o.inside, c.nodes[o.worstNode].name, o.outside]).toEqual([1, 'left hand', [hand]]);
    expect(o.worst).toBeCloseTo(Math.hypot(0.07, 0.13, 0.07), 5);
    expect(o.mean).toBeCloseTo(o.worst, 12);
    expect([x, y, z][1]).toBeCloseTo(1.45, 12);
  });
  it('a skeleton that was scaled alone is brought back to where its joints lie inside the body, not to any size that passes', () =>
    fc.assert(
      fc.property(fc.oneof(real(0.3, 0.85), real(1.2, 3)), (factor) => {
        const c = figure(T);
        const own = skeletonHeight(c)!;
        const fit = remedyById('fit-skeleton')!;
        const apart = fit.apply(c, { height: own * factor }, handset);
        const [f] = skeletonHeightCheck.run(apart, handset);
        const offered = f.remedies[0].params as { height: number };
        expect(Math.abs(offered.height / own - 1)).toBeLessThan(0.03);
        const back = fit.apply(apart, offered, handset);
        expect([overlapOf(back)!.inside, skeletonHeightCheck.run(back, handset)]).toEqual([
          overlapOf(back)!.joints,
          [],
        ]);
      }),
      { numRuns: 25 },
    ));
  it('the longest side of a prop is the same however it is held, and grows with what it hangs on', () =>
    fc.assert(
      fc.property(turns, real(0.2, 4), (rotation, scale) => {
        const c = figure(T);
        const b = box([0, 0, 0], [0.1, 0.32, 0.2]);
        const hand = c.nodes.findIndex((n) => n.name === 'right hand');
        const held = {
          ...c,
          meshes: [...c.meshes, meshFrom(b.points, b.polygons)],
          nodes: [
            ...c.nodes,
            node({ name: 'hook', parent: hand, rotation, scale: [scale, scale, scale] }),
            node({ name: 'hand lamp', kind: 'mesh', mesh: 1, parent: c.nodes.length, rotation }),
          ],
        };
        expect(longSideOf(held, held.nodes.length - 1)).toBeCloseTo(0.32 * scale, 5);
        expect(bodyHeight(held)).toBeCloseTo(1.8, 5);
      }),
      { numRuns: 30 },
    ));
  it('segments are shares of the stature, of any size and place', () => {
    const by = new Map(
      segmentsOf(moved(figure(T), { scale: 3, translation: [1, 2, 3] })).map((s) => [s.label, s]),
    );
    expect(by.get('Upper arm')!.share).toBeCloseTo(0.28 / 1.8, 5);
    expect(by.get('Thigh')!.share).toBeCloseTo(0.42 / 1.8, 5);
    expect(by.get('Half shoulder width')!.share).toBeCloseTo(0.2 / 1.8, 5);
    expect(by.get('Shoulder above the ground')!.share).toBeCloseTo(1.45 / 1.8, 5);
    expect(by.get('Hip above the ground')!.share).toBeCloseTo(0.9 / 1.8, 5);
    // Drillis & Contini 1966, from memory.
    expect(by.get('Thigh')!.table).toBe(0.245);
  });
  it('what is not there has no box, no side', () => {
    const c = figure(T);
    expect([boxOfNode(c, 0), longSideOf(c, 0)]).toEqual([null, null]);
    expect(boxOfNode(c, c.nodes.length - 1)!.max[1]).toBeCloseTo(1.8, 6);
  });
});

describe('inherited scale', () => {
  it('is found from every scaled ancestor, however far above, with all that inherits it', () => {
    const c = figure(T);
    const n = c.nodes.length;
    const hung: Character = {
      ...c,
      nodes: [
        ...c.nodes,
        node({ name: 'far', scale: [2, 2, 2] }),
        node({ name: 'between', parent: n }),
        node({ name: 'near', parent: n + 1, scale: [0.5, 0.5, 0.5] }),
        node({ name: 'shelf', parent: n + 2 }),
        node({ name: 'jar', kind: 'mesh', mesh: 0, parent: n + 3 }),
        node({ name: 'lid', kind: 'mesh', mesh: 0, parent: n + 4 }),
        node({ name: 'hook', kind: 'bone', parent: n + 1 }),
      ],
    };
    const found = inheritedScaleCheck
      .run(hung, handset)
      .map((f) => [f.count, [...f.elements[0].ids].map((i) => hung.nodes[i].name)]);
    expect(found).toEqual([
      [3, ['far', 'jar', 'lid', 'hook']],
      [2, ['near', 'jar', 'lid']],
    ]);
  });
});

describe('units', () => {
  it('a height in another unit is the height times the ratio of the two', () =>
    fc.assert(
      fc.property(real(0.01, 100), fc.constantFrom(...UNITS), fc.constantFrom(...UNITS), (h, a, b) => {
        expect(heightIn(heightIn(h, a.metres, b), b.metres, a)).toBeCloseTo(h, 9);
        expect(heightIn(h, a.metres, b)).toBeCloseTo((h / a.metres) * b.metres, 9);
      }),
    ));
  it('an unfitting unit is told for every pair of which both make a height that can be told apart', () => {
    // The international inch, foot and yard agreement of 1959: 1 in = 25.4 mm exactly.
    expect(UNITS.find((u) => u.word === 'inches')!.metres).toBe(0.0254);
    for (const wrong of UNITS)
      for (const right of UNITS)
        if (wrong !== right)
          expect(likelierUnit(1.76 * (wrong.metres / right.metres), wrong.metres, 1.76)).toBe(right);
  });
  it('a unit is called by its word, and by its metres where it has none', () =>
    expect([unitWord(0.01), unitWord(0.0254), unitWord(0.3333)]).toEqual([
      'centimetres',
      'inches',
      expect.stringContaining('0.333'),
    ]));
});

describe('measures', () => {
  const by = (c: Character, brief = handset) => new Map(measuresOf(c, brief).map((m) => [m.id, m]));
  it('are in the brief’s unit, every one', () => {
    const m = by(figure(T));
    const inches = by(figure(T), { ...handset, unit: 'in' });
    expect([...m.keys()]).toEqual([...inches.keys()]);
    for (const [id, a] of m)
      if (a.unit === 'm' && typeof a.value === 'number')
        expect(inches.get(id)!.value as number).toBeCloseTo(a.value / 0.0254, 6);
    for (const [id, a] of m) if (a.unit === '°' || a.unit === '%') expect(inches.get(id)).toEqual(a);
  });
  it('ask for what the brief asks for, and tell the rest', () => {
    const asked = by(figure(T));
    const told = by(figure(T), {
      ...handset,
      height: null,
      skeletonShare: null,
      groundTolerance: null,
      middleTolerance: null,
      stance: null,
      overlap: null,
    });
    expect([...asked.values()].filter((m) => m.state === 'told').map((m) => m.id)).toEqual(
      expect.arrayContaining(['outside-mean', 'segment-Thigh']),
    );
    for (const m of told.values())
      if (!['facing', 'up'].includes(m.id))
        expect([m.id, m.state, m.target === null || m.group === 'Proportions']).toEqual([m.id, 'told', true]);
  });
  it('a prop is known by its own name or its mesh’s, and by no other', () => {
    const c = figure(T);
    const b = box([0, 0, 0], [0.1, 0.3, 0.1]);
    const hung = (name: string, mesh: string) => ({
      ...c,
      meshes: [...c.meshes, { ...meshFrom(b.points, b.polygons), name: mesh }],
      nodes: [...c.nodes, node({ name, kind: 'mesh', mesh: 1, parent: 0 })],
    });
    const known = (name: string, mesh: string) =>
      knownProp(hung(name, mesh), c.nodes.length, handset)?.title ?? null;
    expect([
      known('Lantern_01', 'x'),
      known('obj', 'the LAMP'),
      known('obj', 'barrel'),
      known('', ''),
    ]).toEqual(['hand lamp', 'hand lamp', null, null]);
  });
});

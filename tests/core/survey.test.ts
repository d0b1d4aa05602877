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
  limbStances,
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
const stance = { arms: 0, legs: 0, bend: 0 };
const stances = fc.record({ arms: real(-70, 85), legs: real(0, 40), bend: real(0, 100) });
const turns = fc.tuple(real(-1, 1), real(-1, 1), real(0.1, 1), real(-3, 3)).map(([x, y, z, a]): Quat =>
  quatAbout(
    [x, y, z].map((bone) => bone / Math.hypot(x, y, z)),
    a,
  ),
);
const moved = (character: Character, change: { scale?: number; rotation?: Quat; translation?: Vec3 }) =>
  underSimilarity(character, { ...STILL, ...change });
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
    ...['left', 'right'].flatMap((text) =>
      ['upperarm', 'lowerarm', 'hand', 'upperleg', 'lowerleg', 'foot', 'toe'].map(
        (path) => `${path} ${text}`,
      ),
    ),
  ];
  const found = (character: Character) =>
    Object.fromEntries([...landmarksOf(character)].map(([mark, i]) => [mark, i]));
  const expected = found(figure(stance));
  it('are all there', () => expect(Object.keys(expected).sort()).toEqual(PARTS.sort()));
  it.each<[string, (name: string) => string]>([
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
          .map((word) => word[0].toUpperCase() + word.slice(1))
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
  ])('are found in names with %s', (_, named) => expect(found(figure(stance, named))).toEqual(expected));
  it('are found by shape where the names say nothing', () => {
    let k = 0;
    const by = found(figure(stance, () => `b${k++}`));
    expect(Object.keys(by).length).toBeGreaterThanOrEqual(8);
    for (const [mark, i] of Object.entries(by))
      if (/arm|leg|hand|foot|head/.test(mark)) expect([mark, i]).toEqual([mark, expected[mark]]);
  });
  it('pass over ends and twist bones', () => {
    const character = figure(stance);
    const at = character.nodes.findIndex((node) => node.name === 'left forearm');
    const more = {
      ...character,
      nodes: [
        ...character.nodes,
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
      fc.property(stances, turns, (otherStance, rotation) => {
        const limbs = limbStances(moved(figure(otherStance), { rotation }));
        expect(limbs.length).toBe(4);
        for (const limb of limbs) {
          expect(
            Math.abs(limb.angle - (limb.limb === 'arm' ? otherStance.arms : otherStance.legs)),
          ).toBeLessThan(0.01);
          expect(Math.abs(limb.bend - otherStance.bend)).toBeLessThan(0.01);
        }
      }),
      { numRuns: 60 },
    ));
  it('are not told of a figure without them', () => {
    const character = figure(stance);
    const without = (part: RegExp) =>
      limbStances({
        ...character,
        nodes: character.nodes.map((node) => (part.test(node.name) ? { ...node, name: 'x' } : node)),
      })
        .map((limb) => `${limb.limb} ${limb.side}`)
        .sort();
    expect(without(/^left hand/)).toEqual(['arm right', 'leg left', 'leg right']);
  });
});

describe('straightening', () => {
  it('a bent leg keeps its line from hip to foot, so that the feet stay under the figure', () =>
    fc.assert(
      fc.property(real(0, 14), real(25, 100), (legs, bend) => {
        const character = figure({ arms: 0, legs, bend });
        const straight = remedyById('set-stance')!.apply(character, { arms: 0, bend: 20, legs: 15 }, handset);
        const line = (otherCharacter: Character, side: string): Vec3 => {
          const at = (name: string) =>
            restPlace(
              otherCharacter.nodes,
              otherCharacter.nodes.findIndex((node) => node.name === `${side} ${name}`),
            );
          return subtract(at('foot'), at('thigh'));
        };
        for (const side of ['left', 'right'])
          expect(degreesBetween(line(character, side), line(straight, side))).toBeLessThan(1e-3);
        expect(limbStances(straight).every((limb) => Math.abs(limb.bend - 5) < 1e-3)).toBe(true);
      }),
      { numRuns: 20 },
    ));
  it('the feet stay as flat as they were, whatever the legs did', () =>
    fc.assert(
      fc.property(real(0, 40), real(0, 100), (legs, bend) => {
        fc.pre(legs > 15 || bend > 20);
        const character = figure({ arms: 0, legs, bend });
        const after = remedyById('set-stance')!.apply(character, { arms: 0, bend: 20, legs: 15 }, handset);
        const sole = (otherCharacter: Character, side: string): Vec3 => {
          const at = (name: string) =>
            restPlace(
              otherCharacter.nodes,
              otherCharacter.nodes.findIndex((node) => node.name === `${side} ${name}`),
            );
          return subtract(at('toe'), at('foot'));
        };
        for (const side of ['left', 'right'])
          expect(degreesBetween(sole(character, side), sole(after, side))).toBeLessThan(1e-3);
        // The soles are the lowest of the figure, so its height tells whether they tipped.
        const [knee, ankle] = ['left shin', 'left foot'].map(
          (name) =>
            restPlace(
              after.nodes,
              after.nodes.findIndex((node) => node.name === name),
            )[1],
        );
        expect(Math.min(knee, ankle) - 0.06 - groundGap(after)!).toBeCloseTo(0, 4);
      }),
      { numRuns: 20 },
    ));
});

describe('facing', () => {
  it.each(QUARTERS)('upright along $up, looking along $front', ({ up, front, turn }) => {
    const facing = facingOf(moved(figure(stance), { rotation: turn, translation: [3, -2, 1] }))!;
    expect([facing.up, facing.forward, facing.crossed]).toEqual([up, front, false]);
    expect(facing.upOff).toBeCloseTo(degreesBetween(AXES[up], AXES.y), 4);
    expect(facing.forwardOff(front)).toBeLessThan(1e-3);
  });
  it('its up, left and front are a right-handed frame, and turn as the figure turns', () =>
    fc.assert(
      fc.property(turns, (rotation) => {
        const bearing = bearingOf(moved(figure(stance), { rotation }))!;
        for (const [own, axis] of [
          [bearing.left, AXES.x],
          [bearing.up, AXES.y],
          [bearing.forward, AXES.z],
        ] as const)
          expect(degreesBetween(own, quatRotate(rotation, axis))).toBeLessThan(1e-3);
      }),
      { numRuns: 40 },
    ));
  it('left and right exchanged in the names are found by the toes', () => {
    const character = figure(stance, (name) =>
      name.replace(/^(left|right)/, (text) => (text === 'left' ? 'right' : 'left')),
    );
    const facing = facingOf(character)!;
    expect([facing.crossed, facing.forward]).toEqual([true, 'z']);
    // Brought to a stance, each arm stays on the side on which it is.
    const otherCharacter = remedyById('set-stance')!.apply(
      character,
      { arms: 40, bend: 20, legs: 15 },
      handset,
    );
    const at = (name: string) =>
      restPlace(
        otherCharacter.nodes,
        otherCharacter.nodes.findIndex((node) => node.name === name),
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
        const character = figure(stance);
        const head = character.nodes.findIndex((node) => node.name === 'head');
        const off = [lean, 0, stoop].map((a) => 1.54 * Math.tan((a * Math.PI) / 180));
        const stooped: Character = {
          ...character,
          nodes: replaceAt(
            character.nodes,
            new Map([
              [
                head,
                {
                  ...character.nodes[head],
                  translation: character.nodes[head].translation.map((x, k) => x + off[k]),
                },
              ],
            ]),
          ),
        };
        const facing = facingOf(stooped)!;
        expect([
          facing.upright.map((x) => Math.round(x * 1e6) / 1e6 + 0),
          facing.forward,
          facing.forwardOff('z') < 1e-3,
          facingCheck.run(stooped, handset),
        ]).toEqual([AXES.y, 'z', true, []]);
        for (const limb of limbStances(stooped))
          expect([limb.limb, Math.abs(limb.angle) < 1e-4]).toEqual([limb.limb, true]);
        const away = moved(stooped, { rotation: quatAbout([0, 1, 0], Math.PI / 2) as Quat });
        expect(facingCheck.run(away, handset).map((finding) => finding.message)).toEqual([
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
          const character = moved(figure(stance), {
            rotation: quatAbout(axis, ((back ? -tilt : tilt) * Math.PI) / 180) as Quat,
          });
          expect(facingCheck.run(character, handset)).toHaveLength(1);
          expect(facingOf(remedyById('turn-to-axes')!.apply(character, {}, handset))!.upOff).toBeLessThan(
            1e-3,
          );
        }),
        { numRuns: 20 },
      ),
  );
  it('what stands within the bound is turned by quarters exactly, and keeps what it is off', () =>
    fc.assert(
      fc.property(real(-7.9, 7.9), fc.constantFrom(1, 2, 3), (off, quarters) => {
        const character = moved(figure(stance), {
          rotation: quatAbout([1, 0, 0], (off * Math.PI) / 180) as Quat,
        });
        const at = (otherCharacter: Character) =>
          restPlace(
            otherCharacter.nodes,
            otherCharacter.nodes.findIndex((node) => node.name === 'head'),
          );
        const back = remedyById('turn-to-axes')!.apply(
          moved(character, { rotation: quatAbout([0, 1, 0], (quarters * Math.PI) / 2) as Quat }),
          {},
          handset,
        );
        expect(distance(at(back), at(character))).toBeLessThan(1e-6);
      }),
      { numRuns: 20 },
    ));
  it('a skeleton whose names do not say head or sides is told by its shape', () =>
    expect(
      facingOf(figure(stance, (name) => (/^(left|right|head|neck)/.test(name) ? 'x' : name)))?.forward,
    ).toBe('z'));
  it('a chain alone does not tell', () => {
    const character = figure(stance);
    const chain = character.nodes
      .slice(0, 14)
      .map((node, i) => ({ ...node, name: `b${i}`, parent: i - 1, mesh: -1, skin: -1 }));
    expect(facingOf({ ...character, nodes: chain, meshes: [], skins: [], clips: [] })).toBeNull();
  });
});

describe('size and place', () => {
  it('height, ground, middle and pivot follow a move and a rescale exactly', () =>
    fc.assert(
      fc.property(real(0.2, 5), fc.tuple(...[0, 1, 2].map(() => real(-3, 3))), (scale, times) => {
        const character = moved(figure(stance), { scale, translation: times as unknown as Vec3 });
        const near = scale * 1e-5;
        expect(Math.abs(bodyHeight(character)! - 1.8 * scale)).toBeLessThan(near);
        // From the toes to the head: a root in the origin stays there, wherever the figure goes, and counts
        // for nothing.
        expect(
          Math.abs(skeletonHeight(character)! - (1.6 - jointsOf(stance)['left toe'][1]) * scale),
        ).toBeLessThan(near);
        expect(Math.abs(groundGap(character)! - times[1])).toBeLessThan(near + 1e-6);
        const middle = middleOf(character)!;
        expect(middle.share).toBe(1);
        expect(Math.abs(middle.offset - times[0])).toBeLessThan(near + 1e-6);
        // The feet reach from −0.15 to 0.15 sideways, and from the heel to the toes.
        const foot = footprintOf(character)!;
        const wide = 0.17 * scale;
        expect(foot.outside[0]).toBeCloseTo(Math.max(0, Math.abs(times[0]) - wide), 4);
      }),
      { numRuns: 40 },
    ));
  it('joints inside the body are counted, and how far the others are outside is the distance to its nearest point', () => {
    const character = figure(stance);
    const all = overlapOf(character)!;
    expect([all.inside, all.joints, all.worst, all.worstNode]).toEqual([all.joints, all.joints, 0, -1]);
    const hand = character.nodes.findIndex((node) => node.name === 'left hand');
    const [x, y, z] = jointsOf(stance)['left hand'];
    // The skin is bound anew where it stands: only the joint has moved, 20 cm up.
    const nodes = replaceAt(
      character.nodes,
      new Map([
        [
          hand,
          {
            ...character.nodes[hand],
            translation: [
              character.nodes[hand].translation[0],
              character.nodes[hand].translation[1] + 0.2,
              character.nodes[hand].translation[2],
            ],
          },
        ],
      ]),
    );
    const binds = Float64Array.from(character.skins[0].inverseBinds);
    binds[hand * 16 + 13] -= 0.2;
    const overlap = overlapOf({
      ...character,
      nodes,
      skins: [{ ...character.skins[0], inverseBinds: binds }],
    })!;
    expect([
      overlap.joints - overlap.inside,
      character.nodes[overlap.worstNode].name,
      overlap.outside,
    ]).toEqual([1, 'left hand', [hand]]);
    expect(overlap.worst).toBeCloseTo(Math.hypot(0.07, 0.13, 0.07), 5);
    expect(overlap.mean).toBeCloseTo(overlap.worst, 12);
    expect([x, y, z][1]).toBeCloseTo(1.45, 12);
  });
  it('a skeleton that was scaled alone is brought back to where its joints lie inside the body, not to any size that passes', () =>
    fc.assert(
      fc.property(fc.oneof(real(0.3, 0.85), real(1.2, 3)), (factor) => {
        const character = figure(stance);
        const own = skeletonHeight(character)!;
        const fit = remedyById('fit-skeleton')!;
        const apart = fit.apply(character, { height: own * factor }, handset);
        const [finding] = skeletonHeightCheck.run(apart, handset);
        const offered = finding.remedies[0].params as { height: number };
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
        const character = figure(stance);
        const b = box([0, 0, 0], [0.1, 0.32, 0.2]);
        const hand = character.nodes.findIndex((node) => node.name === 'right hand');
        const held = {
          ...character,
          meshes: [...character.meshes, meshFrom(b.points, b.polygons)],
          nodes: [
            ...character.nodes,
            node({ name: 'hook', parent: hand, rotation, scale: [scale, scale, scale] }),
            node({ name: 'hand lamp', kind: 'mesh', mesh: 1, parent: character.nodes.length, rotation }),
          ],
        };
        expect(longSideOf(held, held.nodes.length - 1)).toBeCloseTo(0.32 * scale, 5);
        expect(bodyHeight(held)).toBeCloseTo(1.8, 5);
      }),
      { numRuns: 30 },
    ));
  it('segments are shares of the stature, of any size and place', () => {
    const by = new Map(
      segmentsOf(moved(figure(stance), { scale: 3, translation: [1, 2, 3] })).map((segment) => [
        segment.label,
        segment,
      ]),
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
    const character = figure(stance);
    expect([boxOfNode(character, 0), longSideOf(character, 0)]).toEqual([null, null]);
    expect(boxOfNode(character, character.nodes.length - 1)!.max[1]).toBeCloseTo(1.8, 6);
  });
});

describe('inherited scale', () => {
  it('is found from every scaled ancestor, however far above, with all that inherits it', () => {
    const character = figure(stance);
    const count = character.nodes.length;
    const hung: Character = {
      ...character,
      nodes: [
        ...character.nodes,
        node({ name: 'far', scale: [2, 2, 2] }),
        node({ name: 'between', parent: count }),
        node({ name: 'near', parent: count + 1, scale: [0.5, 0.5, 0.5] }),
        node({ name: 'shelf', parent: count + 2 }),
        node({ name: 'jar', kind: 'mesh', mesh: 0, parent: count + 3 }),
        node({ name: 'lid', kind: 'mesh', mesh: 0, parent: count + 4 }),
        node({ name: 'hook', kind: 'bone', parent: count + 1 }),
      ],
    };
    const found = inheritedScaleCheck
      .run(hung, handset)
      .map((finding) => [finding.count, [...finding.elements[0].ids].map((i) => hung.nodes[i].name)]);
    expect(found).toEqual([
      [3, ['far', 'jar', 'lid', 'hook']],
      [2, ['near', 'jar', 'lid']],
    ]);
  });
});

describe('units', () => {
  it('a height in another unit is the height times the ratio of the two', () =>
    fc.assert(
      fc.property(real(0.01, 100), fc.constantFrom(...UNITS), fc.constantFrom(...UNITS), (height, a, b) => {
        expect(heightIn(heightIn(height, a.metres, b), b.metres, a)).toBeCloseTo(height, 9);
        expect(heightIn(height, a.metres, b)).toBeCloseTo((height / a.metres) * b.metres, 9);
      }),
    ));
  it('an unfitting unit is told for every pair of which both make a height that can be told apart', () => {
    // The international inch, foot and yard agreement of 1959: 1 in = 25.4 mm exactly.
    expect(UNITS.find((unit) => unit.word === 'inches')!.metres).toBe(0.0254);
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
  const by = (character: Character, brief = handset) =>
    new Map(measuresOf(character, brief).map((measure) => [measure.id, measure]));
  it('are in the brief’s unit, every one', () => {
    const m = by(figure(stance));
    const inches = by(figure(stance), { ...handset, unit: 'in' });
    expect([...m.keys()]).toEqual([...inches.keys()]);
    for (const [id, measure] of m)
      if (measure.unit === 'm' && typeof measure.value === 'number')
        expect(inches.get(id)!.value as number).toBeCloseTo(measure.value / 0.0254, 6);
    for (const [id, measure] of m)
      if (measure.unit === '°' || measure.unit === '%') expect(inches.get(id)).toEqual(measure);
  });
  it('ask for what the brief asks for, and tell the rest', () => {
    const asked = by(figure(stance));
    const told = by(figure(stance), {
      ...handset,
      height: null,
      skeletonShare: null,
      groundTolerance: null,
      middleTolerance: null,
      stance: null,
      overlap: null,
    });
    expect(
      [...asked.values()].filter((measure) => measure.state === 'told').map((measure) => measure.id),
    ).toEqual(expect.arrayContaining(['outside-mean', 'segment-Thigh']));
    for (const measure of told.values())
      if (!['facing', 'up'].includes(measure.id))
        expect([
          measure.id,
          measure.state,
          measure.target === null || measure.group === 'Proportions',
        ]).toEqual([measure.id, 'told', true]);
  });
  it('a prop is known by its own name or its mesh’s, and by no other', () => {
    const character = figure(stance);
    const b = box([0, 0, 0], [0.1, 0.3, 0.1]);
    const hung = (name: string, mesh: string) => ({
      ...character,
      meshes: [...character.meshes, { ...meshFrom(b.points, b.polygons), name: mesh }],
      nodes: [...character.nodes, node({ name, kind: 'mesh', mesh: 1, parent: 0 })],
    });
    const known = (name: string, mesh: string) =>
      knownProp(hung(name, mesh), character.nodes.length, handset)?.title ?? null;
    expect([
      known('Lantern_01', 'x'),
      known('obj', 'the LAMP'),
      known('obj', 'barrel'),
      known('', ''),
    ]).toEqual(['hand lamp', 'hand lamp', null, null]);
  });
});

/** What is measured, what is found and what is offered agree with each other, however a figure was spoilt. */
import fc from 'fast-check';
import { briefById } from '@/core/house/briefs';
import { remedyById } from '@/core/house/registry';
import { audit } from '@/core/house/audit';
import { type Finding } from '@/core/contracts/finding';
import { brokenInvariants } from '@/core/character/invariants';
import { type Character, node } from '@/core/character/model';
import { underSimilarity } from '@/core/character/similarity';
import { type Quat, quatAbout } from '@/core/geometry/matrix';
import { checks } from '@/core/rooms/placement';
import { measuresOf } from '@/core/rooms/placement/measures';
import { meshFrom } from './support/build';
import { box, figure } from './support/figure';
import { real } from './support/random';

const handset = briefById('handset')!;
const placement = (character: Character) => audit(character, handset, { checks });

interface Spoilt {
  scale: number;
  aside: number;
  up: number;
  ahead: number;
  arms: number;
  legs: number;
  bend: number;
  turn: number;
  lamp: number;
  morph: number;
  holder: number;
}
const NONE: Spoilt = {
  scale: 1.76 / 1.8,
  aside: 0,
  up: 0,
  ahead: 0,
  arms: 0,
  legs: 0,
  bend: 3,
  turn: 0,
  lamp: 0.32 / (1.76 / 1.8),
  morph: 0,
  holder: 1,
};

/** A figure of the brief's height with a lamp in its hand, spoilt in the ways given. */
function spoilt(otherSpoilt: Spoilt): Character {
  const character = figure(otherSpoilt);
  const b = box([0, 0, 0], [0.1, otherSpoilt.lamp, 0.1]);
  const hand = character.nodes.findIndex((node) => node.name === 'right hand');
  const morphs = [
    {
      attributes: {
        POSITION: {
          data: new Float32Array(character.meshes[0].vertexCount * 3).fill(0.001),
          size: 3,
          normalized: false,
          type: 'VEC3',
        },
      },
    },
  ];
  const nodes = [
    ...character.nodes,
    node({
      name: 'hand lamp',
      kind: 'mesh',
      mesh: 1,
      parent: otherSpoilt.holder === 1 ? hand : character.nodes.length + 1,
    }),
  ];
  if (otherSpoilt.holder !== 1)
    nodes.push(
      node({
        name: 'grip',
        parent: hand,
        scale: [otherSpoilt.holder, otherSpoilt.holder, otherSpoilt.holder],
      }),
    );
  const held: Character = {
    ...character,
    nodes,
    meshes: [
      { ...character.meshes[0], morphs, morphWeights: [otherSpoilt.morph] },
      { ...meshFrom(b.points, b.polygons), name: 'lamp' },
    ],
  };
  return underSimilarity(held, {
    scale: otherSpoilt.scale,
    rotation: quatAbout([0, 1, 0], otherSpoilt.turn) as Quat,
    translation: [otherSpoilt.aside, otherSpoilt.up, otherSpoilt.ahead],
  });
}

const maybe = (least: number, most: number, none: number) =>
  fc.oneof({ weight: 2, arbitrary: fc.constant(none) }, { weight: 1, arbitrary: real(least, most) });
const ways: fc.Arbitrary<Spoilt> = fc.record({
  scale: maybe(0.6, 1.7, NONE.scale),
  aside: maybe(-0.5, 0.5, 0),
  up: maybe(-0.2, 0.2, 0),
  ahead: maybe(-0.6, 0.6, 0),
  arms: maybe(-30, 80, 0),
  legs: maybe(0, 30, 0),
  bend: maybe(0, 60, 3),
  turn: fc.oneof(
    { weight: 2, arbitrary: fc.constant(0) },
    { weight: 1, arbitrary: fc.constantFrom(Math.PI / 2, Math.PI, -Math.PI / 2) },
  ),
  lamp: maybe(0.1, 0.8, NONE.lamp),
  morph: maybe(0.1, 1, 0),
  holder: maybe(0.5, 2, 1),
});

it('nothing is found of the figure that is not spoilt, and all that is asked of it is met', () => {
  expect(placement(spoilt(NONE)).map((finding) => finding.message)).toEqual([]);
  expect(measuresOf(spoilt(NONE), handset).filter((measure) => measure.state === 'off')).toEqual([]);
});

it('a check finds something where its measure is off, and only there', () =>
  fc.assert(
    fc.property(ways, (otherSpoilt) => {
      const character = spoilt(otherSpoilt);
      const found = new Set(placement(character).map((finding) => finding.check));
      const off = measuresOf(character, handset).filter((measure) => measure.state === 'off');
      const any = (...ids: string[]) => off.some((measure) => ids.some((id) => measure.id.startsWith(id)));
      expect({
        height: found.has('height'),
        skeleton: found.has('skeleton-height'),
        ground: found.has('ground'),
        middle: found.has('middle'),
        facing: found.has('facing'),
        stance: found.has('stance'),
        apart: found.has('apart'),
        prop: found.has('prop-height'),
      }).toEqual({
        height: any('body-height'),
        skeleton: any('skeleton-height'),
        ground: any('ground'),
        middle: any('middle'),
        facing: any('facing', 'up'),
        stance: any('arm-', 'leg-', 'bend-'),
        apart: any('overlap', 'outside-worst'),
        prop: any('mesh-'),
      });
      // The pivot is told by the plane of symmetry where that says it already.
      expect(found.has('pivot') || found.has('middle')).toBe(any('pivot', 'middle'));
    }),
    { numRuns: 150 },
  ));

const key = (finding: Finding) => finding.check;

it('each remedy that a finding offers first mends it, and leaves the character sound', () => {
  const mended = new Set<string>();
  fc.assert(
    fc.property(ways, (otherSpoilt) => {
      const character = spoilt(otherSpoilt);
      for (const finding of placement(character)) {
        const offer = finding.remedies[0];
        if (!offer) continue;
        const remedy = remedyById(offer.id)!;
        const after = remedy.apply(
          character,
          remedy.params.validateSync(offer.params) as Record<string, unknown>,
          handset,
        );
        expect(brokenInvariants(after)).toEqual([]);
        expect([
          offer.id,
          placement(after).some(
            (otherFinding) =>
              key(otherFinding) === key(finding) && otherFinding.subject.name === finding.subject.name,
          ),
        ]).toEqual([offer.id, false]);
        mended.add(finding.check);
      }
    }),
    { numRuns: 60 },
  );
  expect([...mended]).toEqual(
    expect.arrayContaining([
      'height',
      'ground',
      'middle',
      'pivot',
      'facing',
      'stance',
      'prop-height',
      'morphs-on',
      'inherited-scale',
    ]),
  );
});

it('doing what is offered first, one after another, ends with nothing left to mend', () =>
  fc.assert(
    fc.property(ways, (otherSpoilt) => {
      let character = spoilt(otherSpoilt);
      let rounds = 0;
      for (; rounds < 14; rounds++) {
        const finding = placement(character).find((otherFinding) => otherFinding.remedies.length > 0);
        if (!finding) break;
        const remedy = remedyById(finding.remedies[0].id)!;
        character = remedy.apply(
          character,
          remedy.params.validateSync(finding.remedies[0].params) as Record<string, unknown>,
          handset,
        );
      }
      expect(placement(character).map((finding) => finding.message)).toEqual([]);
    }),
    { numRuns: 40 },
  ));

describe('a number at the edge of what is allowed', () => {
  const edge = (id: string, character: Character) =>
    placement(character).some((finding) => finding.check === id);
  it.each([1, -1])('height, side %d', (side) => {
    // With straight legs its soles stand just where they are put.
    const at = (h: number) => spoilt({ ...NONE, bend: 0, scale: h / 1.8 });
    expect([edge('height', at(1.76 + side * 0.0499)), edge('height', at(1.76 + side * 0.0501))]).toEqual([
      false,
      true,
    ]);
  });
  it.each([1, -1])('ground, side %d', (side) =>
    expect([0.0099, 0.0101].map((up) => edge('ground', spoilt({ ...NONE, bend: 0, up: side * up })))).toEqual(
      [false, true],
    ),
  );
  it.each([1, -1])('middle, side %d', (side) =>
    expect([0.0099, 0.0101].map((aside) => edge('middle', spoilt({ ...NONE, aside: side * aside })))).toEqual(
      [false, true],
    ),
  );
  it.each([1, -1])('arms, side %d', (side) =>
    expect([7.9, 8.1].map((arms) => edge('stance', spoilt({ ...NONE, arms: side * arms })))).toEqual([
      false,
      true,
    ]),
  );
  it('bend', () =>
    expect([1.9, 2.1, 19.9, 20.1].map((bend) => edge('stance', spoilt({ ...NONE, bend })))).toEqual([
      true,
      false,
      false,
      true,
    ]));
  it('legs', () =>
    expect([14.9, 15.1].map((legs) => edge('stance', spoilt({ ...NONE, legs })))).toEqual([false, true]));
  it.each([1, -1])('a known prop, side %d', (side) =>
    expect(
      [0.0299, 0.0301].map((d) =>
        edge('prop-height', spoilt({ ...NONE, lamp: (0.32 + side * d) / NONE.scale })),
      ),
    ).toEqual([false, true]),
  );
  it.each([1, -1])('facing, side %d', (side) =>
    expect(
      [7.9, 8.1].map((a) => edge('facing', spoilt({ ...NONE, turn: (side * a * Math.PI) / 180 }))),
    ).toEqual([false, true]),
  );
});

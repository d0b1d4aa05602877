/** A skeleton put into a body without bones: how near its joints come to where they were. */
import { TEMPLATES } from '@/core/anatomy/skeletons/templates';
import { skeletonOf } from '@/core/anatomy/skeleton';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { brokenInvariants } from '@/core/character/invariants';
import { bonesOf, restPlace } from '@/core/character/hierarchy';
import { placedMeshes } from '@/core/character/measure';
import { type Character, node } from '@/core/character/model';
import { STILL, underSimilarity } from '@/core/character/similarity';
import { distance, quatAbout } from '@/core/geometry/matrix';
import { briefById } from '@/core/house/briefs';
import { previewRemedy } from '@/core/house/preview';
import { checkById, remedyById } from '@/core/house/registry';
import { boundInPose } from '@/core/motion/bound-in-pose';
import { readGltf } from '@/core/formats/gltf/read';
import { writeGlb } from '@/core/formats/gltf/write';
import { castCharacter } from './support/cast';

const brief = briefById('handset')!;
const clean = castCharacter('deckhand-clean.glb');

/** Only its meshes, as they stand. */
function bare(character: Character): Character {
  const placed = placedMeshes(character);
  return {
    ...character,
    nodes: placed.map(({ node: from }, mesh) =>
      node({ name: character.nodes[from].name, kind: 'mesh', mesh }),
    ),
    meshes: placed.map(({ mesh, points }) => ({
      ...mesh,
      attributes: { ...mesh.attributes, POSITION: { ...mesh.attributes.POSITION, data: points.slice() } },
      influences: null,
      influenceStorage: null,
    })),
    skins: [],
    clips: [],
    sets: [],
    carried: { ...character.carried, scenes: [{ json: {}, roots: placed.map((_, i) => i) }] },
  };
}

const put = (character: Character, params: Readonly<Record<string, unknown>> = {}) => {
  const remedy = remedyById('put-skeleton')!;
  return previewRemedy(remedy, character, remedy.params.cast(params) as Record<string, unknown>, brief);
};

/** How far joints are from where the character that it was taken from has those of their names, of the height. */
function off(fitted: Character, original: Character): Map<string, number> {
  const places = new Map(skeletonOf(original).bones.map(({ name, place }) => [name, place]));
  return new Map(
    bonesOf(fitted).flatMap((bone) => {
      const { name } = fitted.nodes[bone];
      const place = places.get(name);
      return place ? [[name, distance(restPlace(fitted.nodes, bone), place) / 1.76] as const] : [];
    }),
  );
}

const figures: [string, Character, number][] = [
  ['as it stands', clean, 0.025],
  ['twice as large', underSimilarity(clean, { ...STILL, scale: 2 }), 0.025],
  [
    'with its arms 50° down',
    boundInPose(
      clean,
      new Map([
        [
          clean.nodes.findIndex(({ name }) => name === 'arm_upper_lt'),
          quatAbout([0, 0, 1], (-50 * Math.PI) / 180),
        ],
        [
          clean.nodes.findIndex(({ name }) => name === 'arm_upper_rt'),
          quatAbout([0, 0, 1], (50 * Math.PI) / 180),
        ],
      ]),
    ),
    0.06,
  ],
];

it.each(figures)(
  '%s: every joint comes within so much of the height of where it was',
  (_how, figure, most) => {
    const body = bare(figure);
    const [finding] = checkById('no-skeleton')!.run(body, brief);
    expect(finding.remedies.map(({ id }) => id)).toEqual(['put-skeleton']);
    const { after, effects } = put(body);
    expect(effects.outside).toEqual([]);
    expect(effects.largestMove).toBe(0);
    expect(brokenInvariants(after)).toEqual([]);
    const scale = figure === figures[1][1] ? 2 : 1;
    const shares = [...off(after, figure).values()].map((share) => share / scale);
    expect(shares.length).toBe(QUAY.bones.length);
    expect(Math.max(...shares)).toBeLessThan(most);
    expect(checkById('no-skeleton')!.run(after, brief)).toEqual([]);
    expect(checkById('mirrored-pairs')!.run(after, brief)).toEqual([]);
  },
);

it('only what is needed, and bones are bones again when the file is read', () => {
  const { after } = put(bare(clean), { template: 'vrm', needed: true });
  const needed = TEMPLATES.vrm.skeleton.bones.filter(({ name }) => !TEMPLATES.vrm.optional.has(name));
  expect(
    bonesOf(after)
      .map((bone) => after.nodes[bone].name)
      .sort(),
  ).toEqual(needed.map(({ name }) => name).sort());
  const read = readGltf([{ name: 'a.glb', bytes: writeGlb(after).bytes }]);
  expect(bonesOf(read).length).toBe(needed.length);
});

it('what has bones keeps them, and nothing is put into nothing', () => {
  expect(() => put(clean)).toThrow(/has bones already/);
  expect(() => put(bare(clean), { template: 'by-kind' })).toThrow(/nothing tells which kind of body/);
  expect(() => put({ ...bare(clean), nodes: [], meshes: [] })).toThrow(
    /no mesh that a skeleton could be put into/,
  );
});

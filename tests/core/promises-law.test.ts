import { ASPECTS } from '@/core/contracts/aspect';
import { promise } from '@/core/contracts/remedy';
import { compareRows } from '@/core/house/preview';
import fc from 'fast-check';
import { briefById } from '@/core/house/briefs';
import { effectsOf } from '@/core/house/effects';
import { REMEDIES, remedyById } from '@/core/house/registry';
import { RemedyError } from '@/core/contracts/remedy';
import { brokenInvariants } from '@/core/character/invariants';
import { parentBone, restWorld } from '@/core/character/hierarchy';
import { characterHeight } from '@/core/character/measure';
import { BODY_KINDS } from '@/core/character/body-kinds';
import { BONE_KINDS } from '@/core/character/bone-kinds';
import { TURN_ORDERS } from '@/core/geometry/turn-order';
import type { Character, Mesh } from '@/core/character/model';
import { withMeshesJoined } from '@/core/character/join-meshes';
import { type MeshPlan, remadeMesh } from '@/core/character/remake-mesh';
import { entriesOf, influencesFrom } from '@/core/geometry/influences';
import { decompose, normalise, quatAbout, quatMultiply } from '@/core/geometry/matrix';
import { node, replaceAt } from '@/core/character/model';
import { hungUnder } from '@/core/character/rehang';
import { withRoots } from '@/core/character/remove';
import { withJointsAt } from '@/core/character/place-joints';
import { underSimilarity } from '@/core/character/similarity';
import { withSplinter } from './support/build';
import { castCharacter } from './support/cast';
import { chainTube } from './support/chain';
import { withUnrulyClip } from './support/unruly-clip';
import { below } from './support/matchers';
import { dice, randomCharacter, real, seeds } from './support/random';

const brief = briefById('handset')!;

/** Some points of the first mesh that is bound. */
function somePoints(character: Character, seed: number) {
  const bound = character.nodes.findIndex(({ mesh, skin }) => mesh >= 0 && skin >= 0);
  const { vertexCount } = character.meshes[character.nodes[bound].mesh];
  return [{ node: bound, ids: [seed % vertexCount, (seed * 7 + 3) % vertexCount] }];
}

/** Remedies of clips; each is given one that wants it. */
const CLIP_REMEDIES = [
  'bridge-jumps',
  'close-loop',
  'keep-in-place',
  'drop-scale-tracks',
  'put-on-frames',
  'drop-idle-tracks',
];

/** Parameters that make sense on a random character, drawn anew for every one of them. */
const DRAW: Readonly<Record<string, (character: Character, seed: number) => Record<string, unknown>>> = {
  rescale: (_c, seed) => {
    const draw = dice(seed);
    return draw.chance(0.5)
      ? { by: 'factor', factor: draw.between(0.1, 8) }
      : { by: 'points', measured: draw.between(0.1, 2), wanted: draw.between(0.1, 2) };
  },
  'change-unit': (_c, seed) => {
    const draw = dice(seed);
    return { metres: [0.01, 0.0254, 0.3048][draw.below(3)], up: ['x', 'y', 'z'][draw.below(3)] };
  },
  'set-on-ground': () => ({}),
  ...Object.fromEntries(CLIP_REMEDIES.map((id) => [id, () => ({ clip: 0 })])),
  ...Object.fromEntries(
    [
      'remove-empty-faces',
      'remove-loose-points',
      'split-joins',
      'fill-holes',
      'mend-crossed-faces',
      'collapse-slivers',
      'recompute-normals',
    ].map((id) => [
      id,
      (character: Character) => ({ node: character.nodes.findIndex((own) => own.mesh >= 0) }),
    ]),
  ),
  ...Object.fromEntries(
    ['remove-parts', 'separate-parts', 'mark-parts'].map((id) => [
      id,
      (_c: Character, seed: number) => ({
        polygons: [{ node: TWO_TUBES, ids: [seed % 400] }],
        ...(id === 'mark-parts' ? { kind: 'hat', rigid: seed % 2 === 0 } : {}),
      }),
    ]),
  ),
  'match-sides': (character, seed) => ({
    node: character.nodes.findIndex((own) => own.mesh >= 0),
    from: ['both', 'left', 'right'][seed % 3],
  }),
  'close-seams': (character) => ({ node: character.nodes.findIndex((own) => own.mesh >= 0) }),
  'join-meshes': () => ({ nodes: [TWO_TUBES, TWO_TUBES + 1] }),
  'split-by-material': () => ({ node: TWO_TUBES }),
  'keep-quads': (character) => ({ node: character.nodes.findIndex((own) => own.mesh >= 0) }),
  'turn-faces': (character) => ({ node: character.nodes.findIndex((node) => node.mesh >= 0) }),
  'join-roots': (character, bone) => {
    const roots = character.nodes.flatMap((node, i) =>
      node.kind === 'bone' && parentBone(character.nodes, i) < 0 ? [i] : [],
    );
    return { bone: roots[bone % Math.max(1, roots.length)] ?? 0 };
  },
  'add-root': () => ({ name: 'ground' }),
  'settle-on-bone': (character, s) => {
    const rigid = character.nodes.flatMap((node, i) => (node.mesh >= 0 && node.skin < 0 ? [i] : []));
    return { node: rigid[s % Math.max(1, rigid.length)] ?? 0 };
  },
  'keep-set': (character, s) => ({
    name: 'some',
    bones: character.nodes.flatMap((node, i) => (node.kind === 'bone' && i % 3 === s % 3 ? [i] : [])),
    polygons: character.nodes.flatMap((node, i) => (node.mesh >= 0 ? [{ node: i, ids: [0] }] : [])),
  }),
  'brush-weights': (character, s) => {
    const bound = character.nodes.findIndex(({ mesh, skin }) => mesh >= 0 && skin >= 0);
    const { joints } = character.skins[character.nodes[bound].skin];
    const rows = { offsets: Uint32Array.of(0, 1), joint: Uint32Array.of(0), weight: Float32Array.of(1) };
    return { bones: [joints[s % joints.length]], points: [{ node: bound, ids: [s % 5], rows }] };
  },
  'join-entries': () => ({}),
  'edit-weights': (character, s) => ({
    vertices: somePoints(character, s),
    bone: someBone(character, dice(s)),
    how: ['set', 'add', 'take', 'scale', 'blend'][s % 5],
    value: dice(s).between(0, 1),
  }),
  'take-bone-out': (character, s) => {
    const [{ node: bound, ids }] = somePoints(character, s);
    const { mesh, skin } = character.nodes[bound];
    const [entry] = entriesOf(character.meshes[mesh].influences!, ids[0]);
    return {
      vertices: [{ node: bound, ids }],
      bone: character.skins[skin].joints[entry?.joint ?? 0],
      where: ['here', 'mesh', 'everywhere'][s % 3],
    };
  },
  'split-between': (character, s) => ({
    vertices: somePoints(character, s),
    bone: someBone(character, dice(s)),
    other: character.nodes.findIndex(({ kind }, i) => kind === 'bone' && i !== someBone(character, dice(s))),
    share: dice(s).between(0, 1),
  }),
  'average-weights': (character, s) => ({ vertices: somePoints(character, s) }),
  'fade-weight': (character, s) => ({
    vertices: somePoints(character, s),
    bone: someBone(character, dice(s)),
    share: dice(s).between(0.1, 1),
    distance: dice(s).between(0.01, 2),
  }),
  'smooth-weights': (character, s) => ({ vertices: somePoints(character, s), rounds: 1 + (s % 4) }),
  'mirror-weights': (character, s) => ({
    node: character.nodes.findIndex((own) => own.mesh >= 0 && own.skin >= 0),
    from: ['left', 'right'][s % 2],
  }),
  'set-band': (character, s) => ({
    bone: someBone(character, dice(s)),
    width: dice(s).between(0.01, 1),
  }),
  'make-rigid': (character, s) => ({
    polygons: [{ node: character.nodes.findIndex((own) => own.mesh >= 0 && own.skin >= 0), ids: [0] }],
    bone: someBone(character, dice(s)),
    isMarked: s % 2 === 0,
  }),
  bind: (character, s) => ({
    nodes: [character.nodes.findIndex((own) => own.mesh >= 0 && own.skin >= 0)],
    method: s % 2 ? 'heat' : 'near',
  }),
  'copy-weights': (character, s) => ({
    node: character.nodes.findIndex((own) => own.name === 'crate'),
    from: character.nodes.findIndex((own) => own.mesh >= 0 && own.skin >= 0),
    distance: dice(s).between(0.1, 5),
  }),
  'change-set': (_c, s) => ({ set: 0, name: `set ${s % 3}`, tint: '#123456' }),
  'set-members': (character, s) => ({
    set: 0,
    bones: [someBone(character, dice(s))],
    way: ['in', 'out', 'over'][s % 3],
  }),
  'remove-set': () => ({ set: 0 }),
  'body-kind': (_c, s) => ({ kind: BODY_KINDS[s % BODY_KINDS.length] }),
  centre: () => ({}),
  'bake-scale': (character, s) => {
    const scaled = character.nodes.flatMap((node, i) => (node.scale.some((x) => x !== 1) ? [i] : []));
    return { node: scaled.length > 0 ? scaled[s % scaled.length] : 0 };
  },
  'bake-transform': (character) => ({ node: character.nodes.findIndex((node) => node.name === 'crate') }),
  'detach-keep-size': (character, s) => ({
    node: character.nodes.findIndex((node) => node.name === (s % 2 ? 'crate' : 'lid')),
  }),
  'detach-own-size': (character) => ({ node: character.nodes.findIndex((node) => node.name === 'crate') }),
  'rescale-prop': (character, seed) => ({
    node: character.nodes.findIndex((node) => node.name === 'lamp'),
    factor: dice(seed).between(0.3, 3),
  }),
  'fit-skeleton': (_c, seed) => ({ height: dice(seed).between(0.5, 3) }),
  'choose-driver': (character) => ({
    node: character.nodes.findIndex((node) => node.name === 'body'),
    driver: 'bones',
  }),
  'remove-strays': () => ({}),
  'return-to-rest': () => ({}),
  'recompute-binds': (_c, s) => ({ skin: s % 2, keep: s % 3 ? 'shape' : 'bind' }),
  'place-part': (character, seed) => {
    const draw = dice(seed);
    const turn = quatAbout(normalise([draw.between(-1, 1), 1, draw.between(-1, 1)]), draw.between(-3, 3));
    return {
      node: character.nodes.findIndex((node) => node.name === (seed % 2 ? 'lamp' : 'crate')),
      place: somewhere(draw),
      turn,
    };
  },
  'centre-joints': (character, seed) => ({
    bones: character.nodes.flatMap(({ kind }, i) => (kind === 'bone' ? [i] : [])).slice(seed % 7),
    to: (['middle', 'loops', 'outside'] as const)[seed % 3],
    share: 0.5,
  }),
  'move-joint': (character, seed) => {
    const draw = dice(seed);
    return { bone: someBone(character, draw), place: somewhere(draw), alone: draw.chance(0.5) };
  },
  rename: (character, seed) => ({
    table: { [character.nodes[someBone(character, dice(seed))].name]: 'called otherwise' },
  }),
  'follow-convention': () => ({}),
  'extend-names': (_c, s) => ({ letters: 'crew_', place: s % 2 ? 'before' : 'after' }),
  'shorten-names': (_c, s) => ({ count: 1 + (s % 3), from: s % 2 ? 'first' : 'last' }),
  'replace-in-names': (_c, s) => ({ letters: 'aeiou'[s % 5], by: s % 2 ? '' : 'y' }),
  'number-chains': (character, seed) => ({
    bones: [someBone(character, dice(seed)), someBone(character, dice(seed + 1))],
  }),
  'swap-sides': () => ({}),
  'match-twins': (character, seed) => ({
    bones: character.nodes.flatMap(({ name }, i) => (name.endsWith('_r') && i % 2 === seed % 2 ? [i] : [])),
    what: (['axes', 'places', 'both'] as const)[seed % 3],
  }),
  'mirror-branch': (character, seed) => ({ bone: someBone(character, dice(seed)) }),
  'turn-axes': (character, seed) => ({
    bones: [someBone(character, dice(seed)), someBone(character, dice(seed + 1))],
    axis: 'xyz'[seed % 3],
    angle: dice(seed).between(-170, 170),
  }),
  'align-axes': (character, seed) => ({
    bones: character.nodes.flatMap(({ kind }, i) => (kind === 'bone' ? [i] : [])),
    along: (['x', '-y', 'z-either'] as const)[seed % 3],
    hinge: (['as-is', 'x', 'y'] as const)[seed % 3],
  }),
  'zero-rotations': (character, seed) => ({
    bones: [someBone(character, dice(seed)), someBone(character, dice(seed + 1))],
  }),
  'turn-order': (character, seed) => ({
    bones: character.nodes.flatMap(({ kind }, i) => (kind === 'bone' ? [i] : [])).slice(seed % 5, 9),
    order: TURN_ORDERS[seed % TURN_ORDERS.length],
  }),
  'bone-kind': (character, seed) => ({
    bones: [someBone(character, dice(seed))],
    kind: BONE_KINDS[seed % BONE_KINDS.length],
  }),
  graft: (character, seed) => {
    const draw = dice(seed);
    const bone = someBone(character, draw);
    const meeting = seed % 2 ? { joint: bone, onto: someBone(character, draw) } : {};
    return { bone, under: someBone(character, draw), ...meeting };
  },
  'add-helper': (character, s) => ({ bone: someBone(character, dice(s)), reach: 0.2 + (s % 4) }),
  'put-skeleton': (_c, s) => ({ template: s % 2 ? 'vrm' : 'winged', needed: s % 3 === 0 }),
  'turn-limb': (character, s) => ({
    bone: someBone(character, dice(s)),
    angle: ((s % 300) - 150) / 2,
    about: ['own-x', 'own-z', 'world-y'][s % 3],
    skin: s % 2 ? 'along' : 'stays',
  }),
  'lengthen-limb': (character, s) => ({
    bones: [someBone(character, dice(s))],
    percent: 50 + (s % 100),
    skin: s % 2 ? 'along' : 'stays',
  }),
  'add-bone': (character, s) => ({
    under: someBone(character, dice(s)),
    name: 'put in',
    share: (s % 10) / 10,
    split: s % 3 === 0,
  }),
  'add-ends': (character, s) => ({ bones: s % 2 ? [] : [someBone(character, dice(s))] }),
  'names-by-role': (_c, s) => ({ template: s % 2 ? 'vrm' : 'quay' }),
  'add-expected': (_c, s) => ({ template: ['vrm', 'quay', 'h-anim', 'four-legged'][s % 4] }),
  'fold-to-budget': (_c, s) => ({ most: 1 + (s % 4) }),
  'fold-bones': (character, seed) => ({
    bones: [someBone(character, dice(seed)), someBone(character, dice(seed + 1))],
    into: seed % 2 ? someBone(character, dice(seed + 2)) : -1,
  }),
  're-hang': (character, seed) => {
    const draw = dice(seed);
    return { bone: someBone(character, draw), parent: someBone(character, draw) };
  },
  'root-to-origin': (character, seed) => ({ bone: someBone(character, dice(seed)) }),
  'merge-points': (character, seed) => {
    const shown = character.nodes.flatMap((node, i) => (node.mesh >= 0 ? [i] : []));
    return { node: shown[seed % shown.length], distance: dice(seed).between(0.05, 0.4) };
  },
  'limit-influences': (_c, s) => ({ limit: 1 + (s % 3), dust: (s % 5) * 0.02 }),
  'fill-weights': () => ({ limit: 3 }),
  'give-to-parent': (character, seed) => ({ bone: someBone(character, dice(seed)) }),
};

type Dice = ReturnType<typeof dice>;

const somewhere = (draw: Dice) => [draw.between(-1, 1), draw.between(0, 2), draw.between(-1, 1)];

const someBone = (character: Character, draw: Dice): number => {
  const bones = character.nodes.flatMap((node, i) => (node.kind === 'bone' ? [i] : []));
  return bones[draw.below(bones.length)];
};

/** The character with other names for all nodes. */
const calledBy = (character: Character, nameOf: (i: number) => string): Character => ({
  ...character,
  nodes: character.nodes.map((node, i) => ({ ...node, name: nameOf(i) })),
});

/** A character some of whose points carry nothing. */
const withBarePoints = (character: Character): Character => ({
  ...character,
  meshes: character.meshes.map((mesh) => {
    const influences = mesh.influences;
    if (!influences) return mesh;
    const weight = influences.weight.slice();
    for (let vertex = 0; vertex < mesh.vertexCount; vertex += 7)
      weight.fill(0, influences.offsets[vertex], influences.offsets[vertex + 1]);
    return { ...mesh, influences: { ...influences, weight } };
  }),
});

/** A character whose skeleton stands in a pose, for the remedies about rest and bind. */
const posed = (character: Character, seed: number): Character => {
  const draw = dice(seed ^ 0x5f3759df);
  return {
    ...character,
    nodes: replaceAt(
      character.nodes,
      new Map(
        character.nodes.flatMap((node, i) =>
          node.kind === 'bone' && draw.chance(0.5)
            ? [
                [
                  i,
                  {
                    ...node,
                    rotation: quatMultiply(node.rotation, quatAbout([0, 1, 0], draw.between(-1, 1))),
                  },
                ] as const,
              ]
            : [],
        ),
      ),
    ),
  };
};

/** What a random character needs for a remedy to have something to do. */
/** A tube on a chain, and another one beside it that nothing is done to. */
function tubeBesideTube(bones: number): Character {
  const tube = chainTube(bones);
  const [mesh] = tube.meshes;
  const [scene] = tube.carried.scenes;
  return {
    ...tube,
    nodes: [...tube.nodes, node({ name: 'beside', kind: 'mesh', mesh: 1, translation: [1, 0, 0] })],
    meshes: [mesh, { ...mesh, influences: null, influenceStorage: null }],
    carried: { ...tube.carried, scenes: [{ ...scene, roots: [...scene.roots, tube.nodes.length] }] },
  };
}

/** The node of the first tube in {@link twoTubes}. */
const TWO_TUBES = 3;

/** Two tubes on one chain of three bones, the second beside the first, in a mesh each; and one that nothing is done to. */
function twoTubes(seed: number): Character {
  const tube = chainTube(3);
  const [mesh] = tube.meshes;
  const [scene] = tube.carried.scenes;
  const draw = dice(seed);
  const aside = draw.between(0.5, 2);
  const positions = mesh.attributes.POSITION.data.map((x, i) => (i % 3 === 0 ? x + aside : x));
  const POSITION = { ...mesh.attributes.POSITION, data: positions };
  const other = { ...mesh, attributes: { ...mesh.attributes, POSITION } };
  const shows = tube.nodes.findIndex((own) => own.mesh >= 0);
  const free = { ...other, influences: null, influenceStorage: null };
  return {
    ...tube,
    nodes: [
      ...tube.nodes,
      { ...tube.nodes[shows], name: 'other tube', mesh: 1 },
      node({ name: 'beside', kind: 'mesh', mesh: 2, translation: [3, 0, 0] }),
    ],
    meshes: [mesh, { ...other, pieces: other.pieces.map((piece) => ({ ...piece, material: 1 })) }, free],
    carried: {
      ...tube.carried,
      materials: [{ name: 'one' }, { name: 'two' }],
      scenes: [{ ...scene, roots: [...scene.roots, tube.nodes.length, tube.nodes.length + 1] }],
    },
  };
}

const twoTubesInOne = (seed: number) => withMeshesJoined(twoTubes(seed), TWO_TUBES, [TWO_TUBES + 1]);

/** A character whose first mesh that is shown is made anew as planned. */
function withRemade(character: Character, plan: (mesh: Mesh) => MeshPlan): Character {
  const { mesh } = character.nodes.find((own) => own.mesh >= 0)!;
  const before = character.meshes[mesh];
  return {
    ...character,
    meshes: replaceAt(character.meshes, new Map([[mesh, remadeMesh(before, plan(before))]])),
  };
}

const unrulyClip = (character: Character, seed: number) =>
  withUnrulyClip(character.skins.length > 0 ? character : chainTube(3), 8 + (seed % 30));

const PREPARED: Readonly<Record<string, (character: Character, seed: number) => Character>> = {
  'join-roots': (character, seed) => {
    const bone = someBone(character, dice(seed));
    const loose = {
      ...character,
      nodes: replaceAt(character.nodes, new Map([[bone, hungUnder(character, bone, -1)]])),
    };
    return withRoots(loose);
  },
  'follow-convention': (character) => calledBy(character, (i) => `Crew Part ${i}`),
  'number-chains': (character) => calledBy(character, (i) => `part_${String.fromCharCode(97 + i)}`),
  'mirror-branch': (character) => calledBy(character, (i) => `part_${i}_l`),
  'match-twins': (character) => calledBy(character, (i) => `part_${i >> 1}_${i % 2 ? 'l' : 'r'}`),
  'swap-sides': (character) => calledBy(character, (i) => `part_${i >> 1}_${i % 2 ? 'l' : 'r'}`),
  'put-skeleton': (character) => ({
    ...character,
    nodes: character.nodes.map((own) =>
      own.kind === 'bone' ? { ...own, kind: 'empty' as const } : { ...own, skin: -1 },
    ),
    meshes: character.meshes.map((mesh) => ({ ...mesh, influences: null, influenceStorage: null })),
    skins: [],
    sets: [],
  }),
  'remove-empty-faces': (character) =>
    withRemade(character, ({ corners }) => ({
      added: [{ piece: 0, corners: [corners[0], corners[1], corners[0]] }],
    })),
  'mend-crossed-faces': (_c, seed) =>
    withRemade(tubeBesideTube(2 + (seed % 4)), ({ corners }) => {
      const goneFaces = new Uint8Array(320);
      const face = 40 + (seed % 200);
      goneFaces[face] = 1;
      const [a, b, ...others] = corners.subarray(face * 4, face * 4 + 4);
      return { goneFaces, added: [{ piece: 0, corners: [b, a, ...others] }] };
    }),
  'collapse-slivers': (_c, seed) => {
    const tube = tubeBesideTube(2 + (seed % 4));
    const [mesh, ...others] = tube.meshes;
    return { ...tube, meshes: [withSplinter(mesh, 40 + (seed % 200)), ...others] };
  },
  'remove-loose-points': (character, seed) =>
    withRemade(character, ({ vertexCount }) => ({ copies: [0, seed % vertexCount] })),
  'split-joins': (character, seed) =>
    withRemade(tubeBesideTube(2 + (seed % 4)), ({ corners, vertexCount }) => ({
      copies: [corners[2]],
      added: [{ piece: 0, corners: [corners[0], corners[1], vertexCount] }],
    })),
  'fill-holes': (_c, seed) =>
    withRemade(tubeBesideTube(2 + (seed % 4)), () => {
      const goneFaces = new Uint8Array(320);
      goneFaces[40 + (seed % 200)] = 1;
      return { goneFaces };
    }),
  'remove-parts': (_c, seed) => twoTubesInOne(seed),
  'separate-parts': (_c, seed) => twoTubesInOne(seed),
  'mark-parts': (_c, seed) => twoTubesInOne(seed),
  'match-sides': (_c, seed) => {
    const tube = tubeBesideTube(2 + (seed % 4));
    const [mesh, ...others] = tube.meshes;
    const from = (seed % 200) * 3;
    const data = mesh.attributes.POSITION.data.map((x, i) => (i >= from && i < from + 30 ? x + 0.002 : x));
    const attributes = { ...mesh.attributes, POSITION: { ...mesh.attributes.POSITION, data } };
    return { ...tube, meshes: [{ ...mesh, attributes }, ...others] };
  },
  'close-seams': (_c, seed) => {
    const tube = tubeBesideTube(2 + (seed % 4));
    const [mesh, ...others] = tube.meshes;
    const split = remadeMesh(mesh, {
      copies: [mesh.corners[seed % 300]],
      cornerOn: new Map([[seed % 300, mesh.vertexCount]]),
    });
    const rows = Array.from({ length: split.vertexCount }, (_, vertex) =>
      entriesOf(split.influences!, vertex).map(({ joint, weight }): [number, number] => [joint, weight]),
    );
    rows[mesh.vertexCount] = [[rows[mesh.vertexCount][0][0] === 0 ? 1 : 0, 1]];
    return { ...tube, meshes: [{ ...split, influences: influencesFrom(rows) }, ...others] };
  },
  'mirror-weights': (_c, seed) => {
    const tube = tubeBesideTube(2 + (seed % 4));
    const [mesh, ...others] = tube.meshes;
    const rows = Array.from({ length: mesh.vertexCount }, (_, vertex) =>
      entriesOf(mesh.influences!, vertex).map(({ joint, weight }): [number, number] => [joint, weight]),
    );
    for (let k = 0; k < 20; k++) rows[(seed + k) % rows.length] = [[k % 2, 1]];
    return { ...tube, meshes: [{ ...mesh, influences: influencesFrom(rows) }, ...others] };
  },
  'join-entries': (character) => ({
    ...character,
    meshes: character.meshes.map((mesh) => {
      if (!mesh.influences) return mesh;
      const rows = Array.from({ length: mesh.vertexCount }, (_, vertex) =>
        entriesOf(mesh.influences!, vertex).flatMap(({ joint, weight }): [number, number][] => [
          [joint, weight / 2],
          [joint, weight / 2],
        ]),
      );
      return { ...mesh, influences: influencesFrom(rows) };
    }),
  }),
  'join-meshes': (_c, seed) => twoTubes(seed),
  'split-by-material': (_c, seed) => twoTubesInOne(seed),
  'keep-quads': (character) => {
    const { mesh } = character.nodes.find((own) => own.mesh >= 0)!;
    const recovered = { ...character.meshes[mesh], polygonOrigin: 'recovered' as const };
    return { ...character, meshes: replaceAt(character.meshes, new Map([[mesh, recovered]])) };
  },
  // A limb that is closed round its joints, which lie beside its middle.
  'centre-joints': (_c, seed) => {
    const draw = dice(seed);
    const beside = (bone: number) =>
      [draw.between(-0.05, 0.05), bone * 0.5 + 0.02, draw.between(-0.05, 0.05)] as const;
    return withJointsAt(chainTube(4), new Map([1, 2, 3].map((bone) => [bone, beside(bone)])));
  },
  ...Object.fromEntries(CLIP_REMEDIES.map((id) => [id, unrulyClip])),
  'return-to-rest': posed,
  'recompute-binds': posed,
  'fill-weights': withBarePoints,
};

/**
 * A figure with a head, feet and two sides, which a random tree of bones has not: one of the cast, turned,
 * moved and sized at random. Its own mesh stands beside it once more, bound to nothing, so that there is
 * something that a change of stance leaves.
 */
const figureSomewhere = (seed: number): Character => {
  const draw = dice(seed);
  const axis = normalise([draw.between(-1, 1), draw.between(-1, 1), draw.between(-1, 1) + 1e-3]);
  const character = underSimilarity(castCharacter(draw.chance(0.5) ? 'stoker.dae' : 'deckhand.glb'), {
    scale: draw.between(0.3, 3),
    rotation: quatAbout(axis, draw.between(0.4, 2.8)),
    translation: [draw.between(-1, 1), draw.between(-1, 1), draw.between(-1, 1)],
  });
  const beside = character.nodes.length;
  return {
    ...character,
    nodes: [...character.nodes, node({ name: 'beside', kind: 'mesh', mesh: 0, translation: [2, 0, 0] })],
    carried: {
      ...character.carried,
      scenes: character.carried.scenes.map((scene, i) =>
        i === character.carried.scene ? { ...scene, roots: [...scene.roots, beside] } : scene,
      ),
    },
  };
};

/**
 * Runs the remedy on what is given and holds what it says against what it did. Null where the remedy refuses.
 */
function holds(
  id: string,
  before: Character,
  drawn: Record<string, unknown>,
): { readonly watched: number } | null {
  const remedy = remedyById(id)!;
  let after: Character;
  let params: Record<string, unknown>;
  try {
    params = remedy.params.validateSync(drawn) as Record<string, unknown>;
    after = remedy.apply(before, params, brief);
  } catch (error) {
    if (error instanceof RemedyError || (error as Error).name === 'ValidationError') return null;
    throw error;
  }
  expect(brokenInvariants(after)).toEqual([]);
  const promised = remedy.promises(before, params, brief);
  const { others, outside } = effectsOf(before, after, promised);
  expect(outside).toEqual([]);
  expect({
    of: others.largest / (characterHeight(before) * promised.similarity.scale),
    where: others.where,
  }).toMatchObject({ of: below(1e-5) });
  // What the preview says is computed from the same thing, so it must not break either.
  expect(compareRows(remedy, before, after, params, brief).length).toBeGreaterThan(0);
  return { watched: others.meshes };
}

describe('what a remedy promises about everything that it shows holds, within 1e-5 of the height', () => {
  it.each(Object.keys(DRAW))('%s', (id) => {
    let applied = 0;
    let watched = 0;
    fc.assert(
      fc.property(seeds, seeds, (seed, draw) => {
        const before = (PREPARED[id] ?? ((character: Character) => character))(randomCharacter(seed), draw);
        expect(brokenInvariants(before)).toEqual([]);
        const done = holds(id, before, DRAW[id](before, draw));
        if (done) {
          applied++;
          watched += done.watched;
        }
      }),
      { numRuns: 60 },
    );
    expect(applied).toBeGreaterThan(10);
    expect(watched).toBeGreaterThan(0);
  });
  it('morphs-off', () => {
    let applied = 0;
    fc.assert(
      fc.property(seeds, (seed) => {
        const character = randomCharacter(seed);
        const done = holds('morphs-off', character, {
          node: character.nodes.findIndex((node) => node.name === 'body'),
        });
        if (done) {
          applied++;
          expect(done.watched).toBeGreaterThan(0);
        }
      }),
      { numRuns: 40 },
    );
    expect(applied).toBeGreaterThan(10);
  });
  it('turn-to-axes, from whatever side', () =>
    fc.assert(
      fc.property(seeds, (seed) =>
        expect(holds('turn-to-axes', figureSomewhere(seed), {})!.watched).toBeGreaterThan(0),
      ),
      { numRuns: 6 },
    ));
  it('set-stance, from whatever side, to whatever stance', () =>
    fc.assert(
      fc.property(seeds, seeds, (seed, draw) => {
        const otherDraw = dice(draw);
        const done = holds('set-stance', figureSomewhere(seed), {
          arms: otherDraw.between(-20, 80),
          bend: otherDraw.between(5, 40),
          legs: otherDraw.between(1, 20),
        });
        expect(done!.watched).toBeGreaterThan(0);
      }),
      { numRuns: 6 },
    ));
  it('every remedy of the house is drawn here', () =>
    expect(REMEDIES.map((remedy) => remedy.id).sort()).toEqual(
      [...Object.keys(DRAW), 'morphs-off', 'turn-to-axes', 'set-stance'].sort(),
    ));
});

it('a remedy that lies about what it leaves alone is found out', () => {
  const character = randomCharacter(7);
  const body = character.nodes.findIndex((node) => node.name === 'body');
  const moved = {
    ...character,
    meshes: character.meshes.map((mesh, i) =>
      i === character.nodes[body].mesh
        ? {
            ...mesh,
            attributes: {
              ...mesh.attributes,
              POSITION: {
                ...mesh.attributes.POSITION,
                data: (mesh.attributes.POSITION.data as Float32Array).map((x, k) =>
                  k === 30 ? x + 0.001 : x,
                ),
              },
            },
          }
        : mesh,
    ),
  };
  const { others } = effectsOf(character, moved, promise(ASPECTS));
  expect(others.largest).toBeGreaterThan(1e-4);
  expect(others.where).toMatch(/^body/);
});

it('a morph target that was forgotten is found out, on or off', () => {
  const character = randomCharacter(7);
  const remedy = remedyById('rescale')!;
  const params = { by: 'factor', factor: 2 };
  const after = remedy.apply(character, params, brief);
  const forgotten = {
    ...after,
    meshes: after.meshes.map((mesh, i) => ({
      ...mesh,
      morphs: character.meshes[i].morphs,
      morphWeights: mesh.morphs.map(() => 0),
    })),
  };
  const off = {
    ...character,
    meshes: character.meshes.map((mesh) => ({ ...mesh, morphWeights: mesh.morphs.map(() => 0) })),
  };
  const { others } = effectsOf(off, forgotten, remedy.promises!(character, params, brief));
  expect(others.largest).toBeGreaterThan(0.01);
  expect(others.where).toMatch(/morph targets on/);
});

it('rescaling leaves every node scale as it is and multiplies every place by the factor', () => {
  fc.assert(
    fc.property(seeds, real(0.2, 5), (seed, factor) => {
      fc.pre(Math.abs(factor - 1) > 1e-6);
      const character = randomCharacter(seed);
      const after = remedyById('rescale')!.apply(character, { by: 'factor', factor }, brief);
      const [a, b] = [restWorld(character.nodes), restWorld(after.nodes)];
      character.nodes.forEach((node, i) => {
        expect(after.nodes[i].scale).toEqual(node.scale);
        for (let k = 12; k < 15; k++) expect(b[i * 16 + k]).toBeCloseTo(a[i * 16 + k] * factor, 9);
      });
    }),
    { numRuns: 40 },
  );
});

it('setting on the ground leaves a root bone in the origin where it is, and puts the lowest point at 0', () => {
  let held = 0;
  fc.assert(
    fc.property(seeds, (seed) => {
      const character = randomCharacter(seed);
      const root = character.nodes.findIndex((node) => node.name === 'root');
      const weightless: Character = {
        ...character,
        meshes: character.meshes.map((mesh, i) =>
          i === 0 && mesh.influences
            ? {
                ...mesh,
                influences: { ...mesh.influences, joint: mesh.influences.joint.map((j) => Math.max(1, j)) },
              }
            : mesh,
        ),
      };
      fc.pre(root >= 0);
      const after = remedyById('set-on-ground')!.apply(weightless, {}, brief);
      expect(decompose(restWorld(after.nodes), root * 16).translation.map(Math.abs)).toEqual([0, 0, 0]);
      held++;
    }),
    { numRuns: 40 },
  );
  expect(held).toBeGreaterThan(5);
});

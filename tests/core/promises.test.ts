/**
 * What every remedy says of itself holds: what the preview shows comes true, nothing given is touched, a
 * second time there is nothing left to do where the first did all of it, and what cannot be done is refused
 * in one sentence.
 */
import { previewRemedy } from '@/core/house/preview';
import { briefById } from '@/core/house/briefs';
import { REMEDIES, remedyById } from '@/core/house/registry';
import { NothingToDo, type Remedy, RemedyError } from '@/core/contracts/remedy';
import { brokenInvariants } from '@/core/character/invariants';
import { type Character, type Mesh, node, replaceAt } from '@/core/character/model';
import { type MeshPlan, remadeMesh } from '@/core/character/remake-mesh';
import { hungUnder } from '@/core/character/rehang';
import { withRoots } from '@/core/character/remove';
import { underSimilarity, STILL } from '@/core/character/similarity';
import { entriesOf, influencesFrom } from '@/core/geometry/influences';
import { quatAbout } from '@/core/geometry/matrix';
import { chainTube } from './support/chain';
import { withUnrulyClip } from './support/unruly-clip';
import { meshFrom, tube, withSplinter } from './support/build';
import { box, figure } from './support/figure';

const brief = briefById('handset')!;
const params = (remedy: Remedy, given: object) =>
  remedy.params.validateSync(given) as Record<string, unknown>;

/** A figure with something to do for every remedy of the house. */
function wanting(): Character {
  const character = underSimilarity(figure({ arms: 40, legs: 0, bend: 0 }), {
    scale: 1.3,
    rotation: quatAbout([0, 1, 0], 0.7),
    translation: [0.4, 0.2, 0.1],
  });
  const hand = character.nodes.findIndex((node) => node.name === 'right hand');
  const head = character.nodes.findIndex((node) => node.name === 'head');
  const body = character.meshes[0];
  const vertexCount = body.vertexCount;
  const rows = Array.from({ length: vertexCount }, (_, vertex): [number, number][] => {
    const [from, to] = [body.influences!.offsets[vertex], body.influences!.offsets[vertex + 1]];
    const own = Array.from({ length: to - from }, (_x, k): [number, number] => [
      body.influences!.joint[from + k],
      0.75,
    ]);
    // Some share themselves out over five more bones, some over none.
    if (vertex % 9 === 0) return [];
    if (vertex % 3 === 0)
      return [
        ...own,
        ...[1, 2, 3, 4].map((j): [number, number] => [
          (own[0][0] + j) % character.skins[0].joints.length,
          0.0625,
        ]),
      ];
    return own.map(([j]) => [j, 1]);
  });
  const lamp = box([0, 0, 0], [0.1, 0.2, 0.1]);
  // Two quads that meet in an edge, whose points were never merged.
  const loose = meshFrom(
    [
      [0, 0, 0],
      [1, 0, 0],
      [1, 1, 0],
      [0, 1, 0],
      [1.00005, 0, 0],
      [2, 0, 0],
      [2, 1, 0],
      [1.00005, 1, 0],
    ],
    [
      [0, 1, 2, 3],
      [4, 5, 6, 7],
    ],
  );
  const target = {
    attributes: {
      POSITION: {
        data: new Float32Array(vertexCount * 3).fill(0.01),
        size: 3,
        normalized: false,
        type: 'VEC3',
      },
    },
  };
  return {
    ...character,
    meshes: [
      { ...body, influences: influencesFrom(rows), morphs: [target], morphWeights: [0.5] },
      { ...meshFrom(lamp.points, lamp.polygons), name: 'lamp' },
      { ...loose, name: 'patch' },
    ],
    nodes: [
      ...character.nodes,
      node({ name: 'grip', parent: hand, scale: [1.5, 1.5, 1.5] }),
      node({
        name: 'hand lamp',
        kind: 'mesh',
        mesh: 1,
        parent: character.nodes.length,
        rotation: quatAbout([0, 0, 1], 0.3),
      }),
      node({ name: 'patch', kind: 'mesh', mesh: 2, rotation: quatAbout([1, 0, 0], 0.4) }),
      node({ name: 'left over', kind: 'empty' }),
      node({ name: 'body again', kind: 'mesh', mesh: 0, skin: 0, parent: head }),
    ],
    carried: {
      ...character.carried,
      scenes: [
        {
          json: {},
          roots: [
            ...character.carried.scenes[0].roots,
            character.nodes.length + 2,
            character.nodes.length + 3,
          ],
        },
      ],
    },
  };
}

const start = wanting();
const at = (name: string) => start.nodes.findIndex((node) => node.name === name);
const turned: Character = {
  ...start,
  nodes: replaceAt(
    start.nodes,
    new Map([
      [at('left forearm'), { ...start.nodes[at('left forearm')], rotation: quatAbout([0, 1, 0], 0.5) }],
    ]),
  ),
};

/** The same with the corners of every face in the other order. */
const insideOut: Character = {
  ...start,
  meshes: start.meshes.map((mesh) => ({ ...mesh, corners: mesh.corners.slice().reverse() })),
};

/** The same with another mesh on its body, or on its patch, made anew as planned. */
function remade(name: string, plan: (mesh: Mesh) => MeshPlan): Character {
  const { mesh } = start.nodes[at(name)];
  const before = start.meshes[mesh];
  return { ...start, meshes: replaceAt(start.meshes, new Map([[mesh, remadeMesh(before, plan(before))]])) };
}

/** A tube of many faces, one of which is missing. */
const whole = chainTube(4);
const gapped: Character = {
  ...whole,
  meshes: whole.meshes.map((mesh) => {
    const goneFaces = new Uint8Array(mesh.polygonOffsets.length - 1);
    goneFaces[goneFaces.length >> 1] = 1;
    return remadeMesh(mesh, { goneFaces });
  }),
};
/** The same with the corners of a face in the wrong order. */
const crossed: Character = {
  ...whole,
  meshes: whole.meshes.map((mesh) => {
    const corners = mesh.corners.slice();
    const face = mesh.polygonOffsets[(mesh.polygonOffsets.length - 1) >> 1];
    [corners[face], corners[face + 1]] = [corners[face + 1], corners[face]];
    return { ...mesh, corners };
  }),
};
/** The same with a face that is thin as a splinter. */
const splintered: Character = {
  ...whole,
  meshes: whole.meshes.map((mesh) => withSplinter(mesh, (mesh.polygonOffsets.length - 1) >> 1)),
};
const finned = remade('body', ({ corners, vertexCount }) => ({
  copies: [corners[2]],
  added: [{ piece: 0, corners: [corners[0], corners[1], vertexCount] }],
}));
const doubled = remade('body', ({ corners, polygonOffsets }) => ({
  added: [{ piece: 0, corners: [...corners.subarray(0, polygonOffsets[1])] }],
}));
const recovered: Character = {
  ...start,
  meshes: start.meshes.map((mesh) => ({ ...mesh, polygonOrigin: 'recovered' })),
};

/** The same with a material on each half of its patch. */
const ofTwoMaterials: Character = {
  ...start,
  carried: { ...start.carried, materials: [{ name: 'tin' }, { name: 'felt' }] },
  meshes: start.meshes.map((mesh, i) => {
    const [piece] = mesh.pieces;
    const halves = [
      { ...piece, polygonCount: 1, material: 0 },
      { ...piece, polygonStart: 1, polygonCount: 1, material: 1 },
    ];
    return i === start.nodes[at('patch')].mesh ? { ...mesh, pieces: halves } : mesh;
  }),
};

/** The same with its patch once more, turned and moved. */
const withTwoPatches: Character = withRoots({
  ...start,
  nodes: [
    ...start.nodes,
    node({ name: 'other patch', kind: 'mesh', mesh: start.meshes.length, translation: [3, 0, 1] }),
  ],
  meshes: [...start.meshes, { ...start.meshes[start.nodes[at('patch')].mesh], name: 'other patch' }],
});

/** A tube on two bones with a seam all round, one side of which goes with other bones. */
const torn: Character = (() => {
  const tube = chainTube(2);
  const [mesh] = tube.meshes;
  const copies = Array.from({ length: 8 }, (_, k) => 160 + k);
  const cornerOn = new Map<number, number>();
  mesh.corners.forEach((corner, k) => {
    const polygon = mesh.polygonOffsets.findIndex((_, i) => k < mesh.polygonOffsets[i + 1]);
    const isAbove = mesh.corners
      .subarray(mesh.polygonOffsets[polygon], mesh.polygonOffsets[polygon + 1])
      .every((other) => other >= 160);
    if (isAbove && corner >= 160 && corner < 168) cornerOn.set(k, mesh.vertexCount + corner - 160);
  });
  const split = remadeMesh(mesh, { copies, cornerOn });
  const rows = Array.from({ length: split.vertexCount }, (_, vertex) =>
    entriesOf(split.influences!, vertex).map(({ joint, weight }): [number, number] =>
      vertex >= mesh.vertexCount ? [1 - joint, weight] : [joint, weight],
    ),
  );
  rows[mesh.vertexCount] = [[0, 1]];
  return { ...tube, meshes: [{ ...split, influences: influencesFrom(rows) }] };
})();

/** A tube on two bones, alike on both sides but for a few points. */
const lopsided: Character = (() => {
  const tube = chainTube(2);
  const [mesh] = tube.meshes;
  const data = mesh.attributes.POSITION.data.map((x, i) =>
    i >= 300 && i < 330 && i % 3 === 1 ? x + 0.003 : x,
  );
  const attributes = { ...mesh.attributes, POSITION: { ...mesh.attributes.POSITION, data } };
  return { ...tube, meshes: [{ ...mesh, attributes }] };
})();

const littered = remade('body', () => ({ copies: [0, 1] }));

/** The same with a hand that hangs under nothing. */
const manyRoots: Character = {
  ...start,
  nodes: replaceAt(start.nodes, new Map([[at('left hand'), hungUnder(start, at('left hand'), -1)]])),
  carried: {
    ...start.carried,
    scenes: start.carried.scenes.map((scene) => ({ ...scene, roots: [...scene.roots, at('left hand')] })),
  },
};

/** The same with one hand otherwise than the other. */
const oneTurned: Character = {
  ...start,
  nodes: replaceAt(
    start.nodes,
    new Map([
      [
        at('right hand'),
        {
          ...start.nodes[at('right hand')],
          rotation: quatAbout([0, 0, 1], 0.4),
          translation: start.nodes[at('right hand')].translation.map((x) => x * 1.2),
        },
      ],
    ]),
  ),
};

/** Its meshes by themselves. */
const boneless: Character = {
  ...start,
  nodes: start.nodes.map((own) => (own.kind === 'bone' ? { ...own, kind: 'empty' } : { ...own, skin: -1 })),
  meshes: start.meshes.map((mesh) => ({ ...mesh, influences: null, influenceStorage: null })),
  skins: [],
  clips: [],
  sets: [],
};

/** The same with a set. */
const withSet: Character = {
  ...start,
  sets: [{ name: 'hands', bones: [at('left hand'), at('right hand')], vertices: [], polygons: [] }],
};

/** Two points that are given wholly to a hand. */
const painted = {
  bones: [at('left hand')],
  points: [
    {
      node: at('body'),
      ids: [0, 1],
      rows: { offsets: Uint32Array.of(0, 1, 2), joint: Uint32Array.of(0, 0), weight: Float32Array.of(1, 1) },
    },
  ],
};

/** Some points of the body, and a bone that pulls one of them. */
const some = [{ node: at('body'), ids: [1, 2, 4, 5, 40, 70] }];
const body = start.meshes[start.nodes[at('body')].mesh].influences!;
const pulling = start.skins[0].joints[body.joint[body.offsets[1]]];

/** The same with a bone listed twice at one point. */
const listedTwice: Character = {
  ...start,
  meshes: start.meshes.map((mesh, i) => {
    if (i !== start.nodes[at('body')].mesh) return mesh;
    const rows = Array.from({ length: mesh.vertexCount }, (_, vertex) =>
      entriesOf(mesh.influences!, vertex).map(({ joint, weight }): [number, number] => [joint, weight]),
    );
    const [[joint, weight]] = rows[1];
    rows[1] = [[joint, weight / 2], [joint, weight / 2], ...rows[1].slice(1)];
    return { ...mesh, influences: influencesFrom(rows) };
  }),
};

/** A tube on two bones, the points of one side of which go wholly with the upper one. */
const unlikeTwins: Character = (() => {
  const tube = chainTube(2);
  const [mesh] = tube.meshes;
  const positions = mesh.attributes.POSITION.data;
  const rows = Array.from({ length: mesh.vertexCount }, (_, vertex) =>
    positions[vertex * 3] > 0.01
      ? [[1, 1] as [number, number]]
      : entriesOf(mesh.influences!, vertex).map(({ joint, weight }): [number, number] => [joint, weight]),
  );
  return { ...tube, meshes: [{ ...mesh, influences: influencesFrom(rows) }] };
})();

/** The same with a clip that wants everything that can be done to one. */
const unruly = withUnrulyClip(start);

const isSound = (x: number | string) => typeof x === 'string' || Number.isFinite(x);

/** What each remedy is given, and whether a second time there is nothing left for it to do. */
const GIVEN: Record<string, { of?: Character; with: object; once: boolean }> = {
  rescale: { with: { by: 'height', height: 1.76 }, once: true },
  'rescale-prop': { with: { node: at('hand lamp'), height: 0.32 }, once: true },
  'change-unit': { with: { metres: 0.01 }, once: true },
  'set-on-ground': { with: {}, once: true },
  centre: { with: {}, once: true },
  'turn-to-axes': { with: {}, once: true },
  'bake-scale': { with: { node: at('grip') }, once: false },
  'bake-transform': { with: { node: at('patch') }, once: false },
  'detach-keep-size': { with: { node: at('hand lamp') }, once: true },
  'detach-own-size': { with: { node: at('hand lamp') }, once: true },
  'choose-driver': { with: { node: at('body again'), driver: 'bones' }, once: true },
  'fit-skeleton': { with: { height: 2 }, once: true },
  'return-to-rest': { of: turned, with: {}, once: true },
  'recompute-binds': { of: turned, with: { skin: 0, keep: 'shape' }, once: false },
  'set-stance': { with: { arms: 0, bend: 20, legs: 15 }, once: true },
  'morphs-off': { with: { node: at('body') }, once: true },
  'remove-strays': { with: {}, once: true },
  rename: { with: { table: { 'left hand': 'hand_lt' } }, once: false },
  'follow-convention': { with: {}, once: true },
  'names-by-role': { with: { template: 'vrm' }, once: true },
  'add-expected': { with: { template: 'quay' }, once: true },
  'extend-names': { with: { bones: [at('left hand')], letters: 'crew_' }, once: false },
  'shorten-names': { with: { bones: [at('left hand')], count: 2, from: 'last' }, once: false },
  'replace-in-names': { with: { letters: ' ', by: '_' }, once: true },
  'number-chains': { with: { bones: [at('left hand')] }, once: true },
  'swap-sides': { with: { bones: [at('left hand'), at('right hand')] }, once: false },
  'put-skeleton': { of: boneless, with: { template: 'vrm' }, once: false },
  'turn-limb': { with: { bone: at('left hand'), angle: 20 }, once: false },
  'lengthen-limb': { with: { bones: [at('left forearm')] }, once: false },
  'add-bone': { with: { under: at('left hand'), name: 'cuff' }, once: false },
  'centre-joints': { with: { bones: [at('left forearm')], to: 'middle' }, once: false },
  'move-joint': { with: { bone: at('left hand'), place: [1.1, 1.9, 0.2] }, once: true },
  'place-part': {
    with: { node: at('hand lamp'), place: [1, 1, 1], turn: [0, 0, 1, 0] },
    once: true,
  },
  graft: { with: { bone: at('left hand'), under: at('head') }, once: true },
  'add-helper': { with: { bone: at('left hand'), reach: 2 }, once: true },
  'add-ends': { with: { bones: [at('left hand')] }, once: true },
  'fold-to-budget': { with: { most: 3 }, once: true },
  'fold-bones': { with: { bones: [at('left hand')] }, once: false },
  're-hang': { with: { bone: at('left hand'), parent: at('head') }, once: true },
  'root-to-origin': { with: { bone: at('root') }, once: false },
  'merge-points': { with: { node: at('patch'), distance: 1e-4 }, once: true },
  'give-to-parent': { with: { bone: at('left hand') }, once: true },
  'limit-influences': { with: { limit: 4 }, once: true },
  'fill-weights': { with: {}, once: true },
  'remove-empty-faces': { of: doubled, with: { node: at('body') }, once: true },
  'remove-loose-points': { of: littered, with: { node: at('body') }, once: true },
  'split-joins': { of: finned, with: { node: at('body') }, once: true },
  'fill-holes': { of: gapped, with: { node: 4 }, once: true },
  'mend-crossed-faces': { of: crossed, with: { node: 4 }, once: true },
  'collapse-slivers': { of: splintered, with: { node: 4 }, once: true },
  'recompute-normals': { with: { node: at('body') }, once: true },
  'keep-quads': { of: recovered, with: { node: at('body') }, once: true },
  'remove-parts': { with: { polygons: [{ node: at('patch'), ids: [0] }] }, once: false },
  'separate-parts': { with: { polygons: [{ node: at('patch'), ids: [0] }] }, once: true },
  'mark-parts': {
    with: { polygons: [{ node: at('patch'), ids: [0] }], kind: 'buckle' },
    once: false,
  },
  'split-by-material': { of: ofTwoMaterials, with: { node: at('patch') }, once: true },
  'join-meshes': { of: withTwoPatches, with: { nodes: [at('patch'), start.nodes.length] }, once: false },
  'match-sides': { of: lopsided, with: { node: 2 }, once: true },
  'turn-faces': { of: insideOut, with: { node: at('body') }, once: true },
  'join-roots': { of: manyRoots, with: { bone: at('root') }, once: true },
  'add-root': { of: manyRoots, with: {}, once: true },
  'settle-on-bone': { with: { node: at('hand lamp') }, once: true },
  'close-seams': { of: torn, with: { node: 2 }, once: true },
  'brush-weights': { with: painted, once: false },
  'join-entries': { of: listedTwice, with: {}, once: true },
  'edit-weights': { with: { vertices: some, bone: at('left hand'), value: 0.5 }, once: true },
  'take-bone-out': { with: { vertices: some, bone: pulling }, once: true },
  'split-between': { with: { vertices: some, bone: at('left hand'), other: at('head') }, once: true },
  'average-weights': { with: { vertices: some }, once: true },
  'fade-weight': { with: { vertices: some, bone: at('head'), distance: 0.2 }, once: true },
  'smooth-weights': { with: { vertices: some }, once: false },
  'mirror-weights': { of: unlikeTwins, with: { node: 2 }, once: true },
  'set-band': { with: { bone: at('left forearm') }, once: true },
  'make-rigid': {
    with: { polygons: [{ node: at('body'), ids: [0] }], bone: at('head') },
    once: true,
  },
  bind: { with: { nodes: [at('patch')] }, once: false },
  'copy-weights': { with: { node: at('patch'), from: at('body'), distance: 5 }, once: false },
  'match-twins': { of: oneTurned, with: { bones: [at('right hand')], what: 'both' }, once: true },
  'mirror-branch': { of: oneTurned, with: { bone: at('left hand') }, once: true },
  'turn-axes': { with: { bones: [at('left hand')], axis: 'z', angle: 30 }, once: false },
  'align-axes': { with: { bones: [at('root')], along: '-z' }, once: true },
  'zero-rotations': { of: oneTurned, with: { bones: [at('right hand')] }, once: true },
  'turn-order': { with: { bones: [at('left hand')], order: 'zxy' }, once: true },
  'bone-kind': { with: { bones: [at('left hand')], kind: 'control' }, once: true },
  'keep-set': {
    with: { name: 'grip', bones: [at('left hand')], vertices: [{ node: at('patch'), ids: [1, 4] }] },
    once: true,
  },
  'change-set': { of: withSet, with: { set: 0, name: 'both hands' }, once: true },
  'set-members': { of: withSet, with: { set: 0, bones: [at('head')] }, once: true },
  'remove-set': { of: withSet, with: { set: 0 }, once: false },
  'body-kind': { with: { kind: 'winged' }, once: true },
  'bridge-jumps': { of: unruly, with: { clip: 0 }, once: true },
  'close-loop': { of: unruly, with: { clip: 0 }, once: true },
  'keep-in-place': { of: unruly, with: { clip: 0 }, once: true },
  'drop-scale-tracks': { of: unruly, with: { clip: 0 }, once: true },
  'put-on-frames': { of: unruly, with: { clip: 0, rate: 30 }, once: true },
  'drop-idle-tracks': { of: unruly, with: { clip: 0 }, once: true },
};

it('every remedy of the house stands here', () => {
  expect(brokenInvariants(start)).toEqual([]);
  expect(Object.keys(GIVEN).sort()).toEqual(REMEDIES.map((remedy) => remedy.id).sort());
});

describe.each(Object.entries(GIVEN))('%s', (id, { of: character = start, with: given, once }) => {
  const remedy = remedyById(id)!;
  const p = params(remedy, given);
  const after = remedy.apply(character, p, brief);

  it('changes a sound character into a sound one, and not the one it was given', () => {
    const before = JSON.stringify([
      character.nodes,
      character.skins.map((skin) => Array.from(skin.inverseBinds)),
      character.meshes.map((mesh) => Array.from(mesh.attributes.POSITION.data)),
    ]);
    expect(brokenInvariants(remedy.apply(character, p, brief))).toEqual([]);
    expect(
      JSON.stringify([
        character.nodes,
        character.skins.map((skin) => Array.from(skin.inverseBinds)),
        character.meshes.map((mesh) => Array.from(mesh.attributes.POSITION.data)),
      ]),
    ).toBe(before);
    expect(after).not.toBe(character);
  });

  it('shows before what then is so', () => {
    const { rows, effects } = previewRemedy(remedy, character, p, brief);
    expect(rows.length).toBeGreaterThan(0);
    for (const row of rows)
      expect([row.label, isSound(row.before), isSound(row.after)]).toEqual([row.label, true, true]);
    // At least one of the numbers changes, or there was nothing to show.
    expect(rows.some((row) => row.before !== row.after)).toBe(true);
    // What is shown is what each of the two states says of itself.
    expect(rows.filter((row) => row.before !== '—').map((row) => row.before)).toEqual(
      remedy.rows(character, p, brief).map((row) => row.value),
    );
    expect(effects.outside).toEqual([]);
  });

  it(once ? 'has nothing left to do the second time, and says so' : 'may be done again', () => {
    const again = () => remedy.apply(after, p, brief);
    if (once) expect(again).toThrow(NothingToDo);
    else
      try {
        expect(brokenInvariants(again())).toEqual([]);
      } catch (error) {
        if (!(error instanceof RemedyError)) throw error;
      }
  });
});

describe('what cannot be done is refused in one sentence', () => {
  const bare = tube();
  const clip = (node: number) => [
    {
      name: 'c',
      channels: [
        {
          node,
          path: 'rotation' as const,
          interpolation: 'LINEAR' as const,
          times: Float32Array.of(0, 1),
          values: Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1),
        },
      ],
    },
  ];
  it.each<[string, string, Character, object, RegExp]>([
    ['a node that is not there', 'rescale-prop', start, { node: 999, factor: 2 }, /no mesh on that node/],
    [
      'a prop that is bound',
      'rescale-prop',
      start,
      { node: at('body'), factor: 2 },
      /bound to bones; rescale everything/,
    ],
    ['a prop without a length', 'rescale-prop', start, { node: at('hand lamp') }, /Say the length/],
    [
      'a height of nothing',
      'rescale',
      { ...bare, nodes: [], meshes: [], skins: [] },
      { by: 'height', height: 2 },
      /no body and no skeleton/,
    ],
    ['a factor beyond sense', 'rescale', start, { by: 'factor', factor: 1e9 }, /beyond/],
    ['no factor', 'rescale', start, { by: 'factor' }, /Say the factor/],
    ['no two points', 'rescale', start, { by: 'points' }, /Say/],
    [
      'a node of no size',
      'bake-scale',
      {
        ...start,
        nodes: replaceAt(
          start.nodes,
          new Map([[at('grip'), { ...start.nodes[at('grip')], scale: [0, 1, 1] }]]),
        ),
      },
      { node: at('grip') },
      /scaled to nothing/,
    ],
    [
      'a transform that a clip moves',
      'bake-transform',
      { ...start, clips: clip(at('patch')) },
      { node: at('patch') },
      /moved by a clip/,
    ],
    ['a transform of no mesh', 'bake-transform', start, { node: at('grip') }, /no mesh on that node/],
    ['a driver of no mesh', 'choose-driver', start, { node: at('grip'), driver: 'bones' }, /no bound mesh/],
    [
      'a driver that is not there',
      'choose-driver',
      {
        ...start,
        nodes: replaceAt(
          start.nodes,
          new Map([[at('body again'), { ...start.nodes[at('body again')], parent: -1 }]]),
        ),
      },
      { node: at('body'), driver: 'parent' },
      /hangs on nothing that moves/,
    ],
    ['a skin that is not there', 'recompute-binds', start, { skin: 7, keep: 'bind' }, /skin is not there/],
    [
      'rest without a bind',
      'return-to-rest',
      { ...bare, skins: [], nodes: bare.nodes.map((node) => ({ ...node, skin: -1 })) },
      {},
      /Nothing is bound/,
    ],
    [
      'a stance without limbs',
      'set-stance',
      bare,
      { arms: 0, bend: 20, legs: 15 },
      /does not tell which bones are the limbs/,
    ],
    ['a facing without limbs', 'turn-to-axes', bare, {}, /does not tell where the figure looks/],
    ['strays that are joints', 'remove-strays', bare, { nodes: [0] }, /is a joint of a skin/],
    ['strays that are not there', 'remove-strays', bare, { nodes: [99] }, /not there any more/],
    [
      'a skeleton of no height',
      'fit-skeleton',
      {
        ...bare,
        nodes: bare.nodes
          .filter((node) => node.kind !== 'bone')
          .map((node) => ({ ...node, parent: -1, skin: -1 })),
        skins: [],
      },
      { height: 2 },
      /no skeleton with a height/,
    ],
    [
      'two bones of one name',
      'rename',
      start,
      { table: { 'left hand': 'right hand' } },
      /Two bones would be called/,
    ],
    ['a bone without a name', 'rename', start, { table: { 'left hand': '' } }, /without a name/],
    [
      'more letters than there are',
      'shorten-names',
      start,
      { bones: [at('head')], count: 4, from: 'first' },
      /nothing would be left/,
    ],
    ['no side to exchange', 'mirror-branch', start, { bone: at('head') }, /says no side/],
    [
      'a branch onto what it hangs on',
      'mirror-branch',
      start,
      { bone: at('left hand'), onto: at('left forearm') },
      /cannot become the mirror image/,
    ],
    ['no letters', 'replace-in-names', start, { letters: '', by: 'x' }, /No letters are named/],
    ['no side', 'swap-sides', start, { bones: [at('head')] }, /None of these names says a side/],
    [
      'a name that stays',
      'swap-sides',
      start,
      { bones: [at('left hand')] },
      /Two bones would be called “right hand”/,
    ],
    ['a bone that is gone', 'extend-names', start, { bones: [999], letters: 'x' }, /not there any more/],
    ['names of nobody', 'rename', start, { table: { nobody: 'x' } }, /No name in the table/],
    ['under itself', 're-hang', start, { bone: at('chest'), parent: at('left hand') }, /cannot hang under/],
    ['a bone that is not there', 're-hang', start, { bone: 999, parent: 0 }, /not there any more/],
    ['the root’s own weight', 'give-to-parent', start, { bone: at('root') }, /No bone above it/],
    ['a mesh that is not there', 'merge-points', start, { node: 999, distance: 1e-4 }, /mesh is not there/],
    ['a root that is not there', 'root-to-origin', start, { bone: 999 }, /not there any more/],
  ])('%s: %s', (_, id, character, given, sentence) => {
    const remedy = remedyById(id)!;
    let error: unknown = null;
    try {
      remedy.apply(character, params(remedy, given), brief);
    } catch (otherError) {
      error = otherError;
    }
    expect(error).toBeInstanceOf(RemedyError);
    expect(error).not.toBeInstanceOf(NothingToDo);
    expect((error as Error).message).toMatch(sentence);
    expect((error as Error).message).toMatch(/^[A-Z“][^\n]*\.$/);
  });
});

describe('strays', () => {
  it('go with their data; what hangs below them and counts stays in its place', () => {
    const character = underSimilarity(tube(), { ...STILL, translation: [1, 2, 3] });
    const b = box([0, 0, 0], [1, 1, 1]);
    const hidden = { KHR_node_visibility: { visible: false } };
    const more: Character = {
      ...character,
      meshes: [...character.meshes, meshFrom(b.points, b.polygons), meshFrom(b.points, b.polygons)],
      skins: [...character.skins, { ...character.skins[0], name: 'gone' }],
      nodes: [
        ...character.nodes,
        node({ name: 'old', kind: 'mesh', mesh: 1, extensions: hidden }),
        node({ name: 'empty' }),
        node({ name: 'lens', kind: 'camera', camera: 0, parent: 4, translation: [0, 5, 0] }),
        node({ name: 'crate', kind: 'mesh', mesh: 2, parent: 5 }),
      ],
      carried: { ...character.carried, scenes: [{ json: {}, roots: [0, 2, 3, 4] }] },
    };
    const remedy = remedyById('remove-strays')!;
    const after = remedy.apply(more, {}, brief);
    expect(after.nodes.map((node) => node.name)).toEqual(['lower', 'upper', 'tube', 'empty', 'crate']);
    expect([after.meshes.length, after.skins.length]).toEqual([2, 1]);
    const crate = after.nodes[4];
    expect([crate.parent, crate.translation]).toEqual([3, [0, 5, 0]]);
    expect(brokenInvariants(after)).toEqual([]);
    // Named ones only, the data stays.
    const some = remedy.apply(more, { nodes: [3] }, brief);
    expect([some.nodes.length, some.skins.length]).toEqual([more.nodes.length - 1, 2]);
  });
});

import fc from 'fast-check';
import {
  type Channel,
  type Character,
  EMPTY_CARRIED,
  type Influences,
  type Mesh,
  type SceneNode,
  node,
} from '@/core/character/model';
import { restWorld } from '@/core/character/hierarchy';
import { influencesFrom } from '@/core/geometry/influences';
import { composeMatrix, inverseOr, quatAbout, normalise, times } from '@/core/geometry/matrix';
import { meshFrom } from './build';

/** Numbers in a row from a seed. */
export function dice(seed: number) {
  let s = seed >>> 0;
  const next = () => {
    s = (Math.imul(s, 1664525) + 1013904223) >>> 0;
    return s / 4294967296;
  };
  return {
    next,
    between: (a: number, b: number) => a + (b - a) * next(),
    chance: (p: number) => next() < p,
    below: (n: number) => Math.floor(next() * n),
  };
}

type Dice = ReturnType<typeof dice>;

const turn = (draw: Dice) =>
  quatAbout(
    normalise([draw.between(-1, 1), draw.between(-1, 1), draw.between(-1, 1) + 1e-3]),
    draw.between(-2, 2),
  );
const place = (draw: Dice, r: number) => [draw.between(-r, r), draw.between(-r, r), draw.between(-r, r)];

function lump(draw: Dice, n: number, influences: Influences | null): Mesh {
  const points = Array.from({ length: n }, () => [
    draw.between(-0.6, 0.6),
    draw.between(0, 1.8),
    draw.between(-0.4, 0.4),
  ]);
  const polygons = Array.from({ length: n }, (_, i) =>
    [i, (i + 1) % n, (i + 2) % n, (i + 3) % n].slice(0, 3 + (i % 2)),
  );
  const mesh = meshFrom(points, polygons, influences);
  const normals = Float32Array.from(points.flatMap((point) => normalise(point.map((x) => x + 0.01))));
  return {
    ...mesh,
    name: `lump ${n}`,
    attributes: { ...mesh.attributes, NORMAL: { data: normals, size: 3, normalized: false, type: 'VEC3' } },
    pieces: mesh.pieces.map((piece) => ({ ...piece, attributes: ['POSITION', 'NORMAL'] })),
  };
}

/** Targets that push every point somewhere, some of them on. */
function morphing(seed: number, mesh: Mesh, targets: number): Mesh {
  const draw = dice(seed ^ 0x51ed270b);
  const morphs = Array.from({ length: targets }, () => ({
    attributes: {
      POSITION: {
        data: Float32Array.from({ length: mesh.vertexCount * 3 }, () => draw.between(-0.1, 0.1)),
        size: 3,
        normalized: false,
        type: 'VEC3',
      },
    },
  }));
  return { ...mesh, morphs, morphWeights: morphs.map(() => (draw.chance(0.4) ? draw.between(0.1, 1) : 0)) };
}

function motion(draw: Dice, at: number, node: SceneNode): Channel[] {
  const times_ = Float32Array.from([0, 0.5, 1.25]);
  const cubic = draw.chance(0.3);
  const keys = (size: number, value: () => readonly number[]) =>
    Float32Array.from(
      [0, 1, 2].flatMap(() =>
        cubic
          ? [
              ...Array.from({ length: size }, () => draw.between(-0.1, 0.1)),
              ...value(),
              ...Array.from({ length: size }, () => draw.between(-0.1, 0.1)),
            ]
          : [...value()],
      ),
    );
  const out: Channel[] = [
    {
      node: at,
      path: 'rotation',
      interpolation: cubic ? 'CUBICSPLINE' : 'LINEAR',
      times: times_,
      values: keys(4, () => turn(draw)),
    },
  ];
  if (draw.chance(0.4))
    out.push({
      node: at,
      path: 'translation',
      interpolation: interpolationFrom(draw, cubic),
      times: times_,
      values: keys(3, () => node.translation.map((x) => x + draw.between(-0.1, 0.1))),
    });
  return out;
}

/**
 * A character with everything that placement has to cope with: nested holders, evenly scaled, mirrored or
 * not; a tree of bones at odd angles, with a root in the origin or not; two skins, one bound through a shape
 * matrix; props on bones and beside them, one mesh shown twice; morph targets, off and on; clips, linear,
 * stepped and cubic.
 */
export function randomCharacter(seed: number): Character {
  const draw = dice(seed);
  const nodes: SceneNode[] = [];
  const scale = (p: number) => {
    const s = draw.chance(p) ? draw.between(0.4, 2.5) : 1;
    return draw.chance(0.15) && s !== 1 ? [-s, s, s] : [s, s, s];
  };
  const add = (node: SceneNode) => nodes.push(node) - 1;
  const rooted = draw.chance(0.5);
  const holder = draw.chance(0.7)
    ? add(node({ name: 'holder', translation: place(draw, 0.5), rotation: turn(draw), scale: scale(0.6) }))
    : -1;
  const inner =
    holder >= 0 && draw.chance(0.4)
      ? add(node({ name: 'inner', parent: holder, translation: place(draw, 0.3), scale: scale(0.5) }))
      : holder;
  const first = rooted
    ? add(
        node({
          name: 'root',
          kind: 'bone',
          rotation: draw.chance(0.5) ? quatAbout([1, 0, 0], Math.PI / 2) : [0, 0, 0, 1],
        }),
      )
    : -1;
  const bones: number[] = first >= 0 ? [first] : [];
  const count = 4 + draw.below(5);
  for (let i = 0; i < count; i++)
    bones.push(
      add(
        node({
          name: `bone_${i}`,
          kind: 'bone',
          parent: bones.length === 0 ? inner : bones[draw.below(bones.length)],
          translation: place(draw, 0.4),
          rotation: turn(draw),
          scale: scale(0.08),
        }),
      ),
    );
  const held = bones.slice(first >= 0 ? 1 : 0);
  const rows = (n: number, joints: number) =>
    influencesFrom(
      Array.from({ length: n }, () => {
        const k = 1 + draw.below(Math.min(4, joints));
        const start = draw.below(joints);
        const world = Array.from({ length: k }, () => draw.between(0.1, 1));
        const sum = world.reduce((a, b) => a + b, 0);
        return world.map((x, i): [number, number] => [(start + i) % joints, x / sum]);
      }),
    );
  const some = held.slice(0, Math.max(2, Math.floor(held.length / 2)));
  const meshes = [
    morphing(seed, lump(draw, 40, rows(40, bones.length)), 3),
    lump(draw, 24, rows(24, some.length)),
    morphing(seed + 1, lump(draw, 12, null), 1),
  ];
  const body = add(
    node({
      name: 'body',
      kind: 'mesh',
      mesh: 0,
      skin: 0,
      parent: parentFrom(draw, holder, held[0]),
      ...(draw.chance(0.4) ? { rotation: turn(draw), translation: place(draw, 1) } : {}),
    }),
  );
  add(node({ name: 'coat', kind: 'mesh', mesh: 1, skin: 1 }));
  add(
    node({
      name: 'lamp',
      kind: 'mesh',
      mesh: 2,
      ...(seed % 3 === 0 ? { morphWeights: [(seed % 7) / 7] } : {}),
      parent: held[held.length - 1],
      translation: place(draw, 0.1),
      rotation: turn(draw),
      scale: scale(0.4),
    }),
  );
  const crate = add(
    node({
      name: 'crate',
      kind: 'mesh',
      mesh: 2,
      parent: inner,
      translation: place(draw, 1),
      rotation: turn(draw),
      scale: scale(0.4),
    }),
  );
  if (draw.chance(0.5))
    add(node({ name: 'lid', kind: 'mesh', mesh: 2, parent: crate, translation: place(draw, 0.2) }));
  add(node({ name: 'lens', kind: 'camera', camera: 0, parent: draw.chance(0.5) ? crate : -1 }));
  const world = restWorld(nodes);
  const shape = draw.chance(0.5)
    ? composeMatrix(place(draw, 0.3), turn(draw), [1.7, 1.7, 1.7])
    : composeMatrix([0, 0, 0], [0, 0, 0, 1], [1, 1, 1]);
  const skin = (name: string, joints: number[], through: Float64Array) => {
    const b = new Float64Array(joints.length * 16);
    joints.forEach((j, k) => b.set(times(inverseOr(world, j * 16), through), k * 16));
    return { name, joints, inverseBinds: b };
  };
  const moving = held.filter(() => draw.chance(0.6));
  return {
    name: `random ${seed}`,
    nodes,
    meshes,
    skins: [skin('all', bones, composeMatrix([0, 0, 0], [0, 0, 0, 1], [1, 1, 1])), skin('some', some, shape)],
    clips:
      moving.length > 0 ? [{ name: 'sway', channels: moving.flatMap((b) => motion(draw, b, nodes[b])) }] : [],
    sets: [
      {
        name: 'some of it',
        bones: held.slice(1, 4),
        vertices: [{ node: body, ids: Uint32Array.from({ length: meshes[0].vertexCount }, (_, i) => i) }],
        polygons: [{ node: crate, ids: Uint32Array.of(0, 2) }],
      },
    ],
    carried: {
      ...EMPTY_CARRIED,
      cameras: [{ type: 'perspective', perspective: { yfov: 1, znear: 0.1 } }],
      scenes: [{ json: {}, roots: nodes.flatMap((node, i) => (node.parent < 0 ? [i] : [])) }],
    },
    source: { format: 'made', generator: '', unitMetres: 1, files: [] },
    notes: [],
  };
}

/**
 * A real number, spread evenly over its range. The library's own doubles are spread over their bit patterns:
 * about 0, nine in ten of them are as good as 0, and a property over them is hardly asked.
 */
export const real = (min: number, max: number): fc.Arbitrary<number> =>
  fc.integer({ min: Math.round(min * 1e6), max: Math.round(max * 1e6) }).map((k) => k / 1e6);

/** The same with what is next to nothing among it, for sums and ratios that have to bear that as well. */
export const anyReal = (min: number, max: number): fc.Arbitrary<number> =>
  fc.oneof(
    { weight: 4, arbitrary: real(min, max) },
    { weight: 1, arbitrary: fc.double({ min, max, noNaN: true }) },
  );

export const seeds = fc.integer({ min: 1, max: 2 ** 31 });

function interpolationFrom(draw: Dice, cubic: boolean): Channel['interpolation'] {
  if (cubic) return 'CUBICSPLINE';
  return draw.chance(0.3) ? 'STEP' : 'LINEAR';
}

function parentFrom(draw: Dice, holder: number, held: number): number {
  if (draw.chance(0.3)) return holder;
  return draw.chance(0.4) ? held : -1;
}

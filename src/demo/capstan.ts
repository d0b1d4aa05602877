/**
 * The Capstan of the night ferry: a machine of rigid parts on bones, as it came from the modeller, with its
 * faults.
 */
import type { Channel, Character, Mesh, SceneNode } from '../core/character/model';
import { node } from '../core/character/model';
import { influencesFrom } from '../core/geometry/influences';
import { restWorld } from '../core/character/hierarchy';
import { inverseOr, quatAbout } from '../core/geometry/matrix';
import { characterOf, meshOf, plainMaterials } from './assemble';
import { type Cage, CageBuilder, type Weights, joinCharacters } from './cage';

type Row = readonly [radius: number, y: number, material: string];

/** A turned body of rings: each row a radius and a height. */
function turn(
  rows: readonly Row[],
  around: number,
  weights: Weights,
  wave: (angle: number, y: number) => number = () => 0,
): Cage {
  const cage = new CageBuilder();
  let below: number[] | null = null;
  for (const [r, y, material] of rows) {
    const ring = Array.from({ length: around }, (_, k) => {
      const a = (k / around) * 2 * Math.PI;
      const s = r * (1 + wave(a, y));
      return cage.point([s * Math.sin(a), y, s * Math.cos(a)], weights);
    });
    if (below) cage.bridge(below, ring, material);
    below = ring;
  }
  return cage;
}

/** The same body laid along +X from `from`, about a height. */
function laid(cage: Cage, from: number, height: number): Cage {
  return { ...cage, points: cage.points.map(([x, y, z]) => [from + y, height - x, z] as const) };
}

const NONE: Weights = {};

const bedplate = (): Cage =>
  turn(
    [
      [0.001, 0, 'rubber'],
      [0.4, 0, 'rubber'],
      [0.46, 0, 'rubber'],
      [0.5, 0.008, 'rubber'],
      [0.502, 0.03, 'rubber'],
      [0.48, 0.045, 'rubber'],
      [0.42, 0.05, 'rubber'],
      [0.36, 0.056, 'rubber'],
      [0.34, 0.075, 'brass'],
      [0.335, 0.105, 'brass'],
      [0.31, 0.118, 'brass'],
      [0.2, 0.122, 'rubber'],
      [0.001, 0.122, 'rubber'],
    ],
    36,
    NONE,
  );

/** The barrel with seven ribs, waisted in the middle, that grips the rope. */
const barrel = (): Cage =>
  turn(
    [
      [0.001, 0.126, 'rubber'],
      [0.26, 0.126, 'rubber'],
      [0.29, 0.13, 'rubber'],
      [0.296, 0.15, 'rubber'],
      [0.284, 0.19, 'canvas'],
      [0.262, 0.25, 'canvas'],
      [0.24, 0.33, 'canvas'],
      [0.226, 0.42, 'canvas'],
      [0.222, 0.52, 'canvas'],
      [0.228, 0.61, 'canvas'],
      [0.245, 0.69, 'canvas'],
      [0.262, 0.735, 'canvas'],
      [0.268, 0.75, 'rubber'],
      [0.2, 0.756, 'rubber'],
      [0.001, 0.756, 'rubber'],
    ],
    56,
    NONE,
    (a, y) =>
      y > 0.16 && y < 0.73
        ? 0.075 *
          Math.max(0, Math.cos(a * 7)) ** 1.5 *
          Math.min(1, (y - 0.16) / 0.08) *
          Math.min(1, (0.73 - y) / 0.06)
        : 0,
  );

/** The drumhead: a thick wheel with a brass band and a boss on top. */
const drumhead = (): Cage =>
  turn(
    [
      [0.001, 0.762, 'horn'],
      [0.3, 0.762, 'horn'],
      [0.36, 0.768, 'horn'],
      [0.39, 0.782, 'horn'],
      [0.4, 0.81, 'brass'],
      [0.402, 0.85, 'brass'],
      [0.4, 0.9, 'brass'],
      [0.39, 0.93, 'horn'],
      [0.36, 0.946, 'horn'],
      [0.27, 0.952, 'horn'],
      [0.16, 0.958, 'horn'],
      [0.12, 0.966, 'brass'],
      [0.11, 0.99, 'brass'],
      [0.096, 1.012, 'brass'],
      [0.06, 1.026, 'brass'],
      [0.001, 1.03, 'brass'],
    ],
    40,
    NONE,
  );

/** A bar of ash, thicker in the socket, with a rounded end. */
const bar = (): Cage =>
  laid(
    turn(
      [
        [0.001, 0, 'oilskin'],
        [0.034, 0, 'oilskin'],
        [0.036, 0.02, 'oilskin'],
        [0.036, 0.12, 'oilskin'],
        [0.033, 0.16, 'oilskin'],
        [0.028, 0.34, 'oilskin'],
        [0.026, 0.6, 'oilskin'],
        [0.026, 0.82, 'oilskin'],
        [0.029, 0.87, 'oilskin'],
        [0.029, 0.895, 'oilskin'],
        [0.02, 0.91, 'oilskin'],
        [0.001, 0.914, 'oilskin'],
      ],
      12,
      NONE,
    ),
    0,
    0,
  );

/** A pawl: a short iron finger that drops into the rack. */
const pawl = (): Cage =>
  laid(
    turn(
      [
        [0.001, 0, 'rubber'],
        [0.03, 0, 'rubber'],
        [0.034, 0.01, 'rubber'],
        [0.034, 0.04, 'rubber'],
        [0.026, 0.07, 'rubber'],
        [0.022, 0.15, 'rubber'],
        [0.024, 0.18, 'rubber'],
        [0.012, 0.192, 'rubber'],
        [0.001, 0.194, 'rubber'],
      ],
      12,
      NONE,
    ),
    0,
    0,
  );

/**
 * Six turns of rope round the barrel's waist, with tails that do not matter here: closed rings that lie on
 * each other.
 */
function rope(): Cage {
  const rings: Cage[] = [];
  for (let triangle = 0; triangle < 4; triangle++) {
    const y = 0.4 + triangle * 0.05;
    const n = 40;
    const m = 8;
    const r = 0.023;
    const R = 0.262;
    const cage = new CageBuilder();
    const loops = Array.from({ length: n }, (_, k) => {
      const a = (k / n) * 2 * Math.PI;
      return Array.from({ length: m }, (_x, j) => {
        const b = (j / m) * 2 * Math.PI;
        return cage.point(
          [(R + r * Math.cos(b)) * Math.sin(a), y + r * Math.sin(b), (R + r * Math.cos(b)) * Math.cos(a)],
          NONE,
        );
      });
    });
    loops.forEach((loop, k) => cage.bridge(loops[(k + 1) % n], loop, 'oilskin'));
    rings.push(cage);
  }
  return joinCharacters(rings);
}

const BARS = 8;

/** A mesh bound whole to one joint of a skin. */
function held(mesh: Mesh, joint: number): Mesh {
  return {
    ...mesh,
    influences: influencesFrom(
      Array.from({ length: mesh.vertexCount }, () => [[joint, 1] as [number, number]]),
    ),
    influenceStorage: { weights: 'f32', joints: 'u8', sets: 1 },
  };
}

export function deliveredCapstan(): Character {
  const bones = capstanBones();
  const world = restWorld(bones);
  const inverseBinds = new Float32Array(bones.length * 16);
  for (let i = 0; i < bones.length; i++) inverseBinds.set(inverseOr(world, i * 16), i * 16);
  const at = (name: string) => bones.findIndex((bone) => bone.name === name);
  const character = characterOf('Capstan', [...bones, ...capstanParts(at)], capstanMeshes(at, world), [
    { name: 'capstan', joints: bones.map((_, i) => i), inverseBinds, skeleton: 0 },
  ]);
  return {
    ...character,
    clips: [{ name: 'walk it round', channels: [fullTurn(at('barrel'))] }],
    carried: {
      ...character.carried,
      textures: [],
      samplers: [],
      images: [],
      materials: plainMaterials(character.carried.materials),
      cameras: [{ type: 'perspective', perspective: { yfov: 0.7, znear: 0.1 } }],
    },
  };
}

const barAngle = (k: number) => (k / BARS) * 2 * Math.PI;

function capstanBones(): SceneNode[] {
  const bone = (name: string, parent: number, translation: readonly number[], angle = 0): SceneNode =>
    node({
      name,
      kind: 'bone',
      parent,
      translation,
      ...(angle ? { rotation: quatAbout([0, 1, 0], angle) } : {}),
    });
  return [
    bone('bed', -1, [0, 0, 0]),
    bone('barrel', 0, [0, 0.126, 0]),
    bone('drumhead', 1, [0, 0.636, 0]),
    ...Array.from({ length: BARS }, (_, k) =>
      bone(`bar_${k + 1}`, 2, [0.3 * Math.cos(barAngle(k)), 0.1, -0.3 * Math.sin(barAngle(k))], barAngle(k)),
    ),
    bone('pawl_a', 0, [0.33, 0.14, 0.16], 2.4),
    bone('pawl_b', 0, [-0.33, 0.14, -0.16], 2.4 + Math.PI),
  ];
}

/**
 * The parts with the faults of the delivery: a bedplate under the barrel, a mirrored bar, a pawl and a rope
 * that are driven twice.
 */
function capstanParts(at: (bone: string) => number): SceneNode[] {
  return [
    node({ name: 'bedplate', kind: 'mesh', mesh: 0, skin: 0, parent: at('barrel') }),
    node({ name: 'barrel iron', kind: 'mesh', mesh: 1, parent: at('barrel') }),
    node({ name: 'drumhead oak', kind: 'mesh', mesh: 2, parent: at('drumhead') }),
    ...Array.from({ length: BARS }, (_, k) =>
      node({
        name: `bar ash ${k + 1}`,
        kind: 'mesh',
        mesh: 3,
        parent: at(`bar_${k + 1}`),
        ...(k === 4 ? { scale: [1, 1, -1] } : {}),
      }),
    ),
    node({ name: 'pawl iron a', kind: 'mesh', mesh: 4, skin: 0, parent: at('pawl_a') }),
    node({ name: 'pawl iron b', kind: 'mesh', mesh: 5, parent: at('pawl_b') }),
    // The rope was bound a second time.
    node({ name: 'rope', kind: 'mesh', mesh: 6, skin: 0 }),
    node({ name: 'rope_2', kind: 'mesh', mesh: 6, skin: 0 }),
    node({ name: 'work_camera', kind: 'camera', camera: 0, translation: [2, 1.4, 2] }),
    node({ name: 'locator_old' }),
  ];
}

/** Bound meshes lie in the world; rigid ones hang on their bones and lie in their space. */
function capstanMeshes(at: (bone: string) => number, world: Float64Array): Mesh[] {
  const part = (name: string, cage: Cage) => meshOf(name, [{ name, cage, steps: 1 }], null, 4);
  const pawlMesh = part('pawl', pawl());
  return [
    bed(part('bed', bedplate()), at('bed'), at('barrel')),
    lower(part('barrel', barrel()), 0.126),
    lower(part('drumhead', drumhead()), 0.762),
    part('bar', bar()),
    // A pawl that hangs on its bone and is bound as well, in world space.
    pawlBound(pawlMesh, world, at('pawl_a')),
    pawlMesh,
    held(part('rope', rope()), at('barrel')),
  ];
}

function lower(mesh: Mesh, y: number): Mesh {
  const { POSITION } = mesh.attributes;
  const data = Float32Array.from(POSITION.data, (value, i) => (i % 3 === 1 ? value - y : value));
  return { ...mesh, attributes: { ...mesh.attributes, POSITION: { ...POSITION, data } } };
}

/** Once about the vertical in four seconds. */
function fullTurn(at: number): Channel {
  return {
    node: at,
    path: 'rotation',
    interpolation: 'LINEAR',
    times: Float32Array.from({ length: 9 }, (_, i) => i / 2),
    values: Float32Array.from(
      Array.from({ length: 9 }, (_, i) => quatAbout([0, 1, 0], (i / 8) * 2 * Math.PI)).flat(),
    ),
  };
}

/** The bedplate: its iron on the bed, the brass ring on the barrel. */
function bed(mesh: Mesh, bed: number, ring: number): Mesh {
  const array = mesh.attributes.POSITION.data;
  return {
    ...held(mesh, bed),
    influences: influencesFrom(
      Array.from({ length: mesh.vertexCount }, (_, value) => [
        [
          array[value * 3 + 1] > 0.07 &&
          array[value * 3 + 1] < 0.12 &&
          Math.hypot(array[value * 3], array[value * 3 + 2]) > 0.3
            ? ring
            : bed,
          1,
        ] as [number, number],
      ]),
    ),
  };
}

function pawlBound(mesh: Mesh, world: Float64Array, bone: number): Mesh {
  const array = mesh.attributes.POSITION.data;
  const data = mesh.attributes.NORMAL.data;
  const o = bone * 16;
  const points = new Float32Array(array.length);
  const normals = new Float32Array(data.length);
  for (let i = 0; i < array.length; i += 3) {
    for (let row = 0; row < 3; row++) {
      points[i + row] =
        world[o + row] * array[i] +
        world[o + 4 + row] * array[i + 1] +
        world[o + 8 + row] * array[i + 2] +
        world[o + 12 + row];
      normals[i + row] =
        world[o + row] * data[i] + world[o + 4 + row] * data[i + 1] + world[o + 8 + row] * data[i + 2];
    }
  }
  return held(
    {
      ...mesh,
      attributes: {
        ...mesh.attributes,
        POSITION: { ...mesh.attributes.POSITION, data: points },
        NORMAL: { ...mesh.attributes.NORMAL, data: normals },
      },
    },
    bone,
  );
}

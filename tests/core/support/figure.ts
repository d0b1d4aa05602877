import { type Character, EMPTY_CARRIED, type SceneNode, node } from '@/core/character/model';
import { restWorld } from '@/core/character/hierarchy';
import { influencesFrom } from '@/core/geometry/influences';
import { type Vec3, inverseOr } from '@/core/geometry/matrix';
import { meshFrom } from './build';

export interface Stance {
  /** Degrees below the horizontal. */ readonly arms: number;
  /** Degrees off the vertical, outward. */ readonly legs: number;
  /** Degrees in elbows and knees. */ readonly bend: number;
}

const RAD = Math.PI / 180;

/** Places of the joints of a figure 1.8 m tall, from the ground up; +X is its left, +Z its front. */
export function jointsOf({ arms, legs, bend }: Stance): Record<string, Vec3> {
  const out: Record<string, Vec3> = {
    root: [0, 0, 0],
    pelvis: [0, 0.95, 0],
    spine: [0, 1.1, 0],
    chest: [0, 1.3, 0],
    neck: [0, 1.5, 0],
    head: [0, 1.6, 0],
  };
  for (const [side, s] of [
    ['left', 1],
    ['right', -1],
  ] as const) {
    const along = (from: Vec3, d: readonly number[], r: number): Vec3 => [
      from[0] + d[0] * r,
      from[1] + d[1] * r,
      from[2] + d[2] * r,
    ];
    // The line from base to end keeps its angle; the joint between stands off it, so that both halves turn by
    // half the bend.
    const limb = (base: Vec3, way: readonly number[], off: readonly number[], half: number): [Vec3, Vec3] => {
      const h = (bend / 2) * RAD;
      return [
        along(along(base, way, half * Math.cos(h)), off, half * Math.sin(h)),
        along(base, way, 2 * half * Math.cos(h)),
      ];
    };
    const shoulder: Vec3 = [s * 0.2, 1.45, 0];
    const hip: Vec3 = [s * 0.1, 0.9, 0];
    const arm = [s * Math.cos(arms * RAD), -Math.sin(arms * RAD), 0];
    const leg = [s * Math.sin(legs * RAD), -Math.cos(legs * RAD), 0];
    const [elbow, wrist] = limb(shoulder, arm, [0, 0, -1], 0.28);
    const [knee, ankle] = limb(hip, leg, [0, 0, 1], 0.42);
    Object.assign(out, {
      [`${side} upper arm`]: shoulder,
      [`${side} forearm`]: elbow,
      [`${side} hand`]: wrist,
      [`${side} thigh`]: hip,
      [`${side} shin`]: knee,
      [`${side} foot`]: ankle,
      [`${side} toe`]: along(ankle, [0, -0.3, 1], 0.12),
    });
  }
  return out;
}

const PARENT: Readonly<Record<string, string>> = {
  pelvis: 'root',
  spine: 'pelvis',
  chest: 'spine',
  neck: 'chest',
  head: 'neck',
  'upper arm': 'chest',
  forearm: 'upper arm',
  hand: 'forearm',
  thigh: 'pelvis',
  shin: 'thigh',
  foot: 'shin',
  toe: 'foot',
};

/** Corners and faces of a box. */
export function box(
  min: readonly number[],
  max: readonly number[],
): { points: number[][]; polygons: number[][] } {
  const points = Array.from({ length: 8 }, (_, i) => [
    i & 1 ? max[0] : min[0],
    i & 2 ? max[1] : min[1],
    i & 4 ? max[2] : min[2],
  ]);
  return {
    points,
    polygons: [
      [0, 2, 3, 1],
      [4, 5, 7, 6],
      [0, 1, 5, 4],
      [2, 6, 7, 3],
      [0, 4, 6, 2],
      [1, 3, 7, 5],
    ],
  };
}

/**
 * A figure with named bones and a body of boxes about its joints, each bound whole to its joint; up to 1.8 m,
 * its soles flat 6 cm below the ankles: on the ground where the legs are straight down.
 */
export function figure(stance: Stance, named: (name: string) => string = (name) => name): Character {
  const joints = jointsOf(stance);
  const names = Object.keys(joints);
  const indexOf = (name: string) => names.indexOf(name);
  const nodes: SceneNode[] = names.map((name) => {
    const [, side, part] = /^(?:(left|right) )?(.*)$/.exec(name)!;
    const above = PARENT[part];
    const parent =
      above === undefined ? -1 : indexOf(indexOf(`${side} ${above}`) >= 0 ? `${side} ${above}` : above);
    const at = joints[name];
    const from: Vec3 = parent < 0 ? [0, 0, 0] : joints[names[parent]];
    return node({
      name: named(name),
      kind: 'bone',
      parent,
      translation: [at[0] - from[0], at[1] - from[1], at[2] - from[2]],
    });
  });
  const points: number[][] = [];
  const polygons: number[][] = [];
  const rows: [number, number][][] = [];
  const put = (joint: string, min: readonly number[], max: readonly number[]) => {
    const b = box(min, max);
    polygons.push(...b.polygons.map((polygon) => polygon.map((vertex) => vertex + points.length)));
    points.push(...b.points);
    rows.push(...b.points.map((): [number, number][] => [[indexOf(joint), 1]]));
  };
  const sole = (name: string) =>
    / (foot|toe)$/.test(name) ? joints[name.replace('toe', 'foot')][1] - 0.06 : -Infinity;
  for (const name of names)
    if (name !== 'root') {
      const [x, y, z] = joints[name];
      const r = 0.07;
      put(name, [x - r, Math.max(sole(name), y - r), z - r], [x + r, y + r, z + r]);
    }
  for (const joint of ['left foot', 'right foot']) {
    const [x, y, z] = joints[joint];
    put(joint, [x - 0.05, sole(joint), z - 0.1], [x + 0.05, y + 0.02, z + 0.1]);
  }
  put('head', [-0.1, 1.55, -0.1], [0.1, 1.8, 0.1]);
  const world = restWorld(nodes);
  const inverseBinds = new Float64Array(names.length * 16);
  names.forEach((_, j) => inverseBinds.set(inverseOr(world, j * 16), j * 16));
  return {
    name: 'figure',
    nodes: [...nodes, node({ name: 'body', kind: 'mesh', mesh: 0, skin: 0 })],
    meshes: [meshFrom(points, polygons, influencesFrom(rows))],
    skins: [{ name: 'body', joints: names.map((_, j) => j), inverseBinds }],
    clips: [],
    sets: [],
    carried: { ...EMPTY_CARRIED, scenes: [{ json: {}, roots: [0, names.length] }] },
    source: { format: 'made', generator: '', unitMetres: 1, files: [] },
    notes: [],
  };
}

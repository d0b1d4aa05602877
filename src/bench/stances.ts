/**
 * Bodies with smooth skins in other stances than their target's: a tube round every bone of flesh, its weights spread
 * over the bones around by how far they are, as a body bound in one go has them. The same figure stands in T, in A at
 * several angles, and relaxed; its skin is made round it as it stands.
 */
import { type Skeleton, characterOfSkeleton, childrenOfBones, skeletonOf } from '../core/anatomy/skeleton';
import { restWorld } from '../core/character/hierarchy';
import { type Character, node } from '../core/character/model';
import { influencesFrom } from '../core/geometry/influences';
import {
  type Vec3,
  cross,
  dot,
  inverseOr,
  length,
  normalise,
  quatAbout,
  quatMultiply,
  subtract,
} from '../core/geometry/matrix';
import { boundInPose } from '../core/motion/bound-in-pose';
import { bodyOfQuads } from './bodies/body';
import { HABITS, type Random } from './match/habits';
import { type MadeFigure, makeFigure } from './match/figures';

/** How a body stands: degrees that its arms hang below the horizontal, and whether it is at ease. */
export interface BodyStance {
  readonly name: string;
  readonly arms: number;
  readonly isRelaxed: boolean;
}

export const T_POSE: BodyStance = { name: 'T', arms: 0, isRelaxed: false };

export const OTHER_STANCES: readonly BodyStance[] = [
  { name: 'A 45°', arms: 45, isRelaxed: false },
  { name: 'A 60°', arms: 60, isRelaxed: false },
  { name: 'A 75°', arms: 75, isRelaxed: false },
  { name: 'relaxed', arms: 70, isRelaxed: true },
];

/** A figure by chance in a T-pose, all its bones there. */
export const figureInT = (random: Random): MadeFigure =>
  makeFigure(random, 'human', HABITS[0], { stance: 'T', plain: true, steady: true });

/** How thick flesh is round a bone of a part, as a share of the height. */
const THICK: readonly [RegExp, number][] = [
  [/^pelvis|^spine/, 0.075],
  [/^collar/, 0.045],
  [/^neck/, 0.032],
  [/^head/, 0.05],
  [/^upperarm/, 0.028],
  [/^lowerarm/, 0.022],
  [/^hand/, 0.022],
  [/^upperleg/, 0.045],
  [/^lowerleg/, 0.033],
  [/^foot|^toe/, 0.024],
];

const FINGER = 0.006;

const thickness = (role: string | null): number =>
  THICK.find(([part]) => part.test(role ?? ''))?.[1] ?? FINGER;

/** The figure's skeleton as it stands, and its body made round that. */
export function bodyInStance(
  { skeleton, roles, isFlesh }: MadeFigure,
  stance: BodyStance,
  random: Random,
): Character {
  const turns = new Map<number, readonly number[]>();
  const rad = Math.PI / 180;
  roles.forEach((role, bone) => {
    const side = /left/.test(role ?? '') ? 1 : -1;
    const down = quatAbout([0, 0, 1], -side * stance.arms * rad);
    if (/^upperarm/.test(role ?? '')) turns.set(bone, down);
    if (!stance.isRelaxed) return;
    // An elbow bends forward about the axis that it has once the arm hangs.
    if (/^lowerarm/.test(role ?? '')) turns.set(bone, turnedBy(down, quatAbout([0, 1, 0], -side * 25 * rad)));
    if (/^upperleg/.test(role ?? '')) turns.set(bone, quatAbout([0, 0, 1], side * 7 * rad));
    if (/^(index|long|ring|little) \d/.test(role ?? ''))
      turns.set(bone, turnedBy(down, quatAbout([0, 0, 1], -side * 18 * rad)));
  });
  const bare = characterOfSkeleton(skeleton);
  return fleshed(skeletonOf(turns.size > 0 ? boundInPose(bare, turns) : bare), roles, isFlesh, random);
}

/** A turn about axes that have been turned themselves. */
const turnedBy = (by: readonly number[], turn: readonly number[]) =>
  quatMultiply(quatMultiply(by, turn), [-by[0], -by[1], -by[2], by[3]]);

/** A bone with its flesh: from where to where, and how thick. */
interface Limb {
  readonly bone: number;
  readonly from: Vec3;
  readonly to: Vec3;
  readonly radius: number;
}

/** Corners round a tube, and how many times its thickness rings stand apart at most. */
const ROUND = 12;
const APART = 0.5;

/** A body round a skeleton, bound to it. */
function fleshed(
  skeleton: Skeleton,
  roles: MadeFigure['roles'],
  isFlesh: readonly boolean[],
  random: Random,
): Character {
  const limbs = limbsOf(skeleton, roles, isFlesh, random);
  const points: Vec3[] = [];
  const polygons: number[][] = [];
  for (const limb of limbs) addTube(limb, points, polygons);
  // How fast a bone's hold on the skin ends beside it: as different skins have it.
  const hardness = 3 + 3 * random();
  const near = bonesNear(skeleton);
  const rows = points.map((point) => weightsAt(point, limbs, near, hardness));
  const bare = characterOfSkeleton(skeleton);
  const { joints } = bare.skins[0];
  const world = restWorld(bare.nodes);
  const inverseBinds = new Float64Array(joints.length * 16);
  joints.forEach((j, k) => inverseBinds.set(inverseOr(world, j * 16), k * 16));
  return {
    ...bare,
    meshes: [bodyOfQuads(points, polygons, influencesFrom(rows))],
    skins: [{ name: '', joints, inverseBinds }],
    nodes: [...bare.nodes, node({ name: 'body', kind: 'mesh', mesh: 0, skin: 0 })],
  };
}

function limbsOf(
  skeleton: Skeleton,
  roles: MadeFigure['roles'],
  isFlesh: readonly boolean[],
  random: Random,
): Limb[] {
  const children = childrenOfBones(skeleton);
  const heights = skeleton.bones.map((bone) => bone.place[1]);
  const height = Math.max(...heights) - Math.min(...heights);
  const build = 0.85 + 0.3 * random();
  return skeleton.bones.flatMap(({ place }, bone): Limb[] => {
    if (!isFlesh[bone]) return [];
    const radius = thickness(roles[bone]) * height * build;
    const from = place as Vec3;
    const next = children[bone].filter((child) => isFlesh[child]);
    // A trunk goes on in its middle; a limb to the bone that lies farthest on.
    const on = next.find((bone) => /middle|^spine|^neck|^head/.test(roles[bone] ?? '')) ?? next[0];
    if (on !== undefined) return [{ bone, from, to: skeleton.bones[on].place as Vec3, radius }];
    const above = skeleton.bones[bone].parent;
    const way = above >= 0 ? normalise(subtract(from, skeleton.bones[above].place as Vec3)) : [0, 1, 0];
    return [{ bone, from, to: from.map((x, k) => x + way[k] * 2 * radius) as unknown as Vec3, radius }];
  });
}

function addTube({ from, to, radius }: Limb, points: Vec3[], polygons: number[][]): void {
  const way = subtract(to, from);
  const along = normalise(way);
  const side = normalise(Math.abs(along[1]) < 0.8 ? cross(along, [0, 1, 0]) : cross(along, [0, 0, 1]));
  const up = cross(along, side);
  const rings = Math.max(3, Math.ceil(length(way) / (radius * APART)) + 1);
  const first = points.length;
  for (let row = 0; row < rings; row++)
    for (let k = 0; k < ROUND; k++) {
      const [cosine, sine] = [Math.cos((2 * Math.PI * k) / ROUND), Math.sin((2 * Math.PI * k) / ROUND)];
      const at = row / (rings - 1);
      points.push(
        [0, 1, 2].map(
          (a) => from[a] + at * way[a] + radius * (cosine * side[a] + sine * up[a]),
        ) as unknown as Vec3,
      );
    }
  for (let row = 0; row + 1 < rings; row++)
    for (let k = 0; k < ROUND; k++) {
      const [a, b] = [first + row * ROUND + k, first + row * ROUND + ((k + 1) % ROUND)];
      polygons.push([a, b, b + ROUND, a + ROUND]);
    }
}

/** Bones that may share a point with each bone: those at most two steps from it in the tree. */
function bonesNear({ bones }: Skeleton): Set<number>[] {
  const beside = bones.map((bone, i) => [
    bone.parent,
    ...bones.flatMap((otherBone, k) => (otherBone.parent === i ? [k] : [])),
  ]);
  return bones.map((_, i) => {
    const one = [i, ...beside[i]];
    return new Set([...one, ...one.flatMap((b) => beside[b] ?? [])]);
  });
}

/** Most bones at a point. */
const LIMIT = 4;

/** Weights by distance from the bones, as shares of their thickness. */
function weightsAt(
  point: Vec3,
  limbs: readonly Limb[],
  near: readonly Set<number>[],
  hardness: number,
): [number, number][] {
  const all = limbs.map((limb) => ({ bone: limb.bone, far: farFrom(point, limb) / limb.radius }));
  const nearest = all.reduce((a, b) => (b.far < a.far ? b : a));
  const rows = all
    .filter(({ bone }) => near[nearest.bone].has(bone))
    .sort((a, b) => a.far - b.far)
    .slice(0, LIMIT)
    .map(({ bone, far }): [number, number] => [bone, 1 / (far + 0.05) ** hardness]);
  const sum = rows.reduce((sum, [, weight]) => sum + weight, 0);
  const kept = rows.filter(([, weight]) => weight / sum > 0.01);
  const rest = kept.reduce((sum, [, weight]) => sum + weight, 0);
  return kept.map(([bone, weight]) => [bone, weight / rest]);
}

function farFrom(point: Vec3, { from, to }: Limb): number {
  const way = subtract(to, from);
  const at = Math.min(1, Math.max(0, dot(subtract(point, from), way) / (dot(way, way) || 1)));
  return length(subtract(point, from.map((x, k) => x + at * way[k]) as unknown as Vec3));
}

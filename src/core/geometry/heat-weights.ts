/**
 * Weights by heat that spreads over a surface from the bones that its points see (Baran & Popović 2007, *Automatic Rigging and
 * Animation of 3D Characters*, § 4): for every bone −Δw + H·w = H·p, where p tells whose the nearest bone in sight is, and H is one
 * over the square of its distance.
 */
import { type SparseSymmetric, surfaceLaplacian } from './laplacian';
import { factorised } from './sparse-cholesky';
import type { TriangleTree } from './triangle-tree';

/** A straight piece of a bone. */
export interface BoneSegment {
  /** Which bone it is of, 0 … */
  readonly bone: number;
  readonly from: readonly [number, number, number];
  readonly to: readonly [number, number, number];
}

/** How far along a segment, 0 … 1, its place nearest to another lies. */
function alongSegment({ from, to }: BoneSegment, x: number, y: number, z: number): number {
  const dx = to[0] - from[0];
  const dy = to[1] - from[1];
  const dz = to[2] - from[2];
  const long = dx * dx + dy * dy + dz * dz;
  const along = long > 0 ? ((x - from[0]) * dx + (y - from[1]) * dy + (z - from[2]) * dz) / long : 0;
  return Math.min(1, Math.max(0, along));
}

/** The square of how far a place is from a segment. */
export function squaredToSegment(segment: BoneSegment, x: number, y: number, z: number): number {
  const { from, to } = segment;
  const share = alongSegment(segment, x, y, z);
  const ex = from[0] + share * (to[0] - from[0]) - x;
  const ey = from[1] + share * (to[1] - from[1]) - y;
  const ez = from[2] + share * (to[2] - from[2]) - z;
  return ex * ex + ey * ey + ez * ez;
}

/** What every point sees of the bones. */
export interface BonesInSight {
  /** The nearest bone in sight of every point, −1 for none. */
  readonly bone: Int32Array;
  /** How far its segment is. */
  readonly distance: Float64Array;
  /** The nearest of all, whether it is seen or not, and how far it is. */
  readonly nearest: Int32Array;
  readonly nearestDistance: Float64Array;
}

/** So many of the nearest segments are tried for one in sight. */
const TRIED = 6;

/** A bone in sight may be so many times as far as the nearest: what lies beyond belongs to another limb. */
const FARTHEST = 3;

/** The way to a bone may be cut in its last part: a point lies in its own surface, and folds about it. */
const FORGIVEN = 0.05;

/**
 * The nearest bone that every point sees: no surface lies between.
 * @param places 3 per point
 * @param tree the surface that hides bones; its points are in the same space
 */
export function bonesInSight(
  places: ArrayLike<number>,
  segments: readonly BoneSegment[],
  tree: TriangleTree | null,
): BonesInSight {
  const count = places.length / 3;
  const bone = new Int32Array(count).fill(-1);
  const distance = new Float64Array(count).fill(Infinity);
  const nearest = new Int32Array(count).fill(-1);
  const nearestDistance = new Float64Array(count).fill(Infinity);
  const best: { squared: number; at: number }[] = [];
  for (let point = 0; point < count; point++) {
    const [x, y, z] = [places[point * 3], places[point * 3 + 1], places[point * 3 + 2]];
    best.length = 0;
    segments.forEach((segment, at) => {
      const squared = squaredToSegment(segment, x, y, z);
      if (best.length === TRIED && squared >= best[TRIED - 1].squared) return;
      let k = best.length < TRIED ? best.length : TRIED - 1;
      for (; k > 0 && best[k - 1].squared > squared; k--) best[k] = best[k - 1];
      best[k] = { squared, at };
    });
    if (best.length === 0) continue;
    nearest[point] = segments[best[0].at].bone;
    nearestDistance[point] = Math.sqrt(best[0].squared);
    for (const { squared, at } of best) {
      if (squared > FARTHEST * FARTHEST * best[0].squared) break;
      if (tree && !isSeen(tree, segments[at], x, y, z)) continue;
      bone[point] = segments[at].bone;
      distance[point] = Math.sqrt(squared);
      break;
    }
  }
  return { bone, distance, nearest, nearestDistance };
}

/** Whether no surface lies between a place and where a segment is nearest to it. */
function isSeen(tree: TriangleTree, segment: BoneSegment, x: number, y: number, z: number): boolean {
  const { from, to } = segment;
  const share = alongSegment(segment, x, y, z);
  const eye = [0, 1, 2].map((k) => from[k] + share * (to[k] - from[k]));
  const way = [x - eye[0], y - eye[1], z - eye[2]];
  if (Math.hypot(...way) < 1e-9) return true;
  const hit = tree.firstHit(eye, way);
  return !hit || hit.distance >= 1 - FORGIVEN;
}

/** A surface to be bound, by points. */
export interface HeatSurface {
  readonly offsets: Uint32Array;
  readonly corners: Uint32Array;
  readonly pointOfVertex: Uint32Array;
  /** 3 per point. */
  readonly places: ArrayLike<number>;
}

/**
 * Weights of every bone at every point; bones that nobody sees have none.
 * @param seen whose every point is, and how far that is
 * @param tell progress, 0 … 1; true ends it
 * @returns by bone 1 per point; points on pieces that see no bone have 0 everywhere. Null where it was ended
 */
export function heatWeights(
  { offsets, corners, pointOfVertex, places }: HeatSurface,
  { bone, distance }: Pick<BonesInSight, 'bone' | 'distance'>,
  tell: (share: number) => boolean = () => false,
): Map<number, Float64Array> | null {
  const { stiffness, areas } = surfaceLaplacian(offsets, corners, pointOfVertex, places);
  const heat = new Float64Array(stiffness.size);
  for (let point = 0; point < heat.length; point++)
    // Areas of zero would leave a point without a say of its own.
    if (bone[point] >= 0) heat[point] = Math.max(areas[point], 1e-12) / Math.max(distance[point] ** 2, 1e-12);
  const matrix = withHeat(stiffness, heat);
  const solver = factorised(matrix, places);
  const bones = [...new Set(bone)].filter((own) => own >= 0).sort((a, b) => a - b);
  const out = new Map<number, Float64Array>();
  const right = new Float64Array(matrix.size);
  for (const [i, own] of bones.entries()) {
    if (tell(i / bones.length)) return null;
    const weights = new Float64Array(matrix.size);
    for (let point = 0; point < right.length; point++) {
      right[point] = bone[point] === own ? heat[point] : 0;
    }
    solver.solve(right, weights);
    for (let point = 0; point < right.length; point++)
      if (!(weights[point] > 0)) weights[point] = 0;
      else if (weights[point] > 1) weights[point] = 1;
    out.set(own, weights);
  }
  return out;
}

/** The matrix with the heat on its diagonal; rows without anything get a one, and stay at zero. */
function withHeat(stiffness: SparseSymmetric, heat: Float64Array): SparseSymmetric {
  let mean = 0;
  for (const value of stiffness.diagonal) mean += Math.abs(value) / stiffness.size;
  const diagonal = stiffness.diagonal.map((value, i) => value + heat[i] + 1e-9 * mean);
  for (let i = 0; i < diagonal.length; i++) if (!(diagonal[i] > 0)) diagonal[i] = mean > 0 ? mean : 1;
  return { ...stiffness, diagonal };
}

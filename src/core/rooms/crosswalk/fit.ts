import {
  type Vec3,
  distance,
  length,
  quatBetween,
  quatMultiply,
  quatRotate,
  subtract,
} from '../../geometry/matrix';
import { rotationOf } from '../../geometry/rotation';
import { type Crosswalk, counterparts } from '../../anatomy/crosswalk';
import { looksOf } from '../../anatomy/looks';
import { type Skeleton, bonesAbove, childrenOfBones } from '../../anatomy/skeleton';

/** The target’s bones in the places of a mesh. */
export interface Fitted {
  readonly places: readonly (readonly number[])[];
  readonly rotations: readonly (readonly number[])[];
}

/**
 * The target's joints moved to the mesh: names, tree and axis conventions of the target, places of the
 * source. A joint without a counterpart is spaced along its chain as the target spaces it; one beyond the
 * last counterpart goes on from there in the target's proportions, and a point that things are attached at stays where
 * the target has it, relative to its bone. Every bone is turned by the smallest
 * rotation that brings the ways to the bones below nearest to where they go now. World space, metres.
 */
export function fitTarget(source: Skeleton, target: Skeleton, crosswalk: Crosswalk): Fitted {
  const sourceNodeOf = counterparts(target, crosswalk);
  const { readings } = looksOf(target);
  // What the game hangs on a bone is meant for where its skeleton has it.
  const isAttachPoint = (bone: number) => readings[bone].kind === 'attach';
  const children = childrenOfBones(target);
  const matched = [...sourceNodeOf.keys()].filter((bone) => sourceNodeOf[bone] >= 0);
  const some = matched.filter((_, i) => i % Math.ceil(matched.length / 40 || 1) === 0);
  const ratio =
    some.length > 1
      ? extentOf(
          source,
          some.map((bone) => sourceNodeOf[bone]),
        ) / (extentOf(target, some) || 1) || 1
      : 1;

  const places: number[][] = [];
  const turns: number[][] = [];
  const rotations: number[][] = [];
  /** The nearest matched bone down the chain, or −1 where the branch has none. */
  const next = (bone: number): number => {
    let level = children[bone];
    while (level.length > 0) {
      const hit = level.find((child) => sourceNodeOf[child] >= 0);
      if (hit !== undefined) return hit;
      level = level.flatMap((child) => children[child]);
    }
    return -1;
  };
  target.bones.forEach((bone, index) => {
    if (sourceNodeOf[index] >= 0) {
      places[index] = [...source.bones[sourceNodeOf[index]].place];
      return;
    }
    const above = bonesAbove(target, index).find((ancestor) => sourceNodeOf[ancestor] >= 0) ?? -1;
    const below = next(index);
    if (above >= 0 && below >= 0) {
      const from = target.bones[above].place;
      const to = target.bones[below].place;
      const way = to.map((x, k) => x - from[k]);
      const share =
        way.reduce((sum, x, k) => sum + x * (bone.place[k] - from[k]), 0) /
        (way.reduce((sum, x) => sum + x * x, 0) || 1);
      places[index] = source.bones[sourceNodeOf[above]].place.map(
        (x, k) => x + (source.bones[sourceNodeOf[below]].place[k] - x) * Math.min(1, Math.max(0, share)),
      );
    } else if (bone.parent >= 0) {
      const size = isAttachPoint(index) && ratio > 1 / ALIKE && ratio < ALIKE ? 1 : ratio;
      const offset = bone.place.map((x, k) => (x - target.bones[bone.parent].place[k]) * size);
      const turn = above >= 0 ? turnOf(isAttachPoint(index) ? bone.parent : above) : [0, 0, 0, 1];
      places[index] = quatRotate(turn, offset).map((x, k) => x + places[bone.parent][k]);
    } else {
      places[index] = bone.place.map((x) => x * ratio);
    }
  });

  function turnOf(bone: number): number[] {
    if (turns[bone]) return turns[bone];
    const known = children[bone].filter((child) => sourceNodeOf[child] >= 0 || places[child]);
    const parent = target.bones[bone].parent;
    const fallback = parent >= 0 ? turnOf(parent) : [0, 0, 0, 1];
    if (known.length === 0) return (turns[bone] = fallback);
    const from = target.bones[bone].place;
    const to = sourceNodeOf[bone] >= 0 ? source.bones[sourceNodeOf[bone]].place : places[bone];
    const ways = known.map((child) => ({
      before: subtract(target.bones[child].place, from),
      after: subtract(sourceNodeOf[child] >= 0 ? source.bones[sourceNodeOf[child]].place : places[child], to),
    }));
    return (turns[bone] = turnBetween(ways));
  }
  target.bones.forEach((bone, index) => {
    rotations[index] = quatMultiply(turnOf(index), bone.rotation);
  });
  return { places, rotations };
}

/** Figures that are at most so many times as large as each other are alike: more is another unit. */
const ALIKE = 2;

/**
 * The smallest rotation that brings directions nearest to others: of one, from it to the other; of several, all of
 * them count alike. Directions that cancel in their mean (a pelvis between spine and thighs) are no less clear.
 */
function turnBetween(ways: readonly { readonly before: Vec3; readonly after: Vec3 }[]): number[] {
  if (ways.length === 1) return quatBetween(ways[0].before, ways[0].after);
  const covariance = new Float64Array(9);
  for (const { before, after } of ways) {
    const weight = 1 / (length(before) * length(after) || Infinity);
    for (let a = 0; a < 3; a++)
      for (let b = 0; b < 3; b++) covariance[a * 3 + b] += weight * after[a] * before[b];
  }
  return rotationOf(covariance);
}

/** How far apart the two of some bones are that lie farthest from each other, metres. */
function extentOf({ bones }: Skeleton, some: readonly number[]): number {
  let size = 0;
  for (const a of some) for (const b of some) size = Math.max(size, distance(bones[a].place, bones[b].place));
  return size;
}

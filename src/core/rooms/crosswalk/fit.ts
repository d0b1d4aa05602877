import { type Vec3, length, quatBetween, quatMultiply, quatRotate, subtract } from '../../geometry/matrix';
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
  const partner = counterparts(target, crosswalk);
  const { readings } = looksOf(target);
  // What the game hangs on a bone is meant for where its skeleton has it.
  const isAttachPoint = (t: number) => readings[t].kind === 'attach';
  const children = childrenOfBones(target);
  const extent = (k: Skeleton, bones: readonly number[]) => {
    let size = 0;
    for (const a of bones)
      for (const b of bones)
        size = Math.max(size, Math.hypot(...[0, 1, 2].map((x) => k.bones[a].place[x] - k.bones[b].place[x])));
    return size;
  };
  const matched = [...partner.keys()].filter((t) => partner[t] >= 0);
  const some = matched.filter((_, i) => i % Math.ceil(matched.length / 40 || 1) === 0);
  const ratio =
    some.length > 1
      ? extent(
          source,
          some.map((t) => partner[t]),
        ) / (extent(target, some) || 1) || 1
      : 1;

  const places: number[][] = [];
  const turns: number[][] = [];
  const rotations: number[][] = [];
  /** The nearest matched bone down the chain, or −1 where the branch has none. */
  const next = (t: number): number => {
    let level = children[t];
    while (level.length > 0) {
      const hit = level.find((c) => partner[c] >= 0);
      if (hit !== undefined) return hit;
      level = level.flatMap((c) => children[c]);
    }
    return -1;
  };
  target.bones.forEach((bone, t) => {
    if (partner[t] >= 0) {
      places[t] = [...source.bones[partner[t]].place];
      return;
    }
    const a = bonesAbove(target, t).find((b) => partner[b] >= 0) ?? -1;
    const d = next(t);
    if (a >= 0 && d >= 0) {
      const from = target.bones[a].place;
      const to = target.bones[d].place;
      const way = to.map((x, k) => x - from[k]);
      const f =
        way.reduce((s, x, k) => s + x * (bone.place[k] - from[k]), 0) /
        (way.reduce((s, x) => s + x * x, 0) || 1);
      places[t] = source.bones[partner[a]].place.map(
        (x, k) => x + (source.bones[partner[d]].place[k] - x) * Math.min(1, Math.max(0, f)),
      );
    } else if (bone.parent >= 0) {
      const size = isAttachPoint(t) && ratio > 1 / ALIKE && ratio < ALIKE ? 1 : ratio;
      const offset = bone.place.map((x, k) => (x - target.bones[bone.parent].place[k]) * size);
      const turn = a >= 0 ? turnOf(isAttachPoint(t) ? bone.parent : a) : [0, 0, 0, 1];
      places[t] = quatRotate(turn, offset).map((x, k) => x + places[bone.parent][k]);
    } else {
      places[t] = bone.place.map((x) => x * ratio);
    }
  });

  function turnOf(t: number): number[] {
    if (turns[t]) return turns[t];
    const known = children[t].filter((c) => partner[c] >= 0 || places[c]);
    const parent = target.bones[t].parent;
    const fallback = parent >= 0 ? turnOf(parent) : [0, 0, 0, 1];
    if (known.length === 0) return (turns[t] = fallback);
    const from = target.bones[t].place;
    const to = partner[t] >= 0 ? source.bones[partner[t]].place : places[t];
    const ways = known.map((c) => ({
      before: subtract(target.bones[c].place, from),
      after: subtract(partner[c] >= 0 ? source.bones[partner[c]].place : places[c], to),
    }));
    return (turns[t] = turnBetween(ways));
  }
  target.bones.forEach((bone, t) => {
    rotations[t] = quatMultiply(turnOf(t), bone.rotation);
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

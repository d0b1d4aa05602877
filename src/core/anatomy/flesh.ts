/** Which bones of a bound skeleton a body is made of: what carries nothing, and has nothing below that does, is no limb. */
import { skeletonOfBones } from './lone';
import { skeletonReading } from './looks';
import type { Skeleton } from './skeleton';

/** So many of its bones carry something where a skeleton is bound. */
const BOUND = 0.4;

const known = new WeakMap<Skeleton, readonly number[] | null>();

/**
 * Bones that a body is made of, as far as no name says what the others are for (things that are held, targets of solvers).
 * Null where that is all of them, or where nothing is bound.
 */
export function bonesOfFlesh(skeleton: Skeleton): readonly number[] | null {
  let found = known.get(skeleton);
  if (found === undefined) known.set(skeleton, (found = find(skeleton)));
  return found;
}

function find(skeleton: Skeleton): readonly number[] | null {
  const { bones } = skeleton;
  const carries = bones.map((bone) => bone.weight > 0 || bone.holds);
  if (carries.filter(Boolean).length < BOUND * bones.length) return null;
  // Children come after their parents.
  for (let i = bones.length - 1; i > 0; i--)
    if (carries[i] && bones[i].parent >= 0) carries[bones[i].parent] = true;
  const { readings } = skeletonReading(skeleton);
  const kept = bones.flatMap((_, i) =>
    carries[i] || readings[i].part !== '' || readings[i].kind !== 'bone' ? [i] : [],
  );
  return kept.length === bones.length ? null : kept;
}

const reduced = new WeakMap<Skeleton, Skeleton>();

/** The skeleton of those bones alone. */
export function fleshOf(skeleton: Skeleton): Skeleton {
  const bones = bonesOfFlesh(skeleton);
  if (!bones) return skeleton;
  let found = reduced.get(skeleton);
  if (!found) reduced.set(skeleton, (found = skeletonOfBones(skeleton, bones)));
  return found;
}

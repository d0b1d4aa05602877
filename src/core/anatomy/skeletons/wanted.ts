/** The skeleton that a brief wants: one of the house's, or one that it brings along. */
import type { Skeleton } from '../skeleton';
import { skeletonById } from './index';

/** The `skeleton` of a brief that brings its own. */
export const OWN_SKELETON = 'own';

/** What a brief says of the skeleton that its game wants. */
export interface SkeletonWanted {
  /** Id of one of the house's, or “own”. */
  readonly skeleton: string;
  readonly ownSkeleton?: OwnSkeleton | null;
}

/** A skeleton as a brief brings it along: bones from the root out, world places in metres, world rotations. */
export interface OwnSkeleton {
  title: string;
  bones: { name: string; parent: number; place: number[]; rotation: number[] }[];
}

/** The skeleton that a brief wants; undefined where the house does not know it. */
export function skeletonWanted({ skeleton, ownSkeleton }: SkeletonWanted): Skeleton | undefined {
  const known = skeletonById(skeleton);
  if (known || !ownSkeleton || skeleton !== OWN_SKELETON) return known;
  return {
    id: OWN_SKELETON,
    title: ownSkeleton.title,
    bones: ownSkeleton.bones.map(({ name, parent, place: [x, y, z], rotation: [a, b, qz, qw] }) => ({
      name,
      parent,
      place: [x, y, z],
      rotation: [a, b, qz, qw],
      weight: 0,
      holds: false,
      node: -1,
    })),
  };
}

/** A skeleton as a brief brings it along. */
export const ownSkeletonOf = ({ bones }: Skeleton, title: string): OwnSkeleton => ({
  title,
  bones: bones.map(({ name, parent, place, rotation }) => ({
    name,
    parent,
    place: [...place],
    rotation: [...rotation],
  })),
});

/** Why a brief's skeleton cannot be taken, to be read after “it”; null where it can. */
export function whyNoSkeleton(brief: SkeletonWanted): string | null {
  const { skeleton, ownSkeleton } = brief;
  if (skeleton !== OWN_SKELETON)
    return skeletonById(skeleton) ? null : `wants a skeleton “${skeleton}” that the house does not have`;
  if (!ownSkeleton) return 'wants a skeleton of its own, and “ownSkeleton” holds none';
  const wrong = ownSkeleton.bones.findIndex(({ parent }, i) => parent >= i);
  return wrong < 0 ? null : `has in “ownSkeleton.bones[${wrong}]” a parent that does not come before it`;
}

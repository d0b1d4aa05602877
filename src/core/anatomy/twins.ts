import { looksOf } from './looks';
import type { Skeleton } from './skeleton';

/** The bone on the other side: by the names where they tell sides, else by the shape; −1 for none. */
export function twinOf(skeleton: Skeleton, bone: number): number {
  const { readings, shape, side, hasNamedSides } = looksOf(skeleton);
  if (!hasNamedSides) return shape.twin[bone];
  const { stem } = readings[bone];
  if (side[bone] === 0) return -1;
  return readings.findIndex((reading, i) => reading.stem === stem && side[i] === -side[bone]);
}

/** New names for bones: of each the one that its twin among them has, so that left is called right and the other way round. */
export function exchangedSides(
  skeleton: Skeleton,
  bones: readonly number[],
): Readonly<Record<string, string>> {
  const all = new Set(bones);
  const rows = bones.flatMap((bone): [string, string][] => {
    const twin = twinOf(skeleton, bone);
    return all.has(twin) ? [[skeleton.bones[bone].name, skeleton.bones[twin].name]] : [];
  });
  return Object.fromEntries(rows);
}

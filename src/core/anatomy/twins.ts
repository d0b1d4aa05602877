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

const pairings = new WeakMap<Skeleton, Int32Array>();

/**
 * The same for all bones at once and one to one, in the order of the tree: of several that have one name the first is
 * the twin, and the others stand alone. Made once.
 */
export function twinsOf(skeleton: Skeleton): Int32Array {
  let twins = pairings.get(skeleton);
  if (!twins) pairings.set(skeleton, (twins = pairUp(skeleton)));
  return twins;
}

function pairUp(skeleton: Skeleton): Int32Array {
  const { readings, shape, side, hasNamedSides } = looksOf(skeleton);
  if (!hasNamedSides) return shape.twin;
  const twins = new Int32Array(readings.length).fill(-1);
  const waiting = new Map<string, number[]>();
  readings.forEach(({ stem }, i) => {
    if (side[i] === 0) return;
    const other = waiting.get(`${-side[i]}/${stem}`)?.shift();
    if (other !== undefined) {
      twins[i] = other;
      twins[other] = i;
      return;
    }
    const key = `${side[i]}/${stem}`;
    const list = waiting.get(key);
    if (list) list.push(i);
    else waiting.set(key, [i]);
  });
  return twins;
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

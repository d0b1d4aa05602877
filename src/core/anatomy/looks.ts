/** What the bones of a skeleton look like: what their names say together, and the shape of the tree. */
import { parentsFromPlaces } from './flat';
import { loneLimb } from './lone';
import { type BoneReading, readSkeleton } from './reading/read';
import { type SkeletonShape, shapeOf } from './shape';
import type { Skeleton } from './skeleton';

/** The joints of a beast's legs, by bone. */
export interface LegJoints {
  /** Which joint the names call it, the same for front and hind legs; '' where they do not say or it is none. */
  readonly called: readonly string[];
  /** Every joint that is called so, by part, side and joint. */
  readonly all: ReadonlySet<string>;
  /** How much speaks for its front being the front, from 0 on. */
  readonly vote: number;
  /** How high over the ground it stands, as a share of the trunk's height; NaN of what is no leg. */
  readonly height: Float64Array;
}

/** One of two skeletons that are matched. */
export interface SkeletonReading {
  readonly skeleton: Skeleton;
  readonly shape: SkeletonShape;
  readonly readings: readonly BoneReading[];
  /** 1 left, −1 right, 0 middle, from names or from shape. */
  readonly side: Int8Array;
  readonly hasNamedSides: boolean;
  readonly isSided: boolean;
  /** Whether the names say enough to go by: a fifth of the bones, or as many as a body has. */
  readonly speaks: boolean;
  /** Of a beast: what is known of the joints of its legs; absent where parts tell as much. */
  readonly legs?: LegJoints;
  /** How sure it is which end of it is the front, where parts were told by that; 1 elsewhere. */
  readonly endsSure: number;
  /** The parts that it is made of, where it is one limb by itself. */
  readonly lone: ReadonlySet<string> | null;
  /** Its joints hang side by side, and their chains were found from their places. */
  readonly isRebuilt: boolean;
  readonly rank: Int32Array;
  readonly alike: Int32Array;
}

const sides = new WeakMap<Skeleton, SkeletonReading>();

/** The looks of a skeleton; they are made once. */
export function skeletonReading(skeleton: Skeleton): SkeletonReading {
  let known = sides.get(skeleton);
  if (!known) {
    known = lookAt(skeleton);
    sides.set(skeleton, known);
  }
  return known;
}

function lookAt(skeleton: Skeleton): SkeletonReading {
  const rebuilt = parentsFromPlaces(skeleton);
  const shape = shapeOf(skeleton, rebuilt ?? undefined);
  const readings = readSkeleton(skeleton, shape);
  const hasNamedSides =
    readings.some((reading) => reading.side === 'left') &&
    readings.some((reading) => reading.side === 'right');
  const lone = loneLimb(readings);
  const side = new Int8Array(shape.count);
  // What a hand by itself is called is no side among its own bones, and its fingers are none of each other’s twins.
  if (!lone)
    readings.forEach((reading, i) => {
      side[i] = hasNamedSides ? SIGNS[reading.side] : shape.side[i];
    });
  const parts = readings.filter((reading) => reading.part !== '').length;
  const speaks = parts > Math.min(0.2 * shape.count, ENOUGH);
  const isSided = side.some((x) => x !== 0);
  return {
    skeleton,
    shape,
    readings,
    side,
    hasNamedSides,
    isSided,
    speaks,
    endsSure: 1,
    lone,
    isRebuilt: rebuilt !== null,
    ...ranksOf(readings, side, shape),
  };
}

/** Place among the bones of the same part and side from the body out, and their number. */
export function ranksOf(readings: readonly BoneReading[], side: Int8Array, shape: SkeletonShape) {
  const rank = new Int32Array(shape.count);
  const alike = new Int32Array(shape.count).fill(1);
  const groups = new Map<string, number[]>();
  readings.forEach((reading, i) => {
    if (!reading.part || reading.kind !== 'bone') return;
    const key = `${reading.part}/${side[i]}`;
    groups.set(key, [...(groups.get(key) ?? []), i]);
  });
  for (const group of groups.values())
    [...group]
      .sort((a, b) => shape.way[a] - shape.way[b])
      .forEach((i, k) => {
        rank[i] = k;
        alike[i] = group.length;
      });
  return { rank, alike };
}

/** Sides as numbers. */
const SIGNS = { left: 1, right: -1, middle: 0, '': 0 } as const;

/** Bones with a part in their names that make names worth going by, however many others there are. */
const ENOUGH = 12;

/** What the names and the shape of a skeleton's bones say, as matching sees them. */
export function looksOf(skeleton: Skeleton): {
  readonly readings: readonly BoneReading[];
  readonly shape: SkeletonShape;
  /** 1 left, −1 right, 0 middle; from names where they tell. */
  readonly side: Int8Array;
  readonly hasNamedSides: boolean;
} {
  return skeletonReading(skeleton);
}

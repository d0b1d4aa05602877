/** What a bearing is, and directions against the axes of the world. */
import { type Vec3, cross, dot, length, normalise } from '../geometry/matrix';

/**
 * How a figure stands: its own up, left and forward as unit vectors in world space; null where the skeleton
 * does not tell.
 */
export interface Bearing {
  readonly up: Vec3;
  readonly left: Vec3;
  readonly forward: Vec3;
  /** True where left and right of the names are exchanged against the toes. */ readonly crossed: boolean;
}

/** The part of a direction that stands square on a unit vector, of length 1; null where there is none. */
export function squareAgainst(vector: Vec3, on: Vec3): Vec3 | null {
  const along = dot(vector, on);
  const rest: Vec3 = [vector[0] - along * on[0], vector[1] - along * on[1], vector[2] - along * on[2]];
  return length(rest) < 1e-6 * Math.max(1, length(vector)) ? null : normalise(rest);
}

/** The signed axes of the world, unit vectors. */
export const AXES = {
  x: [1, 0, 0],
  '-x': [-1, 0, 0],
  y: [0, 1, 0],
  '-y': [0, -1, 0],
  z: [0, 0, 1],
  '-z': [0, 0, -1],
} as const satisfies Record<string, Vec3>;
export type SignedAxis = keyof typeof AXES;

/** The axis of the world that lies nearest to a direction. */
export function nearestAxis(vector: Vec3): SignedAxis {
  return (Object.keys(AXES) as SignedAxis[]).reduce(
    (best, key) => (dot(AXES[key], vector) > dot(AXES[best], vector) ? key : best),
    'x' as SignedAxis,
  );
}

/** Angle between two directions, degrees. */
export function degreesBetween(a: Vec3, b: Vec3): number {
  return (Math.atan2(length(cross(a, b)), dot(a, b)) * 180) / Math.PI;
}

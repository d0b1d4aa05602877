/** Where a ray, as the pointer sends it into a picture, leads along a line or within a plane. */
import { type Vec3, dot, subtract } from './matrix';

/** A line or a plane through a place: along a unit direction, or square to one. World space, metres. */
export interface DragWay {
  readonly kind: 'line' | 'plane';
  readonly through: Vec3;
  readonly direction: Vec3;
}

/** The ray of a pixel: where it begins, and its unit direction. */
export interface Ray {
  readonly origin: Vec3;
  readonly direction: Vec3;
}

/** Sine of the angle below which a line is looked along, or a plane edge on: the pointer tells nothing then. */
const LEAST_SINE = 0.05;

const onRay = (start: Vec3, way: Vec3, share: number): Vec3 => [
  start[0] + share * way[0],
  start[1] + share * way[1],
  start[2] + share * way[2],
];

/**
 * The place of a line or plane that a ray leads to: of the line the one nearest to the ray, of the plane where the ray meets
 * it (closed forms). Null where it is looked at too flatly, or the plane lies behind.
 */
export function placeUnder({ kind, through, direction }: DragWay, ray: Ray): Vec3 | null {
  const slant = dot(direction, ray.direction);
  const between = subtract(through, ray.origin);
  if (kind === 'plane') {
    const share = dot(between, direction) / slant;
    return Math.abs(slant) < LEAST_SINE || share < 0 ? null : onRay(ray.origin, ray.direction, share);
  }
  const square = 1 - slant * slant;
  if (square < LEAST_SINE * LEAST_SINE) return null;
  const share = (slant * dot(between, ray.direction) - dot(between, direction)) / square;
  return onRay(through, direction, share);
}

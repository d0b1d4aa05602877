/**
 * How far a limb is twisted, ring by ring: the points between two places along it are parted into rings, and of each the turn about
 * the limb is told that brings its points at rest nearest to where they are in a pose (least squares in the plane across, the
 * two-dimensional case of Kabsch 1976).
 */
import { type Vec3, cross, dot, normalise, subtract } from './matrix';

/** The turn of one ring. */
export interface TwistRing {
  /** Where its points lie on the way, as a mean, 0 … 1. */
  readonly along: number;
  /** How far it is turned about the way, degrees, −180 … 180. */
  readonly turned: number;
}

/** A ring of fewer points tells nothing. */
const LEAST_POINTS = 4;

/**
 * The rings of a limb whose ends stay where they are. Rings of too few points are left out.
 * @param rest places at rest and in the pose, 3 per point, one space
 * @param isAsked 1 for points of the limb
 * @param from the way of the limb, which stays in the pose
 * @param count rings between its ends
 */
export function twistRings(
  rest: ArrayLike<number>,
  posed: ArrayLike<number>,
  isAsked: ArrayLike<number>,
  { from, to }: { readonly from: Vec3; readonly to: Vec3 },
  count = 12,
): TwistRing[] {
  const way = subtract(to, from);
  const length = dot(way, way);
  if (!(length > 0)) return [];
  const [ax, ay, az] = normalise(way);
  const aside: Vec3 = Math.abs(ax) < 0.7 ? [1, 0, 0] : [0, 1, 0];
  const u = normalise(cross([ax, ay, az], aside));
  const v = cross([ax, ay, az], u);
  const across = (points: ArrayLike<number>, at: number, axis: Vec3) =>
    (points[at] - from[0]) * axis[0] +
    (points[at + 1] - from[1]) * axis[1] +
    (points[at + 2] - from[2]) * axis[2];
  const rings = Array.from({ length: count }, () => ({ points: 0, along: 0, sine: 0, cosine: 0 }));
  for (let point = 0; point < isAsked.length; point++) {
    if (isAsked[point] !== 1) continue;
    const at = point * 3;
    const along = across(rest, at, way) / length;
    if (along < 0 || along > 1) continue;
    const ring = rings[Math.min(count - 1, Math.floor(along * count))];
    const [x, y] = [across(rest, at, u), across(rest, at, v)];
    const [px, py] = [across(posed, at, u), across(posed, at, v)];
    ring.points++;
    ring.along += along;
    ring.cosine += x * px + y * py;
    ring.sine += x * py - y * px;
  }
  return rings
    .filter(({ points }) => points >= LEAST_POINTS)
    .map(({ points, along, sine, cosine }) => ({
      along: along / points,
      turned: (Math.atan2(sine, cosine) * 180) / Math.PI,
    }));
}

/** Points that lie opposite each other in a plane. */
import { forClosePairs } from './weld';

/** A plane that mirrors: its unit normal, and how far along it the plane lies from the origin, metres. */
export interface MirrorPlane {
  readonly normal: readonly number[];
  readonly offset: number;
}

/**
 * For every point the nearest one to where a plane would show it, −1 where none lies within a distance; a point on the
 * plane is its own. Cost: that of finding close pairs.
 * @param positions Float32Array, 3 per point, metres
 * @param within metres
 */
export function mirrorTwins(positions: Float32Array, plane: MirrorPlane, within: number): Int32Array {
  const count = positions.length / 3;
  const [x, y, z] = plane.normal;
  const both = new Float32Array(count * 6);
  both.set(positions);
  for (let p = 0; p < count; p++) {
    const i = p * 3;
    const by = 2 * (x * positions[i] + y * positions[i + 1] + z * positions[i + 2] - plane.offset);
    both[(count + p) * 3] = positions[i] - by * x;
    both[(count + p) * 3 + 1] = positions[i + 1] - by * y;
    both[(count + p) * 3 + 2] = positions[i + 2] - by * z;
  }
  const twins = new Int32Array(count).fill(-1);
  const nearest = new Float32Array(count).fill(Infinity);
  forClosePairs(both, within, (a, b) => {
    const [real, shown] = a < b ? [a, b] : [b, a];
    if (real >= count || shown < count) return;
    const p = shown - count;
    const far = Math.hypot(
      both[real * 3] - both[shown * 3],
      both[real * 3 + 1] - both[shown * 3 + 1],
      both[real * 3 + 2] - both[shown * 3 + 2],
    );
    if (far >= nearest[p]) return;
    nearest[p] = far;
    twins[p] = real;
  });
  return twins;
}

/** Points that lie opposite each other in a plane. */
import { PointTree } from './point-tree';

/** A plane that mirrors: its unit normal, and how far along it the plane lies from the origin, metres. */
export interface MirrorPlane {
  readonly normal: readonly number[];
  readonly offset: number;
}

/**
 * For every point the nearest one to where a plane would show it, −1 where none lies within a distance; a point on the
 * plane is its own. Cost: a radius query a point.
 * @param positions Float32Array, 3 per point, metres
 * @param within metres
 */
export function mirrorTwins(positions: Float32Array, plane: MirrorPlane, within: number): Int32Array {
  const count = positions.length / 3;
  const [x, y, z] = plane.normal;
  const tree = new PointTree(positions);
  const twins = new Int32Array(count);
  for (let p = 0; p < count; p++) {
    const i = p * 3;
    const by = 2 * (x * positions[i] + y * positions[i + 1] + z * positions[i + 2] - plane.offset);
    twins[p] = tree.nearest(
      positions[i] - by * x,
      positions[i + 1] - by * y,
      positions[i + 2] - by * z,
      within,
    );
  }
  return twins;
}

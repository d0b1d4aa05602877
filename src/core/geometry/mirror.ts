/** Points that lie opposite each other in a plane. */
import { type Quat, type Vec3, dot } from './matrix';
import { PointTree } from './point-tree';

/** A plane that mirrors: its unit normal, and how far along it the plane lies from the origin, metres. */
export interface MirrorPlane {
  readonly normal: Vec3;
  readonly offset: number;
}

/** The place on the other side of a plane. */
export function mirroredPlace({ normal, offset }: MirrorPlane, place: Vec3): Vec3 {
  const off = 2 * (dot(normal, place) - offset);
  return [place[0] - off * normal[0], place[1] - off * normal[1], place[2] - off * normal[2]];
}

/**
 * For every point the nearest one to where a plane would show it, −1 where none lies within a distance; a point on the
 * plane is its own. Cost: a radius query a point.
 * @param positions Float32Array, 3 per point, metres
 * @param within metres
 */
export function mirrorTwins(positions: Float32Array, plane: MirrorPlane, within: number): Int32Array {
  const count = positions.length / 3;
  const tree = new PointTree(positions);
  const twins = new Int32Array(count);
  for (let p = 0; p < count; p++) {
    const i = p * 3;
    const [x, y, z] = mirroredPlace(plane, [positions[i], positions[i + 1], positions[i + 2]]);
    twins[p] = tree.nearest(x, y, z, within);
  }
  return twins;
}

/** The mirror image of a turn in the world: with the reflection M, one about w becomes one about −M w. */
export function mirroredWorldTurn({ normal }: MirrorPlane, [x, y, z, w]: Quat): Quat {
  const twice = 2 * dot(normal, [x, y, z]);
  return [twice * normal[0] - x, twice * normal[1] - y, twice * normal[2] - z, w];
}

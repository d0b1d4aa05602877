/** Points that lie opposite each other in a plane. */
import { type Quat, type Vec3, dot } from './matrix';
import { PointGrid } from './point-grid';

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
 * For every point the nearest one to where a plane would show it, the lowest of those that are equally near, −1 where none lies
 * within a distance; a point on the plane is its own. Cost: a look into a grid of cells a point.
 * @param positions Float32Array, 3 per point, metres
 * @param within metres; none has a twin where it is not above 0
 */
export function mirrorTwins(positions: Float32Array, plane: MirrorPlane, within: number): Int32Array {
  const twins = new Int32Array(positions.length / 3).fill(-1);
  if (twins.length === 0 || !(within > 0)) return twins;
  const grid = new PointGrid(positions, within);
  let nearest = -1;
  let least = Infinity;
  const keep = (point: number, squared: number) => {
    if (squared > least || (squared === least && point > nearest)) return;
    nearest = point;
    least = squared;
  };
  const { normal, offset } = plane;
  const [nx, ny, nz] = normal;
  // Cell by cell, so that those of the images are at hand already.
  for (const point of grid.order) {
    const x = positions[point * 3];
    const y = positions[point * 3 + 1];
    const z = positions[point * 3 + 2];
    const off = 2 * (nx * x + ny * y + nz * z - offset);
    nearest = -1;
    least = Infinity;
    grid.near(x - off * nx, y - off * ny, z - off * nz, keep);
    twins[point] = nearest;
  }
  return twins;
}

/** The mirror image of a turn in the world: with the reflection M, one about w becomes one about −M w. */
export function mirroredWorldTurn({ normal }: MirrorPlane, [x, y, z, w]: Quat): Quat {
  const twice = 2 * dot(normal, [x, y, z]);
  return [twice * normal[0] - x, twice * normal[1] - y, twice * normal[2] - z, w];
}

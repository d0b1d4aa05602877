/**
 * How far it is along a surface: fast marching over triangles (Kimmel & Sethian 1998, *Computing Geodesic Paths on Manifolds*), in
 * n·log n. Quads are marched over along both diagonals, so that how they would be cut makes no difference. At obtuse corners the
 * way along edges counts, so that no answer is longer than that way.
 */
import FlatQueue from 'flatqueue';
import { polygonsOfPoints } from './half-edges';
import type { WeldedPolygons } from './soundness';

/**
 * The distance of every point from the nearest of some, along the surface.
 * @param positions Float32Array or alike, 3 per point
 * @param seeds points, at distance 0
 * @param within as far as is asked; what is farther is Infinity, and costs nothing
 * @returns 1 per point, in the unit of the positions; Infinity where no way leads there
 */
export function surfaceDistances(
  { offsets, corners, pointOfVertex, pointCount }: WeldedPolygons,
  positions: ArrayLike<number>,
  seeds: Iterable<number>,
  within = Infinity,
): Float64Array {
  const around = polygonsOfPoints(offsets, corners, pointOfVertex, pointCount);
  const distance = new Float64Array(pointCount).fill(Infinity);
  const isDone = new Uint8Array(pointCount);
  const queue = new FlatQueue<number>();
  for (const seed of seeds) {
    distance[seed] = 0;
    queue.push(seed, 0);
  }
  const offer = (point: number, far: number) => {
    if (far >= distance[point] || far > within) return;
    distance[point] = far;
    queue.push(point, far);
  };
  /** Two points of a triangle are known, or one: what they say of the third. */
  const reach = (known: number, other: number, wanted: number) => {
    if (isDone[wanted] || known === wanted) return;
    offer(wanted, distance[known] + apart(positions, known, wanted));
    if (isDone[other] && other !== wanted)
      offer(wanted, acrossTriangle(positions, distance, known, other, wanted));
  };
  for (let point = queue.pop(); point !== undefined; point = queue.pop()) {
    if (isDone[point]) continue;
    isDone[point] = 1;
    for (let i = around.offsets[point]; i < around.offsets[point + 1]; i++)
      forTriangles(offsets, corners, around.polygons[i], (one, second, third) => {
        const ring = [pointOfVertex[one], pointOfVertex[second], pointOfVertex[third]];
        const at = ring.indexOf(point);
        if (at < 0) return;
        const [left, right] = [ring[(at + 1) % 3], ring[(at + 2) % 3]];
        reach(point, right, left);
        reach(point, left, right);
      });
  }
  return distance;
}

/** The triangles of a polygon: of a quad those of both diagonals. */
function forTriangles(
  offsets: Uint32Array,
  corners: Uint32Array,
  polygon: number,
  tell: (one: number, second: number, third: number) => void,
): void {
  const [from, to] = [offsets[polygon], offsets[polygon + 1]];
  for (let k = from + 1; k + 1 < to; k++) tell(corners[from], corners[k], corners[k + 1]);
  if (to - from !== 4) return;
  tell(corners[from + 1], corners[from + 2], corners[from + 3]);
  tell(corners[from + 1], corners[from + 3], corners[from]);
}

const apart = (positions: ArrayLike<number>, one: number, other: number): number =>
  Math.hypot(
    positions[one * 3] - positions[other * 3],
    positions[one * 3 + 1] - positions[other * 3 + 1],
    positions[one * 3 + 2] - positions[other * 3 + 2],
  );

/** What a front that is flat over a triangle says of its third point; Infinity where it does not come in through the triangle. */
function acrossTriangle(
  positions: ArrayLike<number>,
  distance: Float64Array,
  one: number,
  other: number,
  wanted: number,
): number {
  const [near, far] = distance[one] <= distance[other] ? [one, other] : [other, one];
  const toFar = apart(positions, far, wanted);
  const toNear = apart(positions, near, wanted);
  const between = apart(positions, near, far);
  if (toFar === 0 || toNear === 0) return Infinity;
  const cosine = (toFar * toFar + toNear * toNear - between * between) / (2 * toFar * toNear);
  if (cosine <= 0) return Infinity;
  const step = distance[far] - distance[near];
  const squared = between * between;
  const half = toNear * step * (toFar * cosine - toNear);
  const rest = toNear * toNear * (step * step - toFar * toFar * (1 - cosine * cosine));
  const inside = half * half - squared * rest;
  if (!(inside >= 0) || squared === 0) return Infinity;
  const time = (-half + Math.sqrt(inside)) / squared;
  const share = (toNear * (time - step)) / time;
  return step < time && toFar * cosine < share && share < toFar / cosine ? distance[near] + time : Infinity;
}

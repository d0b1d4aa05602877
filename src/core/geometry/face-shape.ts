/** Faces whose shape is bad: thin ones, and those whose outline crosses itself. */
import { putAreaNormal } from './normals';
import type { WeldedPolygons } from './soundness';

/**
 * How wide a face is for its length: its least width between an edge and the corner farthest from it, as a share of the longest
 * way between two corners; √3/2 for an even triangle, 1/√2 for a square, 0 for one without area.
 * @param positions 3 per vertex
 */
export function widthOfFace(
  { offsets, corners }: Pick<WeldedPolygons, 'offsets' | 'corners'>,
  positions: ArrayLike<number>,
  face: number,
): number {
  const [from, to] = [offsets[face], offsets[face + 1]];
  let longest = 0;
  let width = Infinity;
  for (let k = from; k < to; k++) {
    const a = corners[k] * 3;
    const b = corners[k + 1 === to ? from : k + 1] * 3;
    const [x, y, z] = [positions[a], positions[a + 1], positions[a + 2]];
    const [ex, ey, ez] = [positions[b] - x, positions[b + 1] - y, positions[b + 2] - z];
    const edge = ex * ex + ey * ey + ez * ez;
    let far = 0;
    for (let other = from; other < to; other++) {
      const at = corners[other] * 3;
      const [px, py, pz] = [positions[at] - x, positions[at + 1] - y, positions[at + 2] - z];
      longest = Math.max(longest, px * px + py * py + pz * pz);
      const [cx, cy, cz] = [py * ez - pz * ey, pz * ex - px * ez, px * ey - py * ex];
      far = Math.max(far, cx * cx + cy * cy + cz * cz);
    }
    // An edge of no length has no side to be away from: the others tell.
    if (edge > 0) width = Math.min(width, far / edge);
  }
  return longest > 0 && width < Infinity ? Math.sqrt(width / longest) : 0;
}

/**
 * Visits the faces that are less wide for their length than a share, which what is told may lower. A face is no thinner than its
 * area by the square of half its outline, so that few are measured.
 * @param positions 3 per vertex
 * @param tell the face and its width; gives the share from then on
 */
export function forThinFaces(
  polygons: Pick<WeldedPolygons, 'offsets' | 'corners'>,
  positions: ArrayLike<number>,
  share: number,
  tell: (face: number, width: number) => number,
): void {
  const { offsets, corners } = polygons;
  const normal = new Float64Array(3);
  let least = share;
  for (let face = 0; face + 1 < offsets.length; face++) {
    const [from, to] = [offsets[face], offsets[face + 1]];
    if (to === from) continue;
    let around = 0;
    let a = corners[to - 1] * 3;
    for (let k = from; k < to; k++) {
      const b = corners[k] * 3;
      const x = positions[a] - positions[b];
      const y = positions[a + 1] - positions[b + 1];
      const z = positions[a + 2] - positions[b + 2];
      around += Math.sqrt(x * x + y * y + z * z);
      a = b;
    }
    putAreaNormal(positions, corners, from, to, normal);
    const twice = Math.sqrt(normal[0] * normal[0] + normal[1] * normal[1] + normal[2] * normal[2]);
    // Rounding far from the origin is left some room.
    if (twice > 2.02 * least * (around / 2) ** 2) continue;
    const width = widthOfFace(polygons, positions, face);
    if (width < least) least = tell(face, width);
  }
}

/** Two edges cross where they come so near to each other, as a share of how far their ends are from the other one. */
const MEET = 0.25;

/**
 * Faces whose outline crosses itself, as that of a quad whose corners are in the wrong order: two edges without a corner in common
 * that meet between their ends, or nearly, as faces are hardly ever flat. Ascending.
 * @param positions 3 per vertex
 */
export function crossedFaces(
  { offsets, corners }: Pick<WeldedPolygons, 'offsets' | 'corners'>,
  positions: ArrayLike<number>,
): Uint32Array {
  const out: number[] = [];
  for (let face = 0; face + 1 < offsets.length; face++)
    if (
      offsets[face + 1] - offsets[face] > 3 &&
      crossesItself(corners, offsets[face], offsets[face + 1], positions)
    )
      out.push(face);
  return Uint32Array.from(out);
}

function crossesItself(
  corners: Uint32Array,
  from: number,
  to: number,
  positions: ArrayLike<number>,
): boolean {
  for (let i = from; i + 2 < to; i++)
    for (let j = i + 2; j < to; j++) {
      const after = j + 1 === to ? from : j + 1;
      if (after !== i && doCross(positions, corners[i], corners[i + 1], corners[j], corners[after]))
        return true;
    }
  return false;
}

/** Whether an edge a–b meets one c–d between the ends of both. */
function doCross(positions: ArrayLike<number>, a: number, b: number, c: number, d: number): boolean {
  const ax = positions[a * 3];
  const ay = positions[a * 3 + 1];
  const az = positions[a * 3 + 2];
  const cx = positions[c * 3];
  const cy = positions[c * 3 + 1];
  const cz = positions[c * 3 + 2];
  const ux = positions[b * 3] - ax;
  const uy = positions[b * 3 + 1] - ay;
  const uz = positions[b * 3 + 2] - az;
  const vx = positions[d * 3] - cx;
  const vy = positions[d * 3 + 1] - cy;
  const vz = positions[d * 3 + 2] - cz;
  const wx = ax - cx;
  const wy = ay - cy;
  const wz = az - cz;
  const uu = ux * ux + uy * uy + uz * uz;
  const vv = vx * vx + vy * vy + vz * vz;
  const uv = ux * vx + uy * vy + uz * vz;
  const [uw, vw] = [ux * wx + uy * wy + uz * wz, vx * wx + vy * wy + vz * wz];
  // Where the two lines come nearest to each other (Ericson 2005, Real-Time Collision Detection, 5.1.9).
  const apart = uu * vv - uv * uv;
  if (!(apart > 1e-12 * uu * vv)) return false;
  const share = (uv * vw - vv * uw) / apart;
  const other = (uu * vw - uv * uw) / apart;
  if (share <= 0 || share >= 1 || other <= 0 || other >= 1) return false;
  const gap = Math.hypot(
    wx + share * ux - other * vx,
    wy + share * uy - other * vy,
    wz + share * uz - other * vz,
  );
  const sine = Math.sqrt(apart / (uu * vv));
  // How far the ends of each are from the other line, along it.
  const ends = Math.min(
    Math.min(share, 1 - share) * Math.sqrt(uu),
    Math.min(other, 1 - other) * Math.sqrt(vv),
  );
  return gap < MEET * sine * ends;
}

/**
 * An outline without the axis that its corners face most: 2 numbers a corner. By the sum over its corners, each whichever way it
 * faces: the normals of the two halves of a crossed quad cancel.
 * @param positions 3 per vertex
 */
export function flatOutline(positions: ArrayLike<number>, outline: ArrayLike<number>): Float64Array {
  const count = outline.length;
  const facing = [0, 0, 0];
  const corner = new Float64Array(3);
  const three = [0, 0, 0];
  for (let i = 0; i < count; i++) {
    for (let k = 0; k < 3; k++) three[k] = outline[(i + k) % count];
    putAreaNormal(positions, three, 0, 3, corner);
    for (let k = 0; k < 3; k++) facing[k] += Math.abs(corner[k]);
  }
  const left = facing.indexOf(Math.max(...facing));
  const [first, second] = [left === 0 ? 1 : 0, left === 2 ? 1 : 2];
  const out = new Float64Array(count * 2);
  for (let i = 0; i < count; i++) {
    out[i * 2] = positions[outline[i] * 3 + first];
    out[i * 2 + 1] = positions[outline[i] * 3 + second];
  }
  return out;
}

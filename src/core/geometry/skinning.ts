import { multiply } from './matrix';
import type { Influences } from './influences';
import { ResidentSkin } from './wasm';

/** The ways in which engines let joints carry a point that hangs on several of them. */
export type SkinningMethod = 'linear' | 'dual-quaternion';

/** What binds a mesh: the node of every joint and its inverse bind, 16 per joint, column-major. */
export interface Binds {
  readonly joints: readonly number[];
  readonly inverseBinds: Float32Array | Float64Array;
}

/**
 * Skin matrices: global joint × inverse bind (glTF 2.0, section 3.7.3.3), packed as three rows of four, 12
 * per joint, which is what {@link skinPoints} reads.
 * @param world 16 per node, column-major, world space
 */
export function skinMatrices(skin: Binds, world: Float64Array): Float32Array {
  const out = new Float32Array(skin.joints.length * 12);
  const m = new Float64Array(16);
  for (let j = 0; j < skin.joints.length; j++) {
    multiply(m, 0, world, skin.joints[j] * 16, skin.inverseBinds, j * 16);
    for (let r = 0; r < 3; r++) {
      for (let c = 0; c < 4; c++) out[j * 12 + r * 4 + c] = m[c * 4 + r];
    }
  }
  return out;
}

/**
 * Linear blend skinning: every point is the weighted mean of itself carried by each of its joints. Any number
 * of influences a vertex. A vertex without influences stays where it is.
 * @param points Float32Array, 3 per vertex, bind space
 * @param matrices 12 per joint, from {@link skinMatrices}
 * @param out Float32Array, 3 per vertex, world space; may be `points` itself
 */
export function skinPoints(
  points: Float32Array,
  influences: Influences,
  matrices: Float32Array,
  out: Float32Array,
): void {
  const { offsets, joint, weight } = influences;
  const vertexCount = offsets.length - 1;
  let k = 0;
  for (let v = 0; v < vertexCount; v++) {
    const end = offsets[v + 1];
    const i = v * 3;
    const x = points[i];
    const y = points[i + 1];
    const z = points[i + 2];
    if (k === end) {
      out[i] = x;
      out[i + 1] = y;
      out[i + 2] = z;
      continue;
    }
    let ox = 0;
    let oy = 0;
    let oz = 0;
    for (; k < end; k++) {
      const w = weight[k];
      const m = joint[k] * 12;
      ox += w * (matrices[m] * x + matrices[m + 1] * y + matrices[m + 2] * z + matrices[m + 3]);
      oy += w * (matrices[m + 4] * x + matrices[m + 5] * y + matrices[m + 6] * z + matrices[m + 7]);
      oz += w * (matrices[m + 8] * x + matrices[m + 9] * y + matrices[m + 10] * z + matrices[m + 11]);
    }
    out[i] = ox;
    out[i + 1] = oy;
    out[i + 2] = oz;
  }
}

/** Points of a mesh carried by one node's world matrix. */
export function movePoints(points: Float32Array, world: Float64Array, o: number, out: Float32Array): void {
  const [a, b, c, d, e, f, g, h, i, x0, y0, z0] = [
    world[o],
    world[o + 4],
    world[o + 8],
    world[o + 1],
    world[o + 5],
    world[o + 9],
    world[o + 2],
    world[o + 6],
    world[o + 10],
    world[o + 12],
    world[o + 13],
    world[o + 14],
  ];
  for (let k = 0; k < points.length; k += 3) {
    const x = points[k];
    const y = points[k + 1];
    const z = points[k + 2];
    out[k] = a * x + b * y + c * z + x0;
    out[k + 1] = d * x + e * y + f * z + y0;
    out[k + 2] = g * x + h * y + i * z + z0;
  }
}

const residents = new WeakMap<Influences, { points: Float32Array; joints: number; skin: ResidentSkin }>();

/**
 * The mesh in a kernel's memory, kept as long as its influences; null for small meshes, where copying costs
 * more than it saves.
 */
export function residentSkin(points: Float32Array, f: Influences, joints: number): ResidentSkin | null {
  if (points.length < 6000) return null;
  const known = residents.get(f);
  if (known && known.points === points && known.joints === joints) return known.skin;
  const skin = ResidentSkin.of(points, f, joints);
  if (skin) residents.set(f, { points, joints, skin });
  return skin;
}

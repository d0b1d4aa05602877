import { determinant3, inverseOr, multiply } from './matrix';
import type { Attribute, Influences, Mesh, Skin } from '../character/model';
import { positionsOf } from '../character/model';
import { ResidentSkin } from './wasm';

/**
 * Skin matrices: global joint × inverse bind (glTF 2.0, section 3.7.3.3), packed as three rows of four, 12 per joint,
 * which is what {@link skinPoints} reads.
 * @param world 16 per node, column-major, world space
 */
export function skinMatrices(skin: Skin, world: Float64Array): Float32Array {
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
 * Linear blend skinning: every point is the weighted mean of itself carried by each of its joints. Any number of
 * influences a vertex. A vertex without influences stays where it is.
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

/** The mesh in a kernel's memory, kept as long as its influences; null for small meshes, where copying costs more than it saves. */
export function residentSkin(points: Float32Array, f: Influences, joints: number): ResidentSkin | null {
  if (points.length < 6000) return null;
  const known = residents.get(f);
  if (known && known.points === points && known.joints === joints) return known.skin;
  const skin = ResidentSkin.of(points, f, joints);
  if (skin) residents.set(f, { points, joints, skin });
  return skin;
}

/**
 * World places of a mesh's vertices under given node worlds: skinned where the node has a skin (the node's own transform
 * is then ignored, as glTF 2.0 says), carried by the node otherwise. Float32Array, 3 per vertex.
 */
export function placedPoints(
  mesh: Mesh,
  skin: Skin | null,
  nodeIndex: number,
  world: Float64Array,
): Float32Array {
  const points = positionsOf(mesh);
  const out = new Float32Array(points.length);
  if (skin && mesh.influences) {
    const resident = residentSkin(points, mesh.influences, skin.joints.length);
    if (resident) resident.pose(skinMatrices(skin, world), out);
    else skinPoints(points, mesh.influences, skinMatrices(skin, world), out);
  } else {
    movePoints(points, world, nodeIndex * 16, out);
  }
  return out;
}

/** Normals under node worlds, unit length: by the inverse transpose of what carries each vertex. Float32Array, 3 per vertex; null where the mesh has none in floats. */
export function placedNormals(
  mesh: Mesh,
  skin: Skin | null,
  nodeIndex: number,
  world: Float64Array,
): Float32Array | null {
  const normals = mesh.attributes.NORMAL;
  if (!(normals?.data instanceof Float32Array)) return null;
  const out = new Float32Array(normals.data.length);
  overVertices(mesh, skin, nodeIndex, world, (v, m) => {
    const i = inverseOr(m);
    direction(out, v, normals.data as Float32Array, 3, i, true);
  });
  return out;
}

/**
 * The mesh with its shape as it stands under node worlds made its own: points, normals, tangents and morph targets go through
 * what carries each vertex. Polygons and weights stay.
 */
export function deformedMesh(mesh: Mesh, skin: Skin | null, nodeIndex: number, world: Float64Array): Mesh {
  const shapes = [mesh.attributes, ...mesh.morphs.map((m) => m.attributes)];
  const fresh = shapes.map((attributes, k) =>
    Object.fromEntries(
      Object.entries(attributes).map(([name, a]): [string, Attribute] => {
        if (name === 'POSITION' && k === 0)
          return [name, { ...a, data: placedPoints(mesh, skin, nodeIndex, world) }];
        return ['POSITION', 'NORMAL', 'TANGENT'].includes(name)
          ? [name, { ...a, data: asFloats(a), normalized: false }]
          : [name, a];
      }),
    ),
  );
  overVertices(mesh, skin, nodeIndex, world, (v, m) => {
    const i = inverseOr(m);
    shapes.forEach((attributes, k) => {
      for (const [name, a] of Object.entries(attributes)) {
        if ((name === 'POSITION' && k === 0) || !['POSITION', 'NORMAL', 'TANGENT'].includes(name)) continue;
        const out = fresh[k][name].data as Float32Array;
        direction(
          out,
          v,
          out,
          a.size,
          name === 'NORMAL' && k === 0 ? i : m,
          name === 'NORMAL' && k === 0,
          k === 0,
        );
      }
    });
  });
  const mirrored = !skin && determinant3(world, nodeIndex * 16) < 0;
  return {
    ...mesh,
    attributes: fresh[0],
    morphs: mesh.morphs.map((m, k) => ({ ...m, attributes: fresh[k + 1] })),
    ...(mirrored ? { corners: turnedCorners(mesh) } : {}),
  };
}

/** Corners with every polygon running the other way round, its first corner kept. */
export function turnedCorners(mesh: Mesh): Uint32Array {
  const corners = mesh.corners.slice();
  for (let p = 0; p + 1 < mesh.polygonOffsets.length; p++)
    corners.subarray(mesh.polygonOffsets[p] + 1, mesh.polygonOffsets[p + 1]).reverse();
  return corners;
}

/** Calls back with the matrix (16, column-major) that carries each vertex: the blend of its joints', or the node's own. The matrix is reused. */
function overVertices(
  mesh: Mesh,
  skin: Skin | null,
  nodeIndex: number,
  world: Float64Array,
  visit: (v: number, m: Float64Array) => void,
): void {
  const m = new Float64Array(16);
  const f = skin ? mesh.influences : null;
  const matrices = skin ? skinMatrices(skin, world) : null;
  if (!f || !matrices) {
    m.set(world.subarray(nodeIndex * 16, nodeIndex * 16 + 16));
    for (let v = 0; v < mesh.vertexCount; v++) visit(v, m);
    return;
  }
  for (let v = 0; v < mesh.vertexCount; v++) {
    m.fill(0);
    m[15] = 1;
    for (let k = f.offsets[v]; k < f.offsets[v + 1]; k++)
      for (let r = 0; r < 3; r++)
        for (let c = 0; c < 4; c++) m[c * 4 + r] += matrices[f.joint[k] * 12 + r * 4 + c] * f.weight[k];
    if (f.offsets[v] === f.offsets[v + 1]) {
      m[0] = 1;
      m[5] = 1;
      m[10] = 1;
    }
    visit(v, m);
  }
}

/** out[v] = linear part of m (or its transpose) · from[v], made a unit where asked; further numbers of the element stay. */
function direction(
  out: Float32Array,
  v: number,
  from: Float32Array,
  size: number,
  m: Float64Array,
  transposed: boolean,
  unit = true,
): void {
  const i = v * size;
  const x = from[i];
  const y = from[i + 1];
  const z = from[i + 2];
  const a = transposed ? m[0] * x + m[1] * y + m[2] * z : m[0] * x + m[4] * y + m[8] * z;
  const b = transposed ? m[4] * x + m[5] * y + m[6] * z : m[1] * x + m[5] * y + m[9] * z;
  const c = transposed ? m[8] * x + m[9] * y + m[10] * z : m[2] * x + m[6] * y + m[10] * z;
  const l = unit ? Math.hypot(a, b, c) || 1 : 1;
  out[i] = a / l;
  out[i + 1] = b / l;
  out[i + 2] = c / l;
  for (let k = 3; k < size; k++) out[i + k] = from[i + k];
}

/** An attribute's numbers as floats, an array of its own. */
function asFloats(a: Attribute): Float32Array {
  const most =
    a.normalized && !(a.data instanceof Float32Array)
      ? 2 **
          (8 * a.data.BYTES_PER_ELEMENT -
            (a.data instanceof Int8Array || a.data instanceof Int16Array ? 1 : 0)) -
        1
      : 1;
  return Float32Array.from(a.data as ArrayLike<number>, (x) => x / most);
}

/** Meshes of a character under node worlds: carried by their node, or by the blend of their joints. */
import { determinant3, inverseOr } from '../geometry/matrix';
import { movePoints, residentSkin, skinMatrices, skinPoints } from '../geometry/skinning';
import { type Attribute, type Influences, type Mesh, type Skin, positionsOf } from './model';

/**
 * World places of a mesh's vertices under given node worlds: skinned where the node has a skin (the node's
 * own transform is then ignored, as glTF 2.0 says), carried by the node otherwise. Float32Array, 3 per
 * vertex.
 */
export function placedPoints(
  mesh: Mesh,
  skin: Skin | null,
  nodeIndex: number,
  world: Float64Array,
): Float32Array {
  return placePositions(positionsOf(mesh), mesh.influences, skin, nodeIndex, world);
}

/** The same for positions (3 per vertex) that stand in for the mesh's own, as morph targets make them. */
export function placePositions(
  positions: Float32Array,
  influences: Influences | null,
  skin: Skin | null,
  nodeIndex: number,
  world: Float64Array,
): Float32Array {
  const out = new Float32Array(positions.length);
  if (skin && influences) {
    const resident = residentSkin(positions, influences, skin.joints.length);
    if (resident) resident.pose(skinMatrices(skin, world), out);
    else skinPoints(positions, influences, skinMatrices(skin, world), out);
  } else {
    movePoints(positions, world, nodeIndex * 16, out);
  }
  return out;
}

/**
 * Normals under node worlds, unit length: by the inverse transpose of what carries each vertex. Float32Array,
 * 3 per vertex; null where the mesh has none in floats.
 */
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
 * The mesh with its shape as it stands under node worlds made its own: points, normals, tangents and morph
 * targets go through what carries each vertex. Polygons and weights stay.
 */
export function deformedMesh(mesh: Mesh, skin: Skin | null, nodeIndex: number, world: Float64Array): Mesh {
  const mirrored = !skin && determinant3(world, nodeIndex * 16) < 0;
  const places = placedPoints(mesh, skin, nodeIndex, world);
  const reshaped = reshapedMesh(mesh, places, (visit) => overVertices(mesh, skin, nodeIndex, world, visit));
  return { ...reshaped, ...(mirrored ? { corners: turnedCorners(mesh) } : {}) };
}

/**
 * The mesh with its points at the given places (3 per vertex), its normals, tangents and morph targets taken through
 * the matrix of each vertex that `over` calls back with (16, column-major).
 */
export function reshapedMesh(
  mesh: Mesh,
  places: Float32Array,
  over: (visit: (v: number, m: Float64Array) => void) => void,
): Mesh {
  const shapes = [mesh.attributes, ...mesh.morphs.map((m) => m.attributes)];
  const fresh = shapes.map((attributes, k) =>
    Object.fromEntries(
      Object.entries(attributes).map(([name, a]): [string, Attribute] => {
        if (name === 'POSITION' && k === 0) return [name, { ...a, data: places }];
        return ['POSITION', 'NORMAL', 'TANGENT'].includes(name)
          ? [name, { ...a, data: asFloats(a), normalized: false }]
          : [name, a];
      }),
    ),
  );
  over((v, m) => {
    const i = inverseOr(m);
    shapes.forEach((attributes, k) => {
      for (const [name, a] of Object.entries(attributes)) {
        if ((name === 'POSITION' && k === 0) || !['POSITION', 'NORMAL', 'TANGENT'].includes(name)) continue;
        const out = fresh[k][name].data as Float32Array;
        const isNormal = name === 'NORMAL' && k === 0;
        direction(out, v, out, a.size, isNormal ? i : m, isNormal, k === 0);
      }
    });
  });
  return {
    ...mesh,
    attributes: fresh[0],
    morphs: mesh.morphs.map((m, k) => ({ ...m, attributes: fresh[k + 1] })),
  };
}

/** Corners with every polygon running the other way round, its first corner kept. */
export function turnedCorners(mesh: Mesh): Uint32Array {
  const corners = mesh.corners.slice();
  for (let p = 0; p + 1 < mesh.polygonOffsets.length; p++)
    corners.subarray(mesh.polygonOffsets[p] + 1, mesh.polygonOffsets[p + 1]).reverse();
  return corners;
}

/**
 * Calls back with the matrix (16, column-major) that carries each vertex: the blend of its joints', or the
 * node's own. The matrix is reused.
 */
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

/**
 * out[v] = linear part of m (or its transpose) · from[v], made a unit where asked; further numbers of the
 * element stay.
 */
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

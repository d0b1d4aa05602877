/** Meshes of a character under node worlds: carried by their node, or by the blend of their joints. */
import { determinant3, inverseOr } from '../geometry/matrix';
import { dualQuaternionsOf, skinByDualQuaternions } from '../geometry/dual-quaternions';
import {
  type SkinningMethod,
  movePoints,
  residentSkin,
  skinMatrices,
  skinPoints,
} from '../geometry/skinning';
import { asFloats } from './attributes';
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
  method: SkinningMethod = 'linear',
): Float32Array {
  const out = new Float32Array(positions.length);
  if (skin && influences && method === 'dual-quaternion') {
    skinByDualQuaternions(positions, influences, dualQuaternionsOf(skinMatrices(skin, world)), out);
  } else if (skin && influences) {
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
  overVertices(mesh, skin, nodeIndex, world, (value, matrix) => {
    const i = inverseOr(matrix);
    direction(out, value, normals.data as Float32Array, 3, i, true);
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
  over: (visit: (value: number, matrix: Float64Array) => void) => void,
): Mesh {
  const shapes = [mesh.attributes, ...mesh.morphs.map((morph) => morph.attributes)];
  const fresh = shapes.map((attributes, k) =>
    Object.fromEntries(
      Object.entries(attributes).map(([name, attribute]): [string, Attribute] => {
        if (name === 'POSITION' && k === 0) return [name, { ...attribute, data: places }];
        return ['POSITION', 'NORMAL', 'TANGENT'].includes(name)
          ? [name, { ...attribute, data: asFloats(attribute).slice(), normalized: false }]
          : [name, attribute];
      }),
    ),
  );
  over((vertex, matrix) => {
    const i = inverseOr(matrix);
    shapes.forEach((attributes, k) => {
      for (const [name, attribute] of Object.entries(attributes)) {
        if ((name === 'POSITION' && k === 0) || !['POSITION', 'NORMAL', 'TANGENT'].includes(name)) continue;
        const out = fresh[k][name].data as Float32Array;
        const isNormal = name === 'NORMAL' && k === 0;
        direction(out, vertex, out, attribute.size, isNormal ? i : matrix, isNormal, k === 0);
      }
    });
  });
  return {
    ...mesh,
    attributes: fresh[0],
    morphs: mesh.morphs.map((morph, k) => ({ ...morph, attributes: fresh[k + 1] })),
  };
}

/** Corners with every polygon running the other way round, its first corner kept. */
export function turnedCorners(mesh: Mesh): Uint32Array {
  const corners = mesh.corners.slice();
  for (let polygon = 0; polygon + 1 < mesh.polygonOffsets.length; polygon++)
    corners.subarray(mesh.polygonOffsets[polygon] + 1, mesh.polygonOffsets[polygon + 1]).reverse();
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
  visit: (value: number, matrix: Float64Array) => void,
): void {
  const otherMatrix = new Float64Array(16);
  const influences = skin ? mesh.influences : null;
  const matrices = skin ? skinMatrices(skin, world) : null;
  if (!influences || !matrices) {
    otherMatrix.set(world.subarray(nodeIndex * 16, nodeIndex * 16 + 16));
    for (let vertex = 0; vertex < mesh.vertexCount; vertex++) visit(vertex, otherMatrix);
    return;
  }
  for (let vertex = 0; vertex < mesh.vertexCount; vertex++) {
    otherMatrix.fill(0);
    otherMatrix[15] = 1;
    for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++)
      for (let row = 0; row < 3; row++)
        for (let corner = 0; corner < 4; corner++)
          otherMatrix[corner * 4 + row] +=
            matrices[influences.joint[k] * 12 + row * 4 + corner] * influences.weight[k];
    if (influences.offsets[vertex] === influences.offsets[vertex + 1]) {
      otherMatrix[0] = 1;
      otherMatrix[5] = 1;
      otherMatrix[10] = 1;
    }
    visit(vertex, otherMatrix);
  }
}

/**
 * out[v] = linear part of m (or its transpose) · from[v], made a unit where asked; further numbers of the
 * element stay.
 */
function direction(
  out: Float32Array,
  value: number,
  from: Float32Array,
  size: number,
  matrix: Float64Array,
  transposed: boolean,
  unit = true,
): void {
  const i = value * size;
  const x = from[i];
  const y = from[i + 1];
  const z = from[i + 2];
  const a = transposed
    ? matrix[0] * x + matrix[1] * y + matrix[2] * z
    : matrix[0] * x + matrix[4] * y + matrix[8] * z;
  const b = transposed
    ? matrix[4] * x + matrix[5] * y + matrix[6] * z
    : matrix[1] * x + matrix[5] * y + matrix[9] * z;
  const c = transposed
    ? matrix[8] * x + matrix[9] * y + matrix[10] * z
    : matrix[2] * x + matrix[6] * y + matrix[10] * z;
  const l = unit ? Math.hypot(a, b, c) || 1 : 1;
  out[i] = a / l;
  out[i + 1] = b / l;
  out[i + 2] = c / l;
  for (let k = 3; k < size; k++) out[i + k] = from[i + k];
}

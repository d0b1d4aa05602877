import type { Attribute, Mesh } from './model';
import { determinant3, invertAffine } from '../geometry/matrix';
import { turnedCorners } from './deform';

/** True of a matrix (16 numbers) within a distance of the identity, number by number. */
export const isIdentity = (m: ArrayLike<number>, within = 1e-9): boolean => {
  for (let i = 0; i < 16; i++) if (Math.abs(m[i] - (i % 5 === 0 ? 1 : 0)) >= within) return false;
  return true;
};

/**
 * Points by the matrix, normals by its inverse transpose, tangents by its linear part; a mirror reverses
 * every polygon.
 */
export function bakedMesh(mesh: Mesh, matrix: Float64Array): Mesh {
  const inverse = invertAffine(matrix) ?? matrix;
  const mirror = determinant3(matrix) < 0;
  const point = (attribute: Attribute, weight: number): Attribute =>
    mapPoints(attribute, (x, y, z) => [
      matrix[0] * x + matrix[4] * y + matrix[8] * z + weight * matrix[12],
      matrix[1] * x + matrix[5] * y + matrix[9] * z + weight * matrix[13],
      matrix[2] * x + matrix[6] * y + matrix[10] * z + weight * matrix[14],
    ]);
  const normal = (attribute: Attribute): Attribute =>
    mapPoints(attribute, (x, y, z) =>
      unit(
        inverse[0] * x + inverse[1] * y + inverse[2] * z,
        inverse[4] * x + inverse[5] * y + inverse[6] * z,
        inverse[8] * x + inverse[9] * y + inverse[10] * z,
      ),
    );
  const tangent = (attribute: Attribute): Attribute =>
    mapPoints(
      attribute,
      (x, y, z) =>
        unit(
          matrix[0] * x + matrix[4] * y + matrix[8] * z,
          matrix[1] * x + matrix[5] * y + matrix[9] * z,
          matrix[2] * x + matrix[6] * y + matrix[10] * z,
        ),
      mirror,
    );
  const by = (name: string, attribute: Attribute, weight: number) => {
    if (name === 'POSITION') return point(attribute, weight);
    if (name === 'NORMAL' && weight === 1) return normal(attribute);
    if (name === 'NORMAL') return point(attribute, 0);
    if (name === 'TANGENT') return tangent(attribute);
    return attribute;
  };
  const attributes = Object.fromEntries(
    Object.entries(mesh.attributes).map(([key, attribute]) => [key, by(key, attribute, 1)]),
  );
  const morphs = mesh.morphs.map((morph) => ({
    attributes: Object.fromEntries(
      Object.entries(morph.attributes).map(([key, attribute]) => [key, by(key, attribute, 0)]),
    ),
  }));
  return { ...mesh, attributes, morphs, ...(mirror ? { corners: turnedCorners(mesh) } : {}) };
}

function unit(x: number, y: number, z: number): [number, number, number] {
  const length = Math.hypot(x, y, z) || 1;
  return [x / length, y / length, z / length];
}

/** The number that stands for 1 in normalised directions, by their array's class. */
const SIGNED_MOST: ReadonlyMap<unknown, number> = new Map<unknown, number>([
  [Int8Array, 127],
  [Int16Array, 32767],
]);

function mapPoints(
  attribute: Attribute,
  f: (x: number, y: number, z: number) => [number, number, number],
  flipW = false,
): Attribute {
  const scale = SIGNED_MOST.get(attribute.data.constructor) ?? 1;
  const data = attribute.data.slice();
  for (let i = 0; i + 2 < data.length; i += attribute.size) {
    const row = f(data[i] / scale, data[i + 1] / scale, data[i + 2] / scale);
    for (let k = 0; k < 3; k++) data[i + k] = scale === 1 ? row[k] : Math.round(row[k] * scale);
    if (flipW && attribute.size === 4) data[i + 3] = -data[i + 3];
  }
  return { ...attribute, data };
}

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
export function bakedMesh(mesh: Mesh, m: Float64Array): Mesh {
  const inverse = invertAffine(m) ?? m;
  const mirror = determinant3(m) < 0;
  const point = (a: Attribute, w: number): Attribute =>
    mapPoints(a, (x, y, z) => [
      m[0] * x + m[4] * y + m[8] * z + w * m[12],
      m[1] * x + m[5] * y + m[9] * z + w * m[13],
      m[2] * x + m[6] * y + m[10] * z + w * m[14],
    ]);
  const normal = (a: Attribute): Attribute =>
    mapPoints(a, (x, y, z) =>
      unit(
        inverse[0] * x + inverse[1] * y + inverse[2] * z,
        inverse[4] * x + inverse[5] * y + inverse[6] * z,
        inverse[8] * x + inverse[9] * y + inverse[10] * z,
      ),
    );
  const tangent = (a: Attribute): Attribute =>
    mapPoints(
      a,
      (x, y, z) =>
        unit(m[0] * x + m[4] * y + m[8] * z, m[1] * x + m[5] * y + m[9] * z, m[2] * x + m[6] * y + m[10] * z),
      mirror,
    );
  const by = (name: string, a: Attribute, w: number) => {
    if (name === 'POSITION') return point(a, w);
    if (name === 'NORMAL' && w === 1) return normal(a);
    if (name === 'NORMAL') return point(a, 0);
    if (name === 'TANGENT') return tangent(a);
    return a;
  };
  const attributes = Object.fromEntries(Object.entries(mesh.attributes).map(([k, a]) => [k, by(k, a, 1)]));
  const morphs = mesh.morphs.map((t) => ({
    attributes: Object.fromEntries(Object.entries(t.attributes).map(([k, a]) => [k, by(k, a, 0)])),
  }));
  return { ...mesh, attributes, morphs, ...(mirror ? { corners: turnedCorners(mesh) } : {}) };
}

function unit(x: number, y: number, z: number): [number, number, number] {
  const l = Math.hypot(x, y, z) || 1;
  return [x / l, y / l, z / l];
}

/** The number that stands for 1 in normalised directions, by their array's class. */
const SIGNED_MOST: ReadonlyMap<unknown, number> = new Map<unknown, number>([
  [Int8Array, 127],
  [Int16Array, 32767],
]);

function mapPoints(
  a: Attribute,
  f: (x: number, y: number, z: number) => [number, number, number],
  flipW = false,
): Attribute {
  const scale = SIGNED_MOST.get(a.data.constructor) ?? 1;
  const data = a.data.slice();
  for (let i = 0; i + 2 < data.length; i += a.size) {
    const r = f(data[i] / scale, data[i + 1] / scale, data[i + 2] / scale);
    for (let k = 0; k < 3; k++) data[i + k] = scale === 1 ? r[k] : Math.round(r[k] * scale);
    if (flipW && a.size === 4) data[i + 3] = -data[i + 3];
  }
  return { ...a, data };
}

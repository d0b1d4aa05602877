/** Vertex attributes: as floats, and several laid one behind another. */
import type { Attribute, VertexArray } from './model';

/** The number that stands for 1 in a normalised array, by the array's class. */
const LARGEST_BY_TYPE: ReadonlyMap<unknown, number> = new Map<unknown, number>([
  [Int8Array, 127],
  [Uint8Array, 255],
  [Int16Array, 32767],
  [Uint16Array, 65535],
]);

/**
 * The attribute as floats: normalised integers become −1 … 1 or 0 … 1 (glTF 2.0, 3.11). Floats are passed
 * through.
 */
export function asFloats(attribute: Attribute): Float32Array {
  if (attribute.data instanceof Float32Array) return attribute.data;
  if (!attribute.normalized) return Float32Array.from(attribute.data as ArrayLike<number>);
  const divisor = LARGEST_BY_TYPE.get(attribute.data.constructor) ?? 65535;
  return Float32Array.from(attribute.data as ArrayLike<number>, (x) => Math.max(x / divisor, -1));
}

/** A run of vertices among all of a mesh. */
export interface VertexRun {
  readonly start: number;
  readonly count: number;
}

/**
 * Lays the slices' attributes one behind another. A slice that lacks one has zeros there; its piece says so.
 */
export function joinAttributes(
  list: readonly Record<string, Attribute>[],
  slices: readonly VertexRun[],
  vertexCount: number,
): Record<string, Attribute> {
  if (list.length === 1) return list[0];
  const out: Record<string, Attribute> = {};
  for (const name of new Set(list.flatMap((a) => Object.keys(a)))) {
    const parts = list.map((a) => a[name]).filter(Boolean);
    const first = parts[0];
    const size = Math.max(...parts.map((part) => part.size));
    const alike = parts.every(
      (part) => part.data.constructor === first.data.constructor && part.normalized === first.normalized,
    );
    const data = alike
      ? new (first.data.constructor as { new (length: number): VertexArray })(vertexCount * size)
      : new Float32Array(vertexCount * size);
    list.forEach((a, index) => {
      const part = a[name];
      if (!part) return;
      const from = alike ? part.data : asFloats(part);
      for (let vertex = 0; vertex < slices[index].count; vertex++)
        for (let k = 0; k < size; k++)
          data[(slices[index].start + vertex) * size + k] = k < part.size ? from[vertex * part.size + k] : 1;
    });
    out[name] = {
      data,
      size,
      normalized: alike && first.normalized,
      type: size === first.size ? first.type : `VEC${size}`,
    };
  }
  return out;
}

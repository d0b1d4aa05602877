/** Some of a mesh's vertices, in an order of their own, with all that they carry. */
import type { Attribute, Influences, VertexArray } from './model';

/** The values of some vertices. */
export function pickRows(a: Attribute, vertices: ArrayLike<number>): Attribute {
  const data = new (a.data.constructor as { new (n: number): VertexArray })(vertices.length * a.size);
  for (let i = 0; i < vertices.length; i++)
    for (let k = 0; k < a.size; k++) data[i * a.size + k] = a.data[vertices[i] * a.size + k];
  return { ...a, data };
}

/** The values of some vertices, attribute by attribute. */
export const pickAll = (
  set: Readonly<Record<string, Attribute>>,
  vertices: ArrayLike<number>,
): Record<string, Attribute> =>
  Object.fromEntries(Object.entries(set).map(([name, a]) => [name, pickRows(a, vertices)]));

/** The weights of some vertices; joints count as before. */
export function pickInfluences(f: Influences, vertices: ArrayLike<number>): Influences {
  const { length } = vertices;
  const offsets = new Uint32Array(length + 1);
  for (let i = 0; i < length; i++)
    offsets[i + 1] = offsets[i] + f.offsets[vertices[i] + 1] - f.offsets[vertices[i]];
  const joint = new (f.joint.constructor as { new (n: number): Uint16Array })(offsets[length]);
  const weight = new Float32Array(offsets[length]);
  for (let i = 0; i < length; i++) {
    const [from, to] = [f.offsets[vertices[i]], f.offsets[vertices[i] + 1]];
    joint.set(f.joint.subarray(from, to), offsets[i]);
    weight.set(f.weight.subarray(from, to), offsets[i]);
  }
  return { offsets, joint, weight };
}

/** Some of a mesh's vertices, in an order of their own, with all that they carry. */
import type { Attribute, Influences, VertexArray } from './model';

/** The values of some vertices. */
export function pickRows(attribute: Attribute, vertices: ArrayLike<number>): Attribute {
  const data = new (attribute.data.constructor as { new (length: number): VertexArray })(
    vertices.length * attribute.size,
  );
  for (let i = 0; i < vertices.length; i++)
    for (let k = 0; k < attribute.size; k++)
      data[i * attribute.size + k] = attribute.data[vertices[i] * attribute.size + k];
  return { ...attribute, data };
}

/** The values of some vertices, attribute by attribute. */
export const pickAll = (
  set: Readonly<Record<string, Attribute>>,
  vertices: ArrayLike<number>,
): Record<string, Attribute> =>
  Object.fromEntries(Object.entries(set).map(([name, attribute]) => [name, pickRows(attribute, vertices)]));

/** The weights of some vertices; joints count as before. */
export function pickInfluences(influences: Influences, vertices: ArrayLike<number>): Influences {
  const { length } = vertices;
  const offsets = new Uint32Array(length + 1);
  for (let i = 0; i < length; i++)
    offsets[i + 1] = offsets[i] + influences.offsets[vertices[i] + 1] - influences.offsets[vertices[i]];
  const joint = new (influences.joint.constructor as { new (length: number): Uint16Array })(offsets[length]);
  const weight = new Float32Array(offsets[length]);
  for (let i = 0; i < length; i++) {
    const [from, to] = [influences.offsets[vertices[i]], influences.offsets[vertices[i] + 1]];
    joint.set(influences.joint.subarray(from, to), offsets[i]);
    weight.set(influences.weight.subarray(from, to), offsets[i]);
  }
  return { offsets, joint, weight };
}

/** Primitives laid one behind another as one mesh. */
import { asFloats, joinAttributes } from '../../character/attributes';
import type { Attribute, InfluenceStorage, Influences, Morph } from '../../character/model';

/** A run of vertices that one or several primitives share. */
export interface VertexSlice {
  start: number;
  count: number;
  attributes: Record<string, Attribute>;
  sets: { joints: Attribute; weights: Attribute }[];
  targets: Record<string, Attribute>[];
}

/** Indices of triangles from indices by primitive mode: 4 triangles, 5 strip, 6 fan (glTF 2.0, 3.7.2.1). */
export function triangles(indices: Uint32Array, mode: number): Uint32Array {
  if (mode === 4)
    return indices.length % 3 === 0 ? indices : indices.slice(0, indices.length - (indices.length % 3));
  const out: number[] = [];
  for (let k = 2; k < indices.length; k++) {
    if (mode === 6) out.push(indices[0], indices[k - 1], indices[k]);
    else if (k % 2 === 0) out.push(indices[k - 2], indices[k - 1], indices[k]);
    else out.push(indices[k - 1], indices[k - 2], indices[k]);
  }
  return Uint32Array.from(out);
}

/** Lists of so many numbers in all, one after another. */
export function concat(parts: readonly Uint32Array[], size: number): Uint32Array {
  if (parts.length === 1) return parts[0];
  const out = new Uint32Array(size);
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}

/** The morph targets of primitives that become one mesh, by their places in the list. */
export function joinMorphs(slices: readonly VertexSlice[], vertexCount: number): Morph[] {
  const count = Math.max(0, ...slices.map((slice) => slice.targets.length));
  return Array.from({ length: count }, (_, k) => ({
    attributes: joinAttributes(
      slices.map((slice) => slice.targets[k] ?? {}),
      slices,
      vertexCount,
    ),
  }));
}

/**
 * Gathers all influence sets into compressed rows; entries of weight 0 go, a joint named twice at a vertex is
 * added up and counted as `doubled`.
 */
export function joinInfluences(
  slices: readonly VertexSlice[],
  vertexCount: number,
): { influences: Influences | null; storage: InfluenceStorage | null; doubled: number } {
  const first = slices.find((slice) => slice.sets.length > 0);
  if (!first) return { influences: null, storage: null, doubled: 0 };
  let doubled = 0;
  let entries = 0;
  const weightArrays = slices.map((slice) => slice.sets.map((set) => asFloats(set.weights)));
  weightArrays.forEach((sets) =>
    sets.forEach((world) => {
      for (let k = 0; k < world.length; k++) if (world[k] !== 0) entries++;
    }),
  );
  const offsets = new Uint32Array(vertexCount + 1);
  const joint = new Uint16Array(entries);
  const weight = new Float32Array(entries);
  let offset = 0;
  slices.forEach((slice, i) => {
    for (let vertex = 0; vertex < slice.count; vertex++) {
      const start = offset;
      for (let k = 0; k < slice.sets.length; k++) {
        for (let corner = vertex * 4; corner < vertex * 4 + 4; corner++) {
          const array = weightArrays[i][k][corner];
          if (array === 0) continue;
          const j = slice.sets[k].joints.data[corner];
          let at = start;
          while (at < offset && joint[at] !== j) at++;
          if (at < offset) {
            doubled++;
            weight[at] += array;
          } else {
            joint[offset] = j;
            weight[offset++] = array;
          }
        }
      }
      offsets[slice.start + vertex + 1] = offset;
    }
  });
  const weights = first.sets[0].weights.data;
  return {
    doubled,
    influences: { offsets, joint: joint.slice(0, offset), weight: weight.slice(0, offset) },
    storage: {
      weights: weightStorageOf(weights),
      joints: first.sets[0].joints.data instanceof Uint8Array ? 'u8' : 'u16',
      sets: Math.max(...slices.map((slice) => slice.sets.length)),
    },
  };
}

/** How weights stand in a file, by the class of their array. */
function weightStorageOf(weights: unknown): InfluenceStorage['weights'] {
  if (weights instanceof Uint8Array) return 'u8';
  return weights instanceof Uint16Array ? 'u16' : 'f32';
}

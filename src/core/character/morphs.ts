import type { Attribute, Character, Mesh } from './model';

/** How far each morph target of a node's mesh is on at rest: by the node, else by the mesh, else not at all. */
export function morphsAt(character: Character, node: number): readonly number[] {
  const n = character.nodes[node], mesh = character.meshes[n.mesh];
  return mesh ? mesh.morphs.map((_, k) => n.morphWeights?.[k] ?? mesh.morphWeights?.[k] ?? 0) : [];
}

/** The mesh with its morph targets on by these weights: points p + Σ wₖ·dₖ (glTF 2.0, 3.7.2.2). The same mesh where none is on. */
export function morphed(mesh: Mesh, weights: readonly number[]): Mesh {
  const on = mesh.morphs.flatMap((m, k) => (weights[k] && m.attributes.POSITION ? [{ delta: m.attributes.POSITION.data, weight: weights[k] }] : []));
  if (on.length === 0) return mesh;
  const data = Float32Array.from(mesh.attributes.POSITION.data);
  for (const { delta, weight } of on) for (let i = 0; i < data.length; i++) data[i] += weight * delta[i];
  const position: Attribute = { ...mesh.attributes.POSITION, data };
  return { ...mesh, attributes: { ...mesh.attributes, POSITION: position } };
}

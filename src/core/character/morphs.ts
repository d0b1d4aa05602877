import { type Attribute, type Character, type Mesh, positionsOf } from './model';

/**
 * How far each morph target of a node's mesh is on at rest: by the node, else by the mesh, else not at all.
 */
export function morphsAt(character: Character, node: number): readonly number[] {
  const sceneNode = character.nodes[node];
  const mesh = character.meshes[sceneNode.mesh];
  return mesh ? mesh.morphs.map((_, k) => sceneNode.morphWeights?.[k] ?? mesh.morphWeights?.[k] ?? 0) : [];
}

/**
 * The mesh with its morph targets on by these weights: points and normals a + Σ wₖ·dₖ (glTF 2.0, 3.7.2.2).
 * The same mesh where none is on.
 */
export function morph(mesh: Mesh, weights: readonly number[]): Mesh {
  if (!mesh.morphs.some((_, k) => weights[k])) return mesh;
  const attributes: Record<string, Attribute> = { ...mesh.attributes };
  for (const name of ['POSITION', 'NORMAL']) {
    const base = mesh.attributes[name];
    if (!(base?.data instanceof Float32Array)) continue;
    const data = base.data.slice();
    mesh.morphs.forEach((morph, k) => {
      const delta = morph.attributes[name]?.data;
      const weight = weights[k] ?? 0;
      if (weight !== 0 && delta instanceof Float32Array)
        for (let i = 0; i < data.length; i++) data[i] += weight * delta[i];
    });
    attributes[name] = { ...base, data };
  }
  return { ...mesh, attributes };
}

/**
 * Positions with morph targets on by these weights: a + Σ wₖ·dₖ (glTF 2.0, 3.7.2.2). The mesh's own array
 * where none is on.
 */
export function morphedPositions(mesh: Mesh, weights: readonly number[]): Float32Array {
  const base = positionsOf(mesh);
  if (!mesh.morphs.some((_, k) => weights[k])) return base;
  const out = base.slice();
  mesh.morphs.forEach((morph, k) => {
    const delta = morph.attributes.POSITION?.data;
    const weight = weights[k] ?? 0;
    if (weight === 0 || !(delta instanceof Float32Array)) return;
    for (let i = 0; i < out.length; i++) out[i] += weight * delta[i];
  });
  return out;
}

/** The mesh of a node as it shows it at rest, with the morph targets that are on. */
export const shownMesh = (character: Character, node: number): Mesh =>
  morph(character.meshes[character.nodes[node].mesh], morphsAt(character, node));

import { pickAll, pickInfluences } from '@/core/character/pick';
import type { Character, Mesh } from '@/core/character/model';

/** Numbers that look like chance and are the same for a seed (mulberry32). */
function chance(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

function shuffledMesh(mesh: Mesh, next: () => number): Mesh {
  if (mesh.pieces.length !== 1) return mesh;
  const order = Array.from({ length: mesh.vertexCount }, (_, i) => i);
  for (let i = order.length - 1; i > 0; i--) {
    const k = Math.floor(next() * (i + 1));
    [order[i], order[k]] = [order[k], order[i]];
  }
  const placeOf = new Uint32Array(order.length);
  order.forEach((old, at) => {
    placeOf[old] = at;
  });
  return {
    ...mesh,
    attributes: pickAll(mesh.attributes, order),
    morphs: mesh.morphs.map((morph) => ({ attributes: pickAll(morph.attributes, order) })),
    influences: mesh.influences && pickInfluences(mesh.influences, order),
    corners: mesh.corners.map((corner) => placeOf[corner]),
  };
}

/** The same character with the vertices of its meshes in another order. */
export function shuffledVertices(character: Character, seed: number): Character {
  const next = chance(seed);
  return { ...character, meshes: character.meshes.map((mesh) => shuffledMesh(mesh, next)) };
}

/** The first entry of a list in a record of JSON. */
export const pick = (record: Record<string, unknown>, key: string): Record<string, unknown> =>
  (record[key] as Record<string, unknown>[])[0];

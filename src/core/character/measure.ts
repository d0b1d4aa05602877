import { placedPoints } from '../geometry/skinning';
import { bonesOf, meshNodesOf, restPlace, restWorld } from './hierarchy';
import type { Character, Mesh, Skin } from './model';

export interface Box { readonly min: readonly [number, number, number]; readonly max: readonly [number, number, number] }

/** A mesh as a node shows it at rest. */
export interface Placed { readonly node: number; readonly mesh: Mesh; readonly skin: Skin | null; /** Float32Array, 3 per vertex, world space, metres. */ readonly points: Float32Array }

const placedCache = new WeakMap<Character, Placed[]>();

/** All meshes at rest in world space; computed once for a character. */
export function placedMeshes(character: Character): Placed[] {
  let placed = placedCache.get(character);
  if (!placed) {
    const world = restWorld(character.nodes);
    placed = meshNodesOf(character).map((node) => {
      const n = character.nodes[node];
      const mesh = character.meshes[n.mesh];
      const skin = n.skin >= 0 && mesh.influences ? character.skins[n.skin] : null;
      return { node, mesh, skin, points: placedPoints(mesh, skin, node, world) };
    });
    placedCache.set(character, placed);
  }
  return placed;
}

/** The box around points (3 per vertex), or null where there are none. */
export function boxOf(sets: readonly ArrayLike<number>[]): Box | null {
  const min: [number, number, number] = [Infinity, Infinity, Infinity], max: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  for (const points of sets) {
    for (let i = 0; i + 2 < points.length; i += 3) {
      for (let k = 0; k < 3; k++) {
        const x = points[i + k];
        if (x < min[k]) min[k] = x;
        if (x > max[k]) max[k] = x;
      }
    }
  }
  return min[0] === Infinity ? null : { min, max };
}

/** The box of all bound meshes at rest; of all meshes where none is bound. World space, metres. */
export function bodyBox(character: Character): Box | null {
  const placed = placedMeshes(character);
  const bound = placed.filter((p) => p.skin);
  return boxOf((bound.length > 0 ? bound : placed).map((p) => p.points));
}

/** The box of all joints at rest. World space, metres. */
export function skeletonBox(character: Character): Box | null {
  const places = bonesOf(character).map((b) => restPlace(character.nodes, b));
  return boxOf([places.flat()]);
}

/** Height of the body in metres; of the skeleton where there is no mesh; 1 where there is neither. */
export function characterHeight(character: Character): number {
  const box = bodyBox(character) ?? skeletonBox(character);
  return box ? Math.max(box.max[1] - box.min[1], 1e-6) : 1;
}

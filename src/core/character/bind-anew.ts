/** Skins bound anew: binds from where joints stand, and meshes that take a shape for their own. */
import { type Character } from './model';
import { inverseOr, times } from '../geometry/matrix';
import { withMeshesOf } from './bind';
import { deformedMesh } from './deform';

/**
 * Inverse binds that carry the joints of a skin as they stand now: W⁻¹, after what `through` does to the
 * whole mesh.
 */
export function freshBinds(
  joints: readonly number[],
  world: Float64Array,
  through?: Float64Array,
): Float64Array {
  const out = new Float64Array(joints.length * 16);
  joints.forEach((j, k) =>
    out.set(through ? times(inverseOr(world, j * 16), through) : inverseOr(world, j * 16), k * 16),
  );
  return out;
}

/**
 * The meshes of a skin with the shape that they have under node worlds as their own. Copies where another
 * skin uses the mesh too.
 */
export function withShapeOf(character: Character, skin: number, world: Float64Array): Character {
  return withMeshesOf(character, skin, (mesh, node) =>
    deformedMesh(mesh, character.skins[skin], node, world),
  );
}

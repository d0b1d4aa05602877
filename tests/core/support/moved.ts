/** What tests of moves share: rules by hand, and how far points lie apart. */
import type { Rule } from '@/core/anatomy/crosswalk';
import { placedPoints } from '@/core/character/deform';
import { placedMeshes } from '@/core/character/measure';
import type { Character } from '@/core/character/model';
import type { Remapped } from '@/core/rooms/crosswalk/remap';

/** A rule that nobody has locked. */
export const rule = (source: number, kind: Rule['kind'], target: number): Rule => ({
  source,
  kind,
  target,
  confidence: 1,
  reasons: [],
  locked: false,
});

/** Root of the mean square distance of all points over poses, metres. */
export function rmsApart(
  before: Character,
  { character, sourceNodeOf }: Pick<Remapped, 'character' | 'sourceNodeOf'>,
  poses: readonly { readonly world: Float64Array; readonly moved: Float64Array }[],
): number {
  let [sum, count] = [0, 0];
  for (const { world, moved } of poses)
    for (const mesh of placedMeshes(character)) {
      const placed = placedMeshes(before).find((placedMesh) => placedMesh.node === sourceNodeOf[mesh.node])!;
      const a = placedPoints(placed.mesh, placed.skin, placed.node, world);
      const b = placedPoints(mesh.mesh, mesh.skin, mesh.node, moved);
      for (let i = 0; i < a.length; i++) sum += (a[i] - b[i]) ** 2;
      count += a.length / 3;
    }
  return Math.sqrt(sum / count);
}

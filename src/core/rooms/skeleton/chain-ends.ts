/** Where chains end: bones that carry flesh and have none behind them, and bones that only mark an end. */
import { boneKindsOf } from '../../anatomy/bone-kinds';
import { bonesOf, childrenOf, parentBone, restPlace } from '../../character/hierarchy';
import { placedMeshes } from '../../character/measure';
import type { Character } from '../../character/model';
import { type Vec3, distance, length, normalise, subtract } from '../../geometry/matrix';

export interface ChainEnds {
  /** Bones that deform, with no bone behind them. */
  readonly open: readonly number[];
  /** Bones that mark the end of another one. */
  readonly ends: readonly number[];
}

/** How the chains of a character end, by what its bones are for. */
export function chainEndsOf(character: Character): ChainEnds {
  const kinds = boneKindsOf(character);
  const children = childrenOf(character.nodes);
  const hasBoneBelow = (bone: number) =>
    children[bone].some((child) => character.nodes[child].kind === 'bone');
  const leaves = bonesOf(character).filter((bone) => !hasBoneBelow(bone));
  const kindOf = (bone: number) => kinds.get(bone)?.kind;
  return {
    open: leaves.filter((bone) => kindOf(bone) === 'deforming' || kindOf(bone) === 'cloth'),
    ends: leaves.filter((bone) => kindOf(bone) === 'end' && parentBone(character.nodes, bone) >= 0),
  };
}

/** A bone without flesh of its own, whose end nobody can see, ends after this share of the bone before it. */
const BLIND = 0.5;

/** Of points that the bone moves by less than half nothing is said. */
const OWN = 0.5;

/**
 * Where a bone ends: as far along the way from the bone above as flesh reaches that it moves by half or more. World
 * space, metres; null for a bone with none above it, or in one place with it.
 */
export function tipOf(character: Character, bone: number): Vec3 | null {
  const above = parentBone(character.nodes, bone);
  if (above < 0) return null;
  const [from, at] = [restPlace(character.nodes, above), restPlace(character.nodes, bone)];
  const way = subtract(at, from);
  if (length(way) < 1e-9) return null;
  const along = normalise(way);
  const reach = fleshAlong(character, bone, at, along);
  const by = reach > 1e-6 ? reach : BLIND * distance(from, at);
  return [0, 1, 2].map((axis) => at[axis] + by * along[axis]) as unknown as Vec3;
}

function fleshAlong(character: Character, bone: number, at: Vec3, along: Vec3): number {
  let most = 0;
  for (const { mesh, skin, points } of placedMeshes(character)) {
    const joint = skin?.joints.indexOf(bone) ?? -1;
    if (!mesh.influences || joint < 0) continue;
    const { offsets, joint: joints, weight } = mesh.influences;
    for (let vertex = 0; vertex < mesh.vertexCount; vertex++)
      for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++) {
        if (joints[k] !== joint || weight[k] < OWN) continue;
        let reach = 0;
        for (let axis = 0; axis < 3; axis++) reach += (points[vertex * 3 + axis] - at[axis]) * along[axis];
        most = Math.max(most, reach);
      }
  }
  return most;
}

/** Where a figure bends: joints with how far what is near them reaches, by the thickness of their limbs. */
import { limbThickness } from '../../anatomy/limb-thickness';
import { bonesOf, childrenOf, parentBone, restPlace } from '../../character/hierarchy';
import type { Character } from '../../character/model';
import type { Vec3 } from '../../geometry/matrix';

/** A joint that bends, and how far what is near it reaches. World space, metres. */
export interface Bend {
  readonly at: readonly [number, number, number];
  readonly reach: number;
}

/**
 * A joint bends where a chain goes on through it, a bone above and a bone below, and flesh bends with it. `share`: of
 * the limb's thickness there.
 */
export function bendingJoints(character: Character, share: number): Bend[] {
  const children = childrenOf(character.nodes);
  const thickness = limbThickness(character);
  const isBone = (i: number) => character.nodes[i].kind === 'bone';
  return bonesOf(character)
    .filter(
      (bone) => parentBone(character.nodes, bone) >= 0 && children[bone].some(isBone) && thickness.has(bone),
    )
    .map((bone) => ({ at: restPlace(character.nodes, bone), reach: share * (thickness.get(bone) ?? 0) }));
}

/** Whether a place is near any joint that bends. World space, metres. */
export const isNear = (bending: readonly Bend[], [x, y, z]: Vec3): boolean =>
  bending.some(({ at, reach }) => (at[0] - x) ** 2 + (at[1] - y) ** 2 + (at[2] - z) ** 2 < reach * reach);

/** How thick a limb is at its joint, as trials take it. */
import { limbSectionsOf } from '../../anatomy/limb-sections';
import { limbThickness } from '../../anatomy/limb-thickness';
import type { Character } from '../../character/model';

/**
 * Radius of the limb at a joint, metres: by the flesh that both of its bones share, and where they share none by the cut across
 * the limb. Null where neither tells.
 */
export function jointRadius(character: Character, bone: number): number | null {
  const thickness = limbThickness(character).get(bone);
  if (thickness !== undefined) return thickness / 2;
  return limbSectionsOf(character).find((section) => section.bone === bone)?.radius ?? null;
}

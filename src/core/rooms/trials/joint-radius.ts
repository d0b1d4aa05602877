/** How thick a limb is at its joints, as trials take it. */
import { parentBone, restPlace } from '../../character/hierarchy';
import { characterHeight } from '../../character/measure';
import { limbSectionsOf } from '../../anatomy/limb-sections';
import { limbThickness } from '../../anatomy/limb-thickness';
import type { Character } from '../../character/model';
import { distance } from '../../geometry/matrix';

/**
 * Radius of the limb at a joint, metres: by the flesh that both of its bones share, and where they share none by the cut across
 * the limb. Null where neither tells.
 */
export function jointRadius(character: Character, bone: number): number | null {
  const thickness = limbThickness(character).get(bone);
  if (thickness !== undefined) return thickness / 2;
  return limbSectionsOf(character).find((section) => section.bone === bone)?.radius ?? null;
}

/** Where nothing tells how thick a limb is: so much of the way to the joint above it, and of the height where there is none. */
const OF_WAY = 0.3;
const OF_HEIGHT = 0.02;

/** Thickness (diameter) that distances at a joint are held against, metres; above zero, an estimate where nothing tells. */
export function thicknessAt(character: Character, bone: number): number {
  const radius = jointRadius(character, bone);
  if (radius !== null) return 2 * radius;
  const above = parentBone(character.nodes, bone);
  const way = above < 0 ? 0 : distance(restPlace(character.nodes, bone), restPlace(character.nodes, above));
  return way > 0 ? OF_WAY * way : OF_HEIGHT * characterHeight(character);
}

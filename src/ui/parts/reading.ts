import type { Character } from '@/core/character/model';
import { type LengthUnit, inUnit, digitsOf } from '@/core/contracts/units';
import { entriesOf } from '@/core/geometry/influences';
import type { Hit } from '../stage/view';

/** A world place in a brief's unit: three numbers. */
export const placeText = (place: readonly number[], unit: LengthUnit): string =>
  place.map((x) => inUnit(x, unit).toFixed(digitsOf(unit))).join(' ');

/**
 * Bones of a vertex with their weights, heaviest as the mesh lists them; none for a mesh that is not bound.
 */
export function weightsText(character: Character, node: number, vertex: number): [string, string][] {
  const { mesh, skin } = character.nodes[node];
  const influences = character.meshes[mesh]?.influences;
  if (!influences || skin < 0) return [];
  const { joints } = character.skins[skin];
  return entriesOf(influences, vertex).map((entry) => [
    character.nodes[joints[entry.joint]].name,
    entry.weight.toFixed(2),
  ]);
}

/** Most weights that the line below the stage has room for. */
const ROOM = 6;

/** What is under the pointer, in words: bone, or vertex with its weights and its place. */
export function readHit(character: Character, hit: Hit, unit: LengthUnit): string[] {
  const { name } = character.nodes[hit.node];
  if (hit.kind === 'bone') return [name];
  const weights = weightsText(character, hit.node, hit.vertex).slice(0, ROOM);
  const carried = weights.length > 0 ? weights.map(([bone, word]) => `${word} ${bone}`) : ['not bound'];
  return [name, `vertex ${hit.vertex}`, ...carried, placeText(hit.point, unit)];
}

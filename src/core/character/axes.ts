import { type Quat, quatAbout } from '../geometry/matrix';
import type { Character } from './model';
import { STILL, underSimilarity } from './similarity';

export type Axis = 'x' | 'y' | 'z';

/**
 * The turn that brings an up axis to +Y: z up faces −Y and comes to face +Z; x up is COLLADA 1.4.1's X_UP
 * (right −Y, in +Z).
 */
export function turnFromUp(up: Axis): Quat {
  if (up === 'z') return quatAbout([1, 0, 0], -Math.PI / 2);
  if (up === 'x') return quatAbout([0, 0, 1], Math.PI / 2);
  return [0, 0, 0, 1];
}

/** A character read in the file's own unit and axes, brought to metres and +Y up. */
export function toHouseAxes(character: Character): Character {
  const { unitMetres, upAxis = 'y' } = character.source;
  if (unitMetres === 1 && upAxis === 'y') return character;
  return underSimilarity(character, { ...STILL, scale: unitMetres, rotation: turnFromUp(upAxis) });
}

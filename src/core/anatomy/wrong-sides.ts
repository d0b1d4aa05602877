/** Bones that stand on the other side than their names say. */
import type { Character } from '../character/model';
import { dot } from '../geometry/matrix';
import { bearingOf } from './landmarks';
import { looksOf } from './looks';
import { atAndUnder } from './shape';
import { skeletonOf } from './skeleton';

/** Nearer to the middle than this share of the skeleton's reach a bone stands on no side. */
const ASIDE = 0.02;

/** Where so many limbs begin on the other side, all names are exchanged: a short one may lean over the middle. */
const NEARLY_ALL = 0.8;

/**
 * Bones of limbs that begin on the other side than their names say: limbs may cross the middle, where they begin they do
 * not. `bones` by their index in the skeleton; `areAll`: whether as good as every limb that is told sides is.
 */
export function wrongSided(character: Character): {
  readonly bones: readonly number[];
  readonly areAll: boolean;
} {
  const skeleton = skeletonOf(character);
  const { side, hasNamedSides, readings, shape } = looksOf(skeleton);
  const bearing = hasNamedSides ? bearingOf(character) : null;
  if (!bearing) return { bones: [], areAll: false };
  const across = shape.places.map((place) => dot(place, bearing.left));
  // The middle of those in the middle: what is held in one hand is among them as well.
  const middle = across.filter((_, i) => side[i] === 0).sort((x, y) => x - y);
  if (middle.length === 0) return { bones: [], areAll: false };
  const at = middle[middle.length >> 1];
  const aside = across.map((x, i) => side[i] * (x - at));
  const tops = shape.places.flatMap((_, i) => {
    const parent = shape.parents[i];
    const isTop = side[i] !== 0 && readings[i].kind === 'bone' && parent >= 0 && side[parent] === 0;
    return isTop && Math.abs(aside[i]) > ASIDE * shape.reach ? [i] : [];
  });
  const beyond = tops.filter((i) => aside[i] < 0);
  // Names that were exchanged stand on both sides wrongly; one alone may only lean over the middle.
  const isTwin = (i: number, j: number) =>
    side[i] === -side[j] &&
    (readings[i].stem === readings[j].stem ||
      (readings[i].part !== '' && readings[i].part === readings[j].part));
  const wrong = beyond.filter((i) => beyond.some((j) => isTwin(i, j)));
  const bones = wrong.flatMap((top) => atAndUnder(shape, top).filter((i) => side[i] === side[top]));
  return {
    bones: bones.sort((a, b) => a - b),
    areAll: wrong.length > 0 && beyond.length >= NEARLY_ALL * tops.length,
  };
}

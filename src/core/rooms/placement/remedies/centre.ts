import { object } from 'yup';
import { NothingToDo, defineRemedy, promise } from '../../../contracts/remedy';
import { inUnit } from '../../../contracts/units';
import { MOVED_ASPECTS } from '../moved';
import type { Character } from '../../../character/model';
import { type Similarity, STILL, underSimilarity } from '../../../character/similarity';
import { SYMMETRIC, footprintOf, middleOf } from '../survey';

/**
 * Along x to the plane of symmetry, or to the middle of the footprint where there is none; along z only where
 * the origin is not under the figure.
 */
function shift(character: Character): Similarity {
  const middle = middleOf(character);
  const foot = footprintOf(character);
  const mid = (k: 0 | 1) => (foot ? (foot.min[k] + foot.max[k]) / 2 : 0);
  const x = middle && middle.share >= SYMMETRIC ? middle.offset : mid(0);
  return { ...STILL, translation: [-x, 0, foot && foot.outside[1] > 0 ? -mid(1) : 0] };
}

/**
 * Moves the whole character sideways until its plane of symmetry is x = 0 and the origin lies between its
 * feet.
 */
export const centre = defineRemedy({
  id: 'centre',
  room: 'placement',
  title: 'Bring to the middle',
  does: 'The whole character moves over the ground until its plane of symmetry runs through the middle and the origin lies between its feet; a root bone in the origin stays.',
  params: object({}),
  rows(character, _params, { unit }) {
    const middle = middleOf(character);
    const foot = footprintOf(character);
    const isSymmetric = middle && middle.share >= SYMMETRIC;
    const away = foot ? Math.hypot(...foot.outside) : 0;
    return [
      ...(isSymmetric
        ? [{ label: 'Plane of symmetry from the middle', value: inUnit(middle.offset, unit), unit }]
        : []),
      { label: 'Origin from the ground it stands on', value: inUnit(away, unit), unit },
    ];
  },
  apply(character) {
    const similarity = shift(character);
    if (similarity.translation.every((x) => Math.abs(x) < 1e-9))
      throw new NothingToDo('It stands in the middle already; there is nothing to move.');
    return underSimilarity(character, similarity);
  },
  promises: (character) => promise(MOVED_ASPECTS, { similarity: shift(character) }),
});

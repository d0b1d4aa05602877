import { object } from 'yup';
import { type Remedy, NothingToDo } from '../../../contracts/types';
import { inUnit } from '../../../contracts/brief';
import type { Character } from '../../../character/model';
import { type Similarity, STILL, underSimilarity } from '../../../character/similarity';
import { SYMMETRIC, footprintOf, middleOf } from '../survey';

/** Along x to the plane of symmetry, or to the middle of the footprint where there is none; along z only where the origin is not under the figure. */
function shift(character: Character): Similarity {
  const middle = middleOf(character);
  const foot = footprintOf(character);
  const mid = (k: 0 | 1) => (foot ? (foot.min[k] + foot.max[k]) / 2 : 0);
  const x = middle && middle.share >= SYMMETRIC ? middle.offset : mid(0);
  return { ...STILL, translation: [-x, 0, foot && foot.outside[1] > 0 ? -mid(1) : 0] };
}

/** Moves the whole character sideways until its plane of symmetry is x = 0 and the origin lies between its feet. */
export const centre: Remedy = {
  id: 'centre',
  room: 'placement',
  title: 'Bring to the middle',
  does: 'The whole character moves over the ground until its plane of symmetry runs through the middle and the origin lies between its feet; a root bone in the origin stays.',
  params: object({}),
  preview(character, _params, brief) {
    const [x, , z] = shift(character).translation;
    const foot = footprintOf(character);
    return [
      {
        label: 'Plane of symmetry from the middle',
        before: inUnit(-x, brief.unit),
        after: 0,
        unit: brief.unit,
      },
      {
        label: 'Origin from the ground it stands on',
        before: inUnit(foot ? Math.hypot(...foot.outside) : 0, brief.unit),
        after: 0,
        unit: brief.unit,
      },
      { label: 'Moved forward', before: 0, after: inUnit(z, brief.unit), unit: brief.unit },
    ];
  },
  apply(character) {
    const s = shift(character);
    if (s.translation.every((x) => Math.abs(x) < 1e-9))
      throw new NothingToDo('It stands in the middle already; there is nothing to move.');
    return underSimilarity(character, s);
  },
  promises: (character) => ({ similarity: shift(character), meant: new Set(), holds: 'in every pose' }),
};

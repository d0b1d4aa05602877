import { object } from 'yup';
import { type Remedy, NothingToDo } from '../../../contracts/types';
import { bodyBox, characterHeight } from '../../../character/measure';
import { inUnit } from '../../../contracts/brief';
import type { Character } from '../../../character/model';
import { type Similarity, STILL, underSimilarity } from '../../../character/similarity';

const lowest = (c: Character) => bodyBox(c)?.min[1] ?? 0;
const lift = (c: Character): Similarity => ({ ...STILL, translation: [0, -lowest(c), 0] });

/** Moves the whole character up or down until its lowest point stands on y = 0, props included. A root bone in the origin stays there. */
export const setOnGround: Remedy = {
  id: 'set-on-ground',
  room: 'placement',
  title: 'Set on the ground',
  does: 'The whole character, skeleton and props with it, moves until its lowest point is at height 0; a root bone in the origin stays.',
  params: object({}),
  preview(character, params, brief) {
    const after = setOnGround.apply(character, params, brief);
    return [
      {
        label: 'Lowest point',
        before: inUnit(lowest(character), brief.unit),
        after: inUnit(lowest(after), brief.unit),
        unit: brief.unit,
      },
      {
        label: 'Highest point',
        before: inUnit(bodyBox(character)?.max[1] ?? 0, brief.unit),
        after: inUnit(bodyBox(after)?.max[1] ?? 0, brief.unit),
        unit: brief.unit,
      },
    ];
  },
  apply(character) {
    if (Math.abs(lowest(character)) < characterHeight(character) * 1e-6)
      throw new NothingToDo('The lowest point is on the ground already; there is nothing to move.');
    return underSimilarity(character, lift(character));
  },
  promises: (character) => ({ similarity: lift(character), meant: new Set(), holds: 'in every pose' }),
};

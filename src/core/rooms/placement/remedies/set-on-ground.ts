import { object } from 'yup';
import { NothingToDo, defineRemedy, promise } from '../../../contracts/remedy';
import { inUnit } from '../../../contracts/units';
import { MOVED_ASPECTS } from '../moved';
import { bodyBox, characterHeight } from '../../../character/measure';
import type { Character } from '../../../character/model';
import { type Similarity, STILL, underSimilarity } from '../../../character/similarity';

const lowest = (character: Character) => bodyBox(character)?.min[1] ?? 0;
const lift = (character: Character): Similarity => ({ ...STILL, translation: [0, -lowest(character), 0] });

/**
 * Moves the whole character up or down until its lowest point stands on y = 0, props included. A root bone in
 * the origin stays there.
 */
export const setOnGround = defineRemedy({
  id: 'set-on-ground',
  room: 'placement',
  title: 'Set on the ground',
  does: 'The whole character, skeleton and props with it, moves until its lowest point is at height 0; a root bone in the origin stays.',
  params: object({}),
  rows: (character, _params, { unit }) => [
    { label: 'Lowest point', value: inUnit(lowest(character), unit), unit },
    { label: 'Highest point', value: inUnit(bodyBox(character)?.max[1] ?? 0, unit), unit },
  ],
  apply(character) {
    if (Math.abs(lowest(character)) < characterHeight(character) * 1e-6)
      throw new NothingToDo('The lowest point is on the ground already; there is nothing to move.');
    return underSimilarity(character, lift(character));
  },
  promises: (character) => promise(MOVED_ASPECTS, { similarity: lift(character) }),
});

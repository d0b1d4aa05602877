import { object } from 'yup';
import { weightOfNodes } from '../../../character/hierarchy';
import { refOrNone, refsTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy } from '../../../contracts/remedy';
import { foldingPromises } from '../folding';
import { FoldError, withBonesFolded } from '../../../motion/fold';

/** Bones are listed up to so many. */
const LISTED = 60;

/** Folds bones into those above them: their weight, what hangs on them, and what they did in clips. */
export const foldBones = defineRemedy({
  id: 'fold-bones',
  room: 'skeleton',
  title: 'Fold into another bone',
  does: 'These bones go: the bone named, or else the nearest above each that stays, takes its weight, and what hung on them hangs there and moves as it did in every clip. Nothing moves at rest.',
  params: object({
    bones: refsTo('bone', 'Bones that go').required(),
    into: refOrNone('bone', 'Into; none: the bone above each').default(-1),
  }),
  order: 'below first',
  rows(character, { bones }) {
    const weight = weightOfNodes(character);
    return [
      { label: 'Bones', value: character.nodes.filter(({ kind }) => kind === 'bone').length, unit: 'bones' },
      ...bones.slice(0, LISTED).map((bone) => ({
        label: `Weight of ${character.nodes[bone].name}`,
        value: weight[bone],
        unit: '',
      })),
    ];
  },
  promises(character, { bones }) {
    return foldingPromises(character, bones);
  },
  apply(character, { bones, into }) {
    const named = into >= 0 ? [...bones, into] : bones;
    if (named.some((bone) => character.nodes[bone]?.kind !== 'bone'))
      throw new RemedyError('One of these bones is not there any more; choose them again.');
    if (bones.length === 0) throw new NothingToDo('No bone is chosen; choose those that go.');
    try {
      return withBonesFolded(character, new Set(bones), into).character;
    } catch (error) {
      if (error instanceof FoldError) throw new RemedyError(error.message);
      throw error;
    }
  },
});

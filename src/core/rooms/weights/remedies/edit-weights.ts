import { number, object } from 'yup';
import { choiceOf, refTo } from '../../../contracts/params';
import { defineRemedy } from '../../../contracts/remedy';
import { withShare } from '../../../geometry/row-edits';
import {
  chosenPoints,
  eachRow,
  lockedBones,
  nodesOf,
  promiseOfEdit,
  rowsOfChoice,
  withEditedRows,
} from '../edits';

const HOW = {
  set: 'set to',
  add: 'add',
  take: 'take away',
  scale: 'multiply by',
  blend: 'half way to',
} as const;

/** What a weight becomes. */
const CHANGES: Readonly<Record<keyof typeof HOW, (share: number, value: number) => number>> = {
  set: (_, value) => value,
  add: (share, value) => share + value,
  take: (share, value) => share - value,
  scale: (share, value) => share * value,
  blend: (share, value) => (share + value) / 2,
};

/** One bone's weight on chosen points, exactly. */
export const editWeights = defineRemedy({
  id: 'edit-weights',
  room: 'weights',
  title: 'Set a bone’s weight',
  does: 'The bone gets exactly this weight on the chosen points. The other bones of each point share the rest in proportion; locked ones keep what they have. Where nobody else is there, the nearest bone above takes it.',
  params: object({
    vertices: chosenPoints(),
    bone: refTo('bone', 'Bone'),
    how: choiceOf('What is done', HOW).default('set'),
    value: number().min(0).max(10).default(1).meta({ quantity: 'weight', label: 'Weight' }),
    locked: lockedBones(),
  }),
  rows: (character, { vertices, bone }) => rowsOfChoice(character, vertices, [bone]),
  promises: (character, { vertices }) => promiseOfEdit(character, nodesOf(vertices)),
  apply: (character, { vertices, bone, how, value, locked }) =>
    withEditedRows(character, vertices, {
      bones: [bone],
      locked,
      nothing: `“${character.nodes[bone]?.name ?? ''}” has this weight on the chosen points already, or what is locked leaves no room.`,
      edit: eachRow(bone, (row, joint, rules) =>
        withShare(row, joint, CHANGES[how](row.get(joint) ?? 0, value), rules),
      ),
    }),
});

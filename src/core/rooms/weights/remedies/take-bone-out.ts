import { object } from 'yup';
import { choiceOf, refTo } from '../../../contracts/params';
import { type Character } from '../../../character/model';
import { defineRemedy } from '../../../contracts/remedy';
import { withShare } from '../../../geometry/row-edits';
import { boundNodes } from '../../../character/held-by';
import {
  type PointChoice,
  chosenPoints,
  eachRow,
  lockedBones,
  nodesOf,
  promiseOfEdit,
  rowsOfChoice,
  wholeMeshes,
  withEditedRows,
} from '../edits';

const WHERE = {
  here: 'on the chosen points',
  mesh: 'on all of these meshes',
  everywhere: 'on every mesh',
} as const;

/** A bone lets go of points; the other bones that are there take its weight. */
export const takeBoneOut = defineRemedy({
  id: 'take-bone-out',
  room: 'weights',
  title: 'Take a bone out',
  does: 'The bone lets go of these points. The other bones that each point has take its weight in proportion; where it was the only one, the nearest bone above it does.',
  params: object({
    vertices: chosenPoints(),
    bone: refTo('bone', 'Bone'),
    where: choiceOf('Where', WHERE).default('here'),
    locked: lockedBones(),
  }),
  rows: (character, { vertices, bone, where }) =>
    rowsOfChoice(character, pointsMeant(character, vertices, where), [bone]),
  promises: (character, { vertices, where }) =>
    promiseOfEdit(character, nodesOf(pointsMeant(character, vertices, where))),
  apply: (character, { vertices, bone, where, locked }) =>
    withEditedRows(character, pointsMeant(character, vertices, where), {
      bones: character.skins.some(({ joints }) => joints.includes(bone)) ? [bone] : [],
      locked,
      nothing: `“${character.nodes[bone]?.name ?? ''}” pulls none of these points, or nobody is there to take its weight.`,
      edit: eachRow(bone, (row, joint, rules) => (row.has(joint) ? withShare(row, joint, 0, rules) : row)),
    }),
});

/** The points that are meant: the chosen ones, or all of their meshes, or of all bound meshes. */
function pointsMeant(character: Character, chosen: PointChoice, where: keyof typeof WHERE): PointChoice {
  if (where === 'here') return chosen;
  const nodes = where === 'mesh' ? nodesOf(chosen) : boundNodes(character);
  return wholeMeshes(character, nodes);
}

import { number, object } from 'yup';
import { refTo } from '../../../contracts/params';
import { defineRemedy, RemedyError } from '../../../contracts/remedy';
import { chosenPoints, eachRow, nodesOf, promiseOfEdit, rowsOfChoice, withEditedRows } from '../edits';

/** Chosen points go with two bones alone, by a share: half and half on the ring of a joint. */
export const splitBetween = defineRemedy({
  id: 'split-between',
  room: 'weights',
  title: 'Share between two bones',
  does: 'The chosen points go with these two bones and no other: half and half on the middle ring of a joint, or by any share.',
  params: object({
    vertices: chosenPoints(),
    bone: refTo('bone', 'Bone'),
    other: refTo('bone', 'Other bone'),
    share: number().min(0).max(1).default(0.5).meta({ quantity: 'share', label: 'Share of the first' }),
  }),
  rows: (character, { vertices, bone, other }) => rowsOfChoice(character, vertices, [bone, other]),
  promises: (character, { vertices }) => promiseOfEdit(character, nodesOf(vertices)),
  apply(character, { vertices, bone, other, share }) {
    if (bone === other) throw new RemedyError('Both bones are the same; choose two.');
    const nothing = 'The chosen points are shared between these two like this already.';
    return withEditedRows(character, vertices, {
      bones: [bone, other],
      nothing,
      edit: eachRow(bone, (_row, joint, _rules, { mesh }) => {
        const parts: [number, number][] = [
          [joint, share],
          [mesh.joints[1], 1 - share],
        ];
        return new Map(parts.filter(([, part]) => part > 0));
      }),
    });
  },
});

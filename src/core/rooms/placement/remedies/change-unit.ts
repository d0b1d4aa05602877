import { number, object, string } from 'yup';
import { type Remedy, NothingToDo } from '../../../contracts/types';
import { inUnit } from '../../../contracts/brief';
import { type Axis, turnFromUp } from '../../../character/axes';
import type { Character } from '../../../character/model';
import { type Similarity, STILL, underSimilarity } from '../../../character/similarity';
import { quatConjugate, quatMultiply } from '../../../geometry/matrix';
import { bodyHeight, skeletonHeight } from '../survey';
import { unitWord } from '../../../contracts/units';

type Params = { metres: number; up?: Axis };

function between(character: Character, { metres, up }: Params): Similarity {
  const { unitMetres, upAxis = 'y' } = character.source;
  const rotation =
    up && up !== upAxis ? quatMultiply(turnFromUp(up), quatConjugate(turnFromUp(upAxis))) : STILL.rotation;
  return { scale: metres / unitMetres, rotation, translation: [0, 0, 0] };
}

/** Reads the file anew as if it had been made in another unit, or with another axis up: for files that do not say, or say it wrongly. */
export const changeUnit: Remedy<Params> = {
  id: 'change-unit',
  room: 'placement',
  title: 'Read in another unit',
  does: 'The file counts as made in this unit: everything takes the ratio of the two units about the world’s origin, and the file’s unit is noted.',
  params: object({ metres: number().positive().required(), up: string<Axis>().oneOf(['x', 'y', 'z']) }),
  preview(character, params, brief) {
    const s = between(character, params);
    const h = bodyHeight(character) ?? skeletonHeight(character);
    return [
      {
        label: 'The file’s unit',
        before: unitWord(character.source.unitMetres),
        after: unitWord(params.metres),
        unit: '',
      },
      { label: 'Factor, new / old', before: 1, after: s.scale, unit: '×' },
      ...(params.up
        ? [
            {
              label: 'Axis that points up in the file',
              before: character.source.upAxis ?? 'y',
              after: params.up,
              unit: '',
            },
          ]
        : []),
      ...(h === null || s.rotation !== STILL.rotation
        ? []
        : [
            {
              label: 'Height',
              before: inUnit(h, brief.unit),
              after: inUnit(h * s.scale, brief.unit),
              unit: brief.unit,
            },
          ]),
    ];
  },
  apply(character, params) {
    const s = between(character, params);
    const { source } = character;
    const said = { unit: true, upAxis: source.stated?.upAxis !== false || params.up !== undefined };
    if (
      s.scale === 1 &&
      s.rotation === STILL.rotation &&
      source.stated?.unit !== false &&
      (params.up === undefined || source.stated?.upAxis !== false)
    )
      throw new NothingToDo(`The file is read in ${unitWord(params.metres)} already.`);
    const moved = s.scale === 1 && s.rotation === STILL.rotation ? character : underSimilarity(character, s);
    return {
      ...moved,
      source: {
        ...source,
        unitMetres: params.metres,
        upAxis: params.up ?? source.upAxis ?? 'y',
        stated: said,
      },
    };
  },
  promises: (character, params) => ({
    similarity: between(character, params),
    meant: new Set(),
    holds: 'in every pose',
  }),
};

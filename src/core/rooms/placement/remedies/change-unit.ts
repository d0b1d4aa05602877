import { number, object } from 'yup';
import { choiceOf } from '../../../contracts/params';
import { NothingToDo, defineRemedy, promise } from '../../../contracts/remedy';
import { inUnit, unitWord } from '../../../contracts/units';
import { MOVED_ASPECTS } from '../moved';
import { type Axis, turnFromUp } from '../../../character/axes';
import type { Character } from '../../../character/model';
import { type Similarity, STILL, underSimilarity } from '../../../character/similarity';
import { quatConjugate, quatMultiply } from '../../../geometry/matrix';
import { bodyHeight, skeletonHeight } from '../survey';

type Params = { metres: number; up?: Axis };

function between(character: Character, { metres, up }: Params): Similarity {
  const { unitMetres, upAxis = 'y' } = character.source;
  const rotation =
    up && up !== upAxis ? quatMultiply(turnFromUp(up), quatConjugate(turnFromUp(upAxis))) : STILL.rotation;
  return { scale: metres / unitMetres, rotation, translation: [0, 0, 0] };
}

/**
 * Reads the file anew as if it had been made in another unit, or with another axis up: for files that do not
 * say, or say it wrongly.
 */
export const changeUnit = defineRemedy({
  id: 'change-unit',
  room: 'placement',
  title: 'Read in another unit',
  does: 'The file counts as made in this unit: everything takes the ratio of the two units about the world’s origin, and the file’s unit is noted.',
  params: object({
    metres: number().positive().required().meta({ quantity: 'fileUnit', label: 'The file’s unit' }),
    up: choiceOf<Axis>('Axis that points up', { x: 'x', y: 'y', z: 'z' }).meta({ when: { asksUp: 'true' } }),
  }),
  rows(character, _params, { unit }) {
    const { unitMetres, upAxis = 'y' } = character.source;
    const height = bodyHeight(character) ?? skeletonHeight(character);
    return [
      { label: 'The file’s unit', value: unitWord(unitMetres), unit: '' },
      { label: 'Axis that points up in the file', value: upAxis, unit: '' },
      ...(height === null ? [] : [{ label: 'Height', value: inUnit(height, unit), unit }]),
    ];
  },
  apply(character, params) {
    const similarity = between(character, params);
    const { source } = character;
    const said = { unit: true, upAxis: source.stated?.upAxis !== false || params.up !== undefined };
    if (
      similarity.scale === 1 &&
      similarity.rotation === STILL.rotation &&
      source.stated?.unit !== false &&
      (params.up === undefined || source.stated?.upAxis !== false)
    )
      throw new NothingToDo(`The file is read in ${unitWord(params.metres)} already.`);
    const moved =
      similarity.scale === 1 && similarity.rotation === STILL.rotation
        ? character
        : underSimilarity(character, similarity);
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
  promises: (character, params) =>
    promise([...MOVED_ASPECTS, 'source'], { similarity: between(character, params) }),
});

import { object } from 'yup';
import { choiceOf, factorOf, lengthOf } from '../../../contracts/params';
import { NothingToDo, RemedyError, type Row, defineRemedy, promise } from '../../../contracts/remedy';
import { inUnit } from '../../../contracts/units';
import { MOVED_ASPECTS } from '../moved';
import type { Character } from '../../../character/model';
import { meshNodesOf } from '../../../character/hierarchy';
import { STILL, underSimilarity } from '../../../character/similarity';
import { bodyHeight, boxOfNode, heightOf, skeletonHeight } from '../survey';

type By = 'height' | 'factor' | 'points';
type Params = {
  by: By;
  height?: number;
  factor?: number;
  measured?: number;
  wanted?: number;
};

const SMALLEST = 1e-5;
const LARGEST = 1e5;

/** The factor that is asked for: new / old. Throws RemedyError where it is none. */
function factorFor(character: Character, params: Params): number {
  const height = bodyHeight(character) ?? skeletonHeight(character);
  const { factor, ask } = {
    height: {
      factor: (params.height ?? Number.NaN) / (height ?? Number.NaN),
      ask: 'Say the height that is wanted, greater than 0.',
    },
    factor: { factor: params.factor ?? Number.NaN, ask: 'Say the factor, greater than 0.' },
    points: {
      factor: (params.wanted ?? Number.NaN) / (params.measured ?? Number.NaN),
      ask: 'Say the measured length and the one that is wanted, both greater than 0.',
    },
  }[params.by];
  if (params.by === 'height' && !height)
    throw new RemedyError('There is no body and no skeleton to measure; rescale by a factor instead.');
  if (!(factor > 0) || !Number.isFinite(factor)) throw new RemedyError(ask);
  if (factor < SMALLEST || factor > LARGEST)
    throw new RemedyError(
      `A factor of ${factor.toPrecision(3)} is beyond ${SMALLEST} to ${LARGEST}; check the units of both lengths.`,
    );
  return factor;
}

/**
 * Everything larger or smaller by one exact factor about the world's origin: points, skeleton, inverse binds,
 * clips and props together, so that every pose looks as before, only larger; node scales stay what they are.
 */
export const rescale = defineRemedy({
  id: 'rescale',
  room: 'placement',
  title: 'Rescale everything',
  does: 'Points, skeleton, inverse binds, clips and props take one factor about the world’s origin; every pose looks as before, only larger or smaller.',
  params: object({
    by: choiceOf<By>('Go by', { height: 'height', factor: 'factor', points: 'two lengths' }).default(
      'height',
    ),
    height: lengthOf('Height wanted').meta({ when: { by: 'height' } }),
    factor: factorOf('Factor, new / old').meta({ when: { by: 'factor' } }),
    measured: lengthOf('Length measured').meta({ when: { by: 'points' } }),
    wanted: lengthOf('Length wanted').meta({ when: { by: 'points' } }),
  }),
  rows(character, { by, height }, { unit }) {
    const body = bodyHeight(character);
    const skeleton = skeletonHeight(character);
    const tall = body ?? skeleton;
    const long = (label: string, metres: number | null): Row[] =>
      metres === null ? [] : [{ label, value: inUnit(metres, unit), unit }];
    const rigid = meshNodesOf(character).filter((i) => character.nodes[i].skin < 0);
    return [
      ...(by === 'height' && height && tall
        ? [{ label: 'Factor still to go, new / old', value: height / tall, unit: '×' }]
        : []),
      ...long('Height of the body', body),
      ...long('Height of the skeleton', skeleton),
      ...rigid
        .slice(0, 4)
        .flatMap((i) =>
          long(`Height of ${character.nodes[i].name || 'a mesh'}`, heightOf(boxOfNode(character, i))),
        ),
    ];
  },
  apply(character, params) {
    const scale = factorFor(character, params);
    // What single precision leaves of a height that was brought to the target before.
    if (Math.abs(scale - 1) < 1e-6) throw new NothingToDo('The factor is 1: it has that size already.');
    return underSimilarity(character, { ...STILL, scale });
  },
  promises: (character, params) =>
    promise(MOVED_ASPECTS, { similarity: { ...STILL, scale: factorFor(character, params) } }),
});

import { number, object, string } from 'yup';
import { type Remedy, NothingToDo, RemedyError } from '../../../contracts/types';
import { inUnit } from '../../../contracts/brief';
import type { Character } from '../../../character/model';
import { meshNodesOf } from '../../../character/hierarchy';
import { STILL, underSimilarity } from '../../../character/similarity';
import { bodyHeight, boxOfNode, heightOf, skeletonHeight } from '../survey';

type Params = {
  by: 'height' | 'factor' | 'points';
  height?: number;
  factor?: number;
  measured?: number;
  wanted?: number;
};

const SMALLEST = 1e-5;
const LARGEST = 1e5;

/** The factor that is asked for: new / old. Throws RemedyError where it is none. */
function factorOf(character: Character, p: Params): number {
  const height = bodyHeight(character) ?? skeletonHeight(character);
  const { factor, ask } = {
    height: {
      factor: (p.height ?? Number.NaN) / (height ?? Number.NaN),
      ask: 'Say the height that is wanted, greater than 0.',
    },
    factor: { factor: p.factor ?? Number.NaN, ask: 'Say the factor, greater than 0.' },
    points: {
      factor: (p.wanted ?? Number.NaN) / (p.measured ?? Number.NaN),
      ask: 'Say the measured length and the one that is wanted, both greater than 0.',
    },
  }[p.by];
  if (p.by === 'height' && !height)
    throw new RemedyError('There is no body and no skeleton to measure; rescale by a factor instead.');
  if (!(factor > 0) || !Number.isFinite(factor)) throw new RemedyError(ask);
  if (factor < SMALLEST || factor > LARGEST)
    throw new RemedyError(
      `A factor of ${factor.toPrecision(3)} is beyond ${SMALLEST} to ${LARGEST}; check the units of both lengths.`,
    );
  return factor;
}

/**
 * Everything larger or smaller by one exact factor about the world's origin: points, skeleton, inverse binds, clips and props
 * together, so that every pose looks as before, only larger; node scales stay what they are.
 */
export const rescale: Remedy<Params> = {
  id: 'rescale',
  room: 'placement',
  title: 'Rescale everything',
  does: 'Points, skeleton, inverse binds, clips and props take one factor about the world’s origin; every pose looks as before, only larger or smaller.',
  params: object({
    by: string<'height' | 'factor' | 'points'>().oneOf(['height', 'factor', 'points']).default('height'),
    height: number().positive(),
    factor: number().positive(),
    measured: number().positive(),
    wanted: number().positive(),
  }),
  preview(character, params, brief) {
    const f = factorOf(character, params);
    const before = bodyHeight(character);
    const skeleton = skeletonHeight(character);
    const long = (m: number | null) => (m === null ? '—' : inUnit(m, brief.unit));
    return [
      { label: 'Factor, new / old', before: 1, after: f, unit: '×' },
      { label: 'In percent', before: 100, after: f * 100, unit: '%' },
      ...(before === null
        ? []
        : [{ label: 'Height of the body', before: long(before), after: long(before * f), unit: brief.unit }]),
      ...(skeleton === null
        ? []
        : [
            {
              label: 'Height of the skeleton',
              before: long(skeleton),
              after: long(skeleton * f),
              unit: brief.unit,
            },
          ]),
      ...meshNodesOf(character)
        .filter((i) => character.nodes[i].skin < 0)
        .slice(0, 4)
        .map((i) => {
          const h = heightOf(boxOfNode(character, i)) ?? 0;
          return {
            label: `Height of ${character.nodes[i].name || 'a mesh'}`,
            before: long(h),
            after: long(h * f),
            unit: brief.unit,
          };
        }),
    ];
  },
  apply(character, params) {
    const scale = factorOf(character, params);
    // What single precision leaves of a height that was brought to the target before.
    if (Math.abs(scale - 1) < 1e-6) throw new NothingToDo('The factor is 1: it has that size already.');
    return underSimilarity(character, { ...STILL, scale });
  },
  promises: (character, params) => ({
    similarity: { ...STILL, scale: factorOf(character, params) },
    meant: new Set(),
    holds: 'in every pose',
  }),
};

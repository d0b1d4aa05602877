import { number, object } from 'yup';
import { LANDMARKS } from '../../../contracts/aspect';
import { type Found, type Measured, defineCheck } from '../../../contracts/check';
import { boneElements, theCharacter } from '../../../contracts/finding';
import { setting } from '../../../contracts/setting';
import { type LengthUnit, inUnit, unitSign } from '../../../contracts/units';
import { skeletonReading } from '../../../anatomy/looks';
import type { Character } from '../../../character/model';
import { distance } from '../../../geometry/matrix';
import type { TwinPair } from '../../../anatomy/mirrored-pairs';
import { mirroredPlace } from '../../../geometry/mirror';
import { type JudgedPair, type JudgedPairs, judgedPairs } from '../pairs';

/** How far the two sides may be from mirror images; null for a game that does not ask. */
const MIRROR = object({
  angle: number()
    .min(0)
    .required()
    .meta(
      setting(
        'Twins turned otherwise by',
        'angle',
        'most',
        'Degrees from what the rest of their limb follows.',
      ),
    ),
  place: number()
    .min(0)
    .required()
    .meta(
      setting(
        'Twins standing apart by',
        'length',
        'most',
        'From where the mirror image of the other one is.',
      ),
    ),
})
  .nullable()
  .default(null)
  .meta({
    label: 'Both sides',
    hint: 'How far left and right may be from mirror images; off where that is free.',
  });

/** Where a larger share of the pairs stands elsewhere the figure is held so, and its joints are not wrong. */
const POSED = 0.25;

/** Left and right as mirror images: places of joints, and axes by the rule that most of a limb follows. */
export const mirroredPairsCheck = defineCheck({
  id: 'mirrored-pairs',
  room: 'skeleton',
  title: 'Left and right as mirror images',
  why: 'Motions are mirrored by giving one side’s turns to the other: a twin with other axes turns another way, and one at another place bends elsewhere.',
  kinds: ['two-legged', 'four-legged', 'winged', 'finned'],
  settings: object({ mirror: MIRROR }),
  reads: [...LANDMARKS],
  measures(character): Readonly<Record<string, Measured>> {
    const judged = judgedPairs(character);
    if (!judged) return { 'mirror.angle': null, 'mirror.place': null };
    const most = (of: (pair: JudgedPair) => number) =>
      judged.pairs.reduce((max, pair) => Math.max(max, of(pair)), 0);
    return {
      'mirror.angle': Math.ceil(most(({ rule, deviation }) => (rule ? deviation.angle : 0))),
      'mirror.place': most(({ deviation }) => deviation.apart),
    };
  },
  run(character, { mirror, unit }) {
    if (!mirror) return [];
    const judged = judgedPairs(character);
    if (!judged) return [untold(character, 'no pair of bones is told by the names', [])];
    if (skeletonReading(judged.skeleton).isRebuilt)
      return [untold(character, 'the joints hang side by side, and not on each other', [])];
    const lawless = judged.pairs.filter(({ rule }) => !rule);
    const turned = judged.pairs.filter(({ rule, deviation }) => rule && deviation.angle > mirror.angle);
    const apart = judged.pairs.filter(({ deviation }) => deviation.apart > mirror.place);
    const isPosed = apart.length > POSED * judged.pairs.length;
    const misplaced = isPosed ? [] : apart.filter((pair) => isMisplaced(judged, pair, mirror.place));
    const held = apart.filter((pair) => !misplaced.includes(pair));
    return [
      ...(turned.length > 0 ? [turnedFinding(character, turned, mirror.angle)] : []),
      ...(misplaced.length > 0 ? [apartFinding(character, misplaced, mirror.place, unit)] : []),
      ...(held.length > 0
        ? [untold(character, isPosed ? POSED_OVERALL : heldOtherwise(held), held, 'posed')]
        : []),
      ...(lawless.length > 0
        ? [
            untold(
              character,
              'the axes of these pairs follow no rule that most of a limb follows',
              lawless,
              'lawless',
            ),
          ]
        : []),
    ];
  },
});

/** Lengths of a bone at the end of its limb that differ by no more than this share are the same. */
const SAME_LENGTH = 0.03;
/** Nor where they differ by less than this share of how far a joint may be off. */
const OF_MOST = 1 / 3;

/**
 * Whether a joint was put somewhere else, and is not only held otherwise: bones keep their lengths where a limb is posed,
 * and what hangs on them goes along; where the next joint is at its mirror image again, this one alone is off.
 */
function isMisplaced(
  { skeleton, plane, pairs }: JudgedPairs,
  { left, right, pair }: JudgedPair,
  most: number,
): boolean {
  const { bones } = skeleton;
  const lengthsOf = (from: TwinPair, to: TwinPair) =>
    [0, 1].map((side) => distance(bones[from[side]].place, bones[to[side]].place)) as [number, number];
  const unlike = ([one, other]: readonly [number, number]) => Math.abs(one - other);
  const [above, otherAbove] = pair.map((i) => bones[i].parent);
  const own = above >= 0 && otherAbove >= 0 ? lengthsOf([above, otherAbove], pair) : null;
  const below = pairs.filter((next) => next.left.parent === left.node && next.right.parent === right.node);
  if (below.length === 0)
    return own !== null && unlike(own) > Math.max(SAME_LENGTH * Math.max(...own), most * OF_MOST);
  const isBack = ({ pair: [a, b] }: JudgedPair) =>
    distance(mirroredPlace(plane, bones[a].place), bones[b].place) <= most;
  const isLonger = (lengths: readonly [number, number]) => unlike(lengths) > most;
  return (
    (own !== null && isLonger(own)) ||
    below.some((next) => isBack(next) || isLonger(lengthsOf(pair, next.pair)))
  );
}

const POSED_OVERALL = 'it stands otherwise on one side, so that places say nothing';

/** Why the places of some pairs say nothing. */
function heldOtherwise(pairs: readonly JudgedPair[]): string {
  const names = pairs.slice(0, 2).map(({ right }) => `“${right.name}”`);
  const more = pairs.length > names.length ? ` and ${pairs.length - names.length} more` : '';
  return `one side is held otherwise at ${names.join(', ')}${more}, with bones of the same lengths, so that places say nothing there`;
}

/** Told, so that nobody takes what was not examined for what is right. */
const untold = (character: Character, why: string, pairs: readonly JudgedPair[], mark = 'untold'): Found => ({
  mark,
  gravity: 'note',
  subject: theCharacter(character),
  unit: 'pairs',
  message: `Left and right were not held against each other: ${why}`,
  measured: 'not told',
  expected: 'mirror images',
  count: Math.max(1, pairs.length),
  elements: pairs.length > 0 ? [boneElements(bonesOfPairs(pairs))] : [],
});

/** Of pairs the one that is farthest off; of several that are nearly so the one that the others hang on. */
function worstBy(pairs: readonly JudgedPair[], of: (pair: JudgedPair) => number): JudgedPair {
  const most = Math.max(...pairs.map(of));
  return pairs.find((pair) => of(pair) > 0.95 * most) ?? pairs[0];
}

const bonesOfPairs = (pairs: readonly JudgedPair[]) =>
  pairs.flatMap(({ left, right }) => [left.node, right.node]);

function turnedFinding(character: Character, pairs: readonly JudgedPair[], allowed: number): Found {
  const worst = worstBy(pairs, ({ deviation }) => deviation.angle);
  const { deviation, left, right } = worst;
  const more = pairs.length > 1 ? `, and ${pairs.length - 1} more pairs` : '';
  return {
    mark: 'axes',
    gravity: 'worth',
    subject: theCharacter(character),
    unit: '°',
    message: `“${right.name}” has other axes than its twin “${left.name}” and the rest of the limb call for${more}`,
    measured: Math.round(deviation.angle),
    expected: `within ${allowed}°`,
    count: pairs.length,
    evidence: [
      ...(['x', 'y', 'z'] as const).map((axis, k) => ({
        label: `Turned about ${axis}`,
        now: Number(deviation.turned[k].toFixed(1)),
        brief: 0,
        unit: '°',
      })),
      { label: 'Pairs concerned', now: pairs.length, brief: 0, unit: 'pairs' },
    ],
    elements: [boneElements(bonesOfPairs(pairs))],
    remedies: [{ id: 'match-twins', params: { bones: pairs.map((pair) => pair.right.node), what: 'axes' } }],
  };
}

function apartFinding(
  character: Character,
  pairs: readonly JudgedPair[],
  allowed: number,
  unit: LengthUnit,
): Found {
  const shown = (metres: number) => inUnit(metres, unit);
  const worst = worstBy(pairs, ({ deviation }) => deviation.apart);
  const more = pairs.length > 1 ? `, and ${pairs.length - 1} more pairs` : '';
  return {
    mark: 'places',
    gravity: 'worth',
    subject: theCharacter(character),
    unit: unitSign(unit),
    message: `“${worst.right.name}” stands elsewhere than the mirror image of “${worst.left.name}”${more}`,
    measured: shown(worst.deviation.apart),
    expected: shown(allowed),
    count: pairs.length,
    evidence: [
      {
        label: 'From its mirror image',
        now: shown(worst.deviation.apart),
        brief: shown(allowed),
        unit: unitSign(unit),
      },
      { label: 'Pairs concerned', now: pairs.length, brief: 0, unit: 'pairs' },
    ],
    elements: [boneElements(bonesOfPairs(pairs))],
    remedies: [
      { id: 'match-twins', params: { bones: pairs.map((pair) => pair.right.node), what: 'places' } },
    ],
  };
}

import { type InferType, number, object } from 'yup';
import {
  ALONG,
  type Along,
  type BoneAxes,
  HINGES,
  type Hinge,
  alongAxis,
  boneAxesOf,
  hingeAxis,
} from '../../../anatomy/bone-axes';
import { degreesBetween } from '../../../anatomy/bearing';
import type { Character } from '../../../character/model';
import { LANDMARKS } from '../../../contracts/aspect';
import { type Found, type Measured, defineCheck } from '../../../contracts/check';
import { boneElements, theCharacter } from '../../../contracts/finding';
import { choiceOf } from '../../../contracts/params';
import { setting } from '../../../contracts/setting';

/** How the own axes of bones lie; null for a game that does not ask. */
const AXES = object({
  along: choiceOf<Along>('Along the bone runs', ALONG)
    .required()
    .meta({ bound: 'is', hint: 'The axis of a bone that points to the joint that it goes on to.' }),
  hinge: choiceOf<Hinge>('Knees and elbows bend about', HINGES)
    .nullable()
    .default(null)
    .meta({ bound: 'is', hint: 'Read off joints that are bent a little; off where it is free.' }),
  angle: number()
    .min(0)
    .required()
    .meta(setting('Axes off by', 'angle', 'most', 'So far an axis may lie from where it should.')),
})
  .nullable()
  .default(null)
  .meta({ label: 'Axes of bones', hint: 'How the own axes of bones lie; off where that is free.' });

type AxesWanted = NonNullable<InferType<typeof AXES>>;

const alongOff = ({ along }: BoneAxes, word: Along) => degreesBetween(along, alongAxis(word, along));
const hingeOff = ({ hinge }: BoneAxes, word: Hinge | null) =>
  hinge && word ? degreesBetween(hinge, hingeAxis(word, hinge)) : 0;

/** The word that fits most of some bones best: the one with the least sum of angles, each counted up to a right angle. */
function bestWord<W extends string>(
  words: readonly W[],
  bones: readonly BoneAxes[],
  off: (bone: BoneAxes, word: W) => number,
): W {
  const sum = (word: W) => bones.reduce((total, bone) => total + Math.min(90, off(bone, word)), 0);
  return words.reduce((best, word) => (sum(word) < sum(best) - 1e-9 ? word : best));
}

/** The own axes of bones against the brief's: which runs along, and about which knees and elbows bend. */
export const boneAxesCheck = defineCheck({
  id: 'bone-axes',
  room: 'skeleton',
  title: 'Axes of bones',
  leadsTo: 'crosswalk',
  why: 'Aims, twists and solvers turn a bone about its own axes: one that lies otherwise twists where it should bend.',
  kinds: ['two-legged', 'four-legged', 'winged', 'finned', 'hand'],
  settings: object({ axes: AXES }),
  reads: [...LANDMARKS],
  measures(character): Readonly<Record<string, Measured>> {
    const bones = boneAxesOf(character);
    if (bones.length === 0) return { 'axes.along': null, 'axes.angle': null };
    const bent = bones.filter(({ hinge }) => hinge);
    const along = bestWord(Object.keys(ALONG) as Along[], bones, alongOff);
    const hinge = bent.length > 0 ? bestWord(Object.keys(HINGES) as Hinge[], bent, hingeOff) : null;
    const worst = Math.max(...bones.map((bone) => Math.max(alongOff(bone, along), hingeOff(bone, hinge))));
    return { 'axes.along': along, 'axes.hinge': hinge, 'axes.angle': Math.ceil(worst) };
  },
  run(character, { axes }) {
    if (!axes) return [];
    const bones = boneAxesOf(character);
    const off = bones.filter((bone) => alongOff(bone, axes.along) > axes.angle);
    const turned = bones.filter((bone) => !off.includes(bone) && hingeOff(bone, axes.hinge) > axes.angle);
    return [
      ...(off.length > 0 ? [alongFinding(character, off, bones.length, axes)] : []),
      ...(turned.length > 0 ? [hingeFinding(character, turned, axes)] : []),
    ];
  },
});

function namesOf(character: Character, bones: readonly BoneAxes[]): string {
  const names = bones.slice(0, 3).map(({ node }) => `“${character.nodes[node].name}”`);
  return bones.length > names.length
    ? `${names.join(', ')} and ${bones.length - names.length} more`
    : names.join(', ');
}

const repair = (bones: readonly BoneAxes[], { along, hinge }: AxesWanted) => [
  { id: 'align-axes', params: { bones: bones.map(({ node }) => node), along, hinge: hinge ?? 'as-is' } },
];

function alongFinding(
  character: Character,
  off: readonly BoneAxes[],
  count: number,
  axes: AxesWanted,
): Found {
  const worst = Math.max(...off.map((bone) => alongOff(bone, axes.along)));
  const what = `${off.length} of ${count} bones do not lie along their ${ALONG[axes.along]}`;
  const evidence = { label: `${ALONG[axes.along]} to the bone, most`, now: worst };
  return axesFinding(character, off, axes, { mark: 'along', what, noun: 'Bones off', evidence });
}

function hingeFinding(character: Character, off: readonly BoneAxes[], axes: AxesWanted): Found {
  const word = axes.hinge as Hinge;
  const worst = Math.max(...off.map((bone) => hingeOff(bone, word)));
  const many = off.length > 1 ? 'joints bend' : 'joint bends';
  const what = `${off.length} ${many} about another axis than ${HINGES[word]}`;
  const evidence = { label: `${HINGES[word]} to the hinge, most`, now: worst };
  return axesFinding(character, off, axes, { mark: 'hinge', what, noun: 'Knees and elbows off', evidence });
}

interface Words {
  readonly mark: string;
  readonly what: string;
  readonly noun: string;
  readonly evidence: { readonly label: string; readonly now: number };
}

const axesFinding = (
  character: Character,
  off: readonly BoneAxes[],
  axes: AxesWanted,
  { mark, what, noun, evidence }: Words,
): Found => ({
  mark,
  gravity: 'worth',
  subject: theCharacter(character),
  unit: 'bones',
  elements: [boneElements(off.map(({ node }) => node))],
  count: off.length,
  message: `${what}, up to ${evidence.now.toFixed(0)}° off: ${namesOf(character, off)}`,
  measured: off.length,
  expected: 0,
  evidence: [
    { label: noun, now: off.length, brief: 0, unit: 'bones' },
    { ...evidence, brief: `≤ ${axes.angle}`, unit: '°' },
  ],
  remedies: repair(off, axes),
});

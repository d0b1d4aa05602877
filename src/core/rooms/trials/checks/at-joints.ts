/** What joints do to the flesh that bends with them: volume, stretch, faces turned over, points torn away. */
import { object } from 'yup';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { type Check, defineCheck } from '../../../contracts/check';
import type { Elements, Gravity, RemedyCall } from '../../../contracts/finding';
import { TRIALS, type TrialLimits } from '../../../contracts/trials';
import type { Character } from '../../../character/model';
import { type Concerns, polygonsOf, pressed, stretchedBeyond, tornBeyond, turnedOver } from '../concerned';
import { beyondLimit, inWords, jointFinding, trialsOf, waysToSoften } from '../findings';
import { thicknessAt } from '../joint-radius';
import { waysToFree } from '../wrong-bones';
import type { JointTrial, TrialSample } from '../sweep';

/** What trials follow from. */
export const READS = [...SHAPE_AT_REST, 'names', 'polygons', 'kind'] as const;

const percent = (share: number): number => Math.round(share * 100);
const times = (factor: number): string => `${Math.round(factor * 10) / 10} ×`;

/** Far below its limit a joint has collapsed: nobody would let it pass. */
const COLLAPSED = 0.6;

/** Trials of joints at which nothing worse is told already: what points that fly off do else comes of that. */
function apartFrom(
  trials: readonly JointTrial[],
  isWorse: (sample: TrialSample) => boolean,
): readonly JointTrial[] {
  const told = new Set(
    trials.filter(({ samples }) => samples.some(isWorse)).map(({ motion }) => motion.bone),
  );
  return trials.filter(({ motion }) => !told.has(motion.bone));
}

/** A figure that a joint is held against a limit by, and what is said where it passes that. */
interface JointFigure {
  readonly valueOf: (sample: TrialSample) => number | null;
  readonly isWorse: (value: number, than: number) => boolean;
  readonly limitOf: (limits: TrialLimits) => number;
  /** Where a sample shows something worse, which another check tells: of that joint this figure says nothing more. */
  readonly isToldElse?: (sample: TrialSample, limits: TrialLimits) => boolean;
  readonly tell: (value: number) => number | string;
  readonly unit: string;
  /** What of the surface is concerned. */
  readonly concerns: (limit: number, thickness: number) => Concerns;
  readonly gravityOf: (value: number, limit: number) => Gravity;
  readonly say: (name: string, value: number, limit: number, pose: string) => string;
  readonly waysOut?: (character: Character, elements: readonly Elements[]) => readonly RemedyCall[];
}

/** A check of one figure at every joint: the motion in which each is worst, with the polygons that it comes from. */
const jointCheck = (
  words: Pick<Check, 'id' | 'title' | 'why' | 'advice' | 'waiverReasons' | 'leadsTo'>,
  figure: JointFigure,
) =>
  defineCheck({
    ...words,
    room: 'trials',
    isInMotion: true,
    settings: object({ trials: TRIALS }),
    reads: READS,
    run(character, { trials: limits }) {
      if (!limits) return [];
      const { valueOf, isWorse, tell, unit, isToldElse } = figure;
      const limit = figure.limitOf(limits);
      const all = trialsOf(character, limits);
      const trials = isToldElse ? apartFrom(all, (sample) => isToldElse(sample, limits)) : all;
      return beyondLimit(trials, { valueOf, isWorse, limit }).map((beyond) => {
        const [{ trial, sample, value }] = beyond;
        const { motion } = trial;
        const concerns = figure.concerns(limit, thicknessAt(character, motion.bone));
        const elements = polygonsOf(character, motion, sample.degrees, concerns);
        const freed = figure.waysOut?.(character, elements) ?? [];
        return jointFinding(character, beyond, {
          gravity: figure.gravityOf(value, limit),
          message: figure.say(
            `“${character.nodes[motion.bone].name}”`,
            value,
            limit,
            inWords(motion, sample.degrees),
          ),
          tell,
          limit,
          unit,
          elements,
          // Where no bone pulls what is not its own, the hinge is too hard or too soft.
          remedies: freed.length > 0 ? freed : waysToSoften(character, motion),
        });
      });
    },
  });

/** Limbs keep their volume where they bend. */
export const volumeLostCheck = jointCheck(
  {
    id: 'volume-lost',
    title: 'Volume lost at joints',
    why: 'A limb that loses much of its volume where it bends looks like a kinked hose, and one that is twisted like a sweet in its paper.',
    advice:
      'Spread the bend over more bones, or let the weights about the joint change over another width, in Weights.',
    waiverReasons: ['It never bends so far in the game.', 'A corrective shape fills it in the engine.'],
    leadsTo: 'weights',
  },
  {
    valueOf: ({ volume }) => volume,
    isWorse: (value, than) => value < than,
    limitOf: ({ volume }) => volume,
    tell: percent,
    unit: '%',
    concerns: () => pressed,
    gravityOf: (value, limit) => (value < COLLAPSED * limit ? 'stops' : 'worth'),
    say: (name, value, limit, pose) =>
      `${name} keeps ${percent(value)} % of its volume (${pose}); the brief wants ${percent(limit)} %`,
  },
);

/** Skin is not drawn out like rubber. */
export const overstretchedCheck = jointCheck(
  {
    id: 'overstretched',
    title: 'Skin stretched too far at joints',
    why: 'Where skin is drawn out to several times its length its texture smears, and mostly some of its points go with a bone that they should not.',
    waiverReasons: ['It never bends so far in the game.', 'It is covered where it stretches.'],
  },
  {
    valueOf: ({ stretch }) => stretch,
    isWorse: (value, than) => value > than,
    limitOf: ({ stretch }) => stretch,
    isToldElse: ({ torn }, limits) => torn > limits.torn,
    tell: times,
    unit: '',
    concerns: stretchedBeyond,
    gravityOf: (value, limit) => (value > 2 * limit ? 'stops' : 'worth'),
    say: (name, value, limit, pose) =>
      `At ${name} a twentieth of the skin is stretched ${times(value)} or more (${pose}); the brief allows ${times(limit)}`,
  },
);

/** Faces do not turn their inside out. */
export const turnedOverCheck = jointCheck(
  {
    id: 'turned-inside-out',
    title: 'Faces that turn inside out',
    why: 'A face that is turned over is not drawn, or drawn dark: it shows as a hole in the crease.',
    waiverReasons: ['It lies within the crease, where nobody sees it.'],
  },
  {
    valueOf: ({ inverted }) => inverted,
    isWorse: (value, than) => value > than,
    limitOf: ({ inverted }) => inverted,
    isToldElse: ({ torn, stretch }, limits) => torn > limits.torn || stretch > limits.stretch,
    tell: percent,
    unit: '%',
    concerns: () => turnedOver,
    gravityOf: () => 'worth',
    say: (name, value, limit, pose) =>
      `At ${name} ${percent(value)} % of what bends turns inside out (${pose}); the brief allows ${percent(limit)} %`,
  },
);

/** Points stay with their neighbours. */
export const fliesOffCheck = jointCheck(
  {
    id: 'flies-off',
    title: 'Points that fly off',
    why: 'A point that stays behind, or goes along with a bone far away, draws its faces out into spikes as soon as that bone moves.',
    advice:
      'Open Weights and choose the points that fly off: the page Who pulls lists all bones that pull them.',
    leadsTo: 'weights',
  },
  {
    valueOf: ({ torn }) => torn,
    isWorse: (value, than) => value > than,
    limitOf: ({ torn }) => torn,
    tell: times,
    unit: '',
    concerns: (limit, thickness) => tornBeyond(limit * thickness),
    gravityOf: () => 'stops',
    say: (name, value, _limit, pose) =>
      `At ${name} points are torn apart by ${times(value)} the thickness of the limb (${pose})`,
    waysOut: waysToFree,
  },
);

/** What joints do to the flesh that bends with them: volume, stretch, faces turned over, points torn away. */
import { object } from 'yup';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { defineCheck } from '../../../contracts/check';
import { TRIALS } from '../../../contracts/trials';
import { pressed, stretchedBeyond, polygonsOf, tornBeyond, turnedOver } from '../concerned';
import { beyondLimit, inWords, jointFinding, trialsOf, waysToSoften } from '../findings';
import { thicknessAt } from '../joint-radius';
import { waysToFree } from '../wrong-bones';
import type { JointTrial, TrialSample } from '../sweep';

const settings = object({ trials: TRIALS });

/** What trials follow from. */
export const READS = [...SHAPE_AT_REST, 'names', 'polygons', 'kind'] as const;

const percent = (share: number): number => Math.round(share * 100);
const times = (factor: number): string => `${Math.round(factor * 10) / 10} ×`;

/** Far below its limit a joint has collapsed: nobody would let it pass. */
const COLLAPSED = 0.6;

const isLess = (value: number, than: number): boolean => value < than;
const isMore = (value: number, than: number): boolean => value > than;

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

/** Limbs keep their volume where they bend. */
export const volumeLostCheck = defineCheck({
  id: 'volume-lost',
  room: 'trials',
  title: 'Volume lost at joints',
  why: 'A limb that loses much of its volume where it bends looks like a kinked hose, and one that is twisted like a sweet in its paper.',
  advice:
    'Spread the bend over more bones, or let the weights about the joint change over another width, in Weights.',
  waiverReasons: ['It never bends so far in the game.', 'The engine skins by dual quaternions.'],
  leadsTo: 'weights',
  isInMotion: true,
  settings,
  reads: READS,
  run(character, { trials }) {
    if (!trials) return [];
    const limit = trials.volume;
    return beyondLimit(trialsOf(character, trials), {
      valueOf: ({ volume }) => volume,
      isWorse: isLess,
      limit,
    }).map((all) => {
      const [{ trial, sample, value }] = all;
      const { name } = character.nodes[trial.motion.bone];
      return jointFinding(character, all, {
        gravity: value < COLLAPSED * limit ? 'stops' : 'worth',
        message: `“${name}” keeps ${percent(value)} % of its volume (${inWords(trial.motion, sample.degrees)}); the brief wants ${percent(limit)} %`,
        tell: percent,
        limit,
        unit: '%',
        elements: polygonsOf(character, trial.motion, sample.degrees, pressed),
        remedies: waysToSoften(character, trial.motion),
      });
    });
  },
});

/** Skin is not drawn out like rubber. */
export const overstretchedCheck = defineCheck({
  id: 'overstretched',
  room: 'trials',
  title: 'Skin stretched too far at joints',
  why: 'Where skin is drawn out to several times its length its texture smears, and mostly some of its points go with a bone that they should not.',
  waiverReasons: ['It never bends so far in the game.', 'It is covered where it stretches.'],
  isInMotion: true,
  settings,
  reads: READS,
  run(character, { trials }) {
    if (!trials) return [];
    const limit = trials.stretch;
    const whole = apartFrom(trialsOf(character, trials), ({ torn }) => torn > trials.torn);
    return beyondLimit(whole, {
      valueOf: ({ stretch }) => stretch,
      isWorse: isMore,
      limit,
    }).map((all) => {
      const [{ trial, sample, value }] = all;
      const { name } = character.nodes[trial.motion.bone];
      return jointFinding(character, all, {
        gravity: value > 2 * limit ? 'stops' : 'worth',
        message: `At “${name}” a twentieth of the skin is stretched ${times(value)} or more (${inWords(trial.motion, sample.degrees)}); the brief allows ${times(limit)}`,
        tell: times,
        limit,
        unit: '',
        elements: polygonsOf(character, trial.motion, sample.degrees, stretchedBeyond(limit)),
        remedies: waysToSoften(character, trial.motion),
      });
    });
  },
});

/** Faces do not turn their inside out. */
export const turnedOverCheck = defineCheck({
  id: 'turned-inside-out',
  room: 'trials',
  title: 'Faces that turn inside out',
  why: 'A face that is turned over is not drawn, or drawn dark: it shows as a hole in the crease.',
  waiverReasons: ['It lies within the crease, where nobody sees it.'],
  isInMotion: true,
  settings,
  reads: READS,
  run(character, { trials }) {
    if (!trials) return [];
    const limit = trials.inverted;
    const whole = apartFrom(
      trialsOf(character, trials),
      ({ torn, stretch }) => torn > trials.torn || stretch > trials.stretch,
    );
    return beyondLimit(whole, {
      valueOf: ({ inverted }) => inverted,
      isWorse: isMore,
      limit,
    }).map((all) => {
      const [{ trial, sample, value }] = all;
      const { name } = character.nodes[trial.motion.bone];
      return jointFinding(character, all, {
        gravity: 'worth',
        message: `At “${name}” ${percent(value)} % of what bends turns inside out (${inWords(trial.motion, sample.degrees)}); the brief allows ${percent(limit)} %`,
        tell: percent,
        limit,
        unit: '%',
        elements: polygonsOf(character, trial.motion, sample.degrees, turnedOver),
        remedies: waysToSoften(character, trial.motion),
      });
    });
  },
});

/** Points stay with their neighbours. */
export const fliesOffCheck = defineCheck({
  id: 'flies-off',
  room: 'trials',
  title: 'Points that fly off',
  why: 'A point that stays behind, or goes along with a bone far away, draws its faces out into spikes as soon as that bone moves.',
  advice:
    'Open Weights and choose the points that fly off: the page Who pulls lists all bones that pull them.',
  leadsTo: 'weights',
  isInMotion: true,
  settings,
  reads: READS,
  run(character, { trials }) {
    if (!trials) return [];
    const limit = trials.torn;
    return beyondLimit(trialsOf(character, trials), {
      valueOf: ({ torn }) => torn,
      isWorse: isMore,
      limit,
    }).map((all) => {
      const [{ trial, sample, value }] = all;
      const { bone } = trial.motion;
      const gap = limit * thicknessAt(character, bone);
      const elements = polygonsOf(character, trial.motion, sample.degrees, tornBeyond(gap));
      const freed = waysToFree(character, elements);
      return jointFinding(character, all, {
        gravity: 'stops',
        message: `At “${character.nodes[bone].name}” points are torn apart by ${times(value)} the thickness of the limb (${inWords(trial.motion, sample.degrees)})`,
        tell: times,
        limit,
        unit: '',
        elements,
        // Where no bone pulls what is not its own, the hinge is too hard.
        remedies: freed.length > 0 ? freed : waysToSoften(character, trial.motion),
      });
    });
  },
});

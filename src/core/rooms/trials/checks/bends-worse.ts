import { object } from 'yup';
import { defineCheck } from '../../../contracts/check';
import { type Evidence, theNode } from '../../../contracts/finding';
import { TRIALS } from '../../../contracts/trials';
import { inWords, poseOf, waysToSoften } from '../findings';
import { type WorseMotion, SEEN_STRETCH, SEEN_VOLUME, worseSince } from '../handed';
import { READS } from './at-joints';

/** Motions that are told one by one, at most. */
const TOLD = 6;

const percent = (share: number | null): string => `${Math.round((share ?? 0) * 100)} %`;
const times = (factor: number): string => `${factor.toFixed(1)} ×`;

const nowOf = ({ figure, sample }: WorseMotion): string =>
  figure === 'volume' ? percent(sample.volume) : times(sample.stretch);
const beforeOf = ({ figure, before }: WorseMotion): string =>
  figure === 'volume' ? percent(before.volume) : times(before.stretch);

/** A figure that is handed over again bends no worse than the receiver has it. */
export const bendsWorseCheck = defineCheck({
  id: 'bends-worse',
  room: 'trials',
  title: 'Joints that bend worse than handed over',
  why: 'The receiver has clips and costumes that were made on what was handed over: a joint that now loses more volume, or draws its skin out further, breaks what stood before, although it may be within every limit.',
  advice:
    'Hold the revision against the one that was handed over, in motion: what differs most stands first there.',
  waiverReasons: ['It is meant: the joint was made anew.', 'The receiver knows of it.'],
  isInMotion: true,
  isSinceHandedOver: true,
  settings: object({ trials: TRIALS }),
  reads: READS,
  run(character, { trials }, handed) {
    if (!trials || !handed) return [];
    return worseSince(character, trials, handed).map((all) => {
      const [first] = all;
      const { motion } = first.trial;
      const name = `“${character.nodes[motion.bone].name}”`;
      const pose = inWords(motion, first.sample.degrees);
      return {
        gravity: 'worth',
        subject: theNode(character, motion.bone),
        message:
          first.figure === 'volume'
            ? `${name} keeps ${nowOf(first)} of its volume (${pose}); when it was handed over it kept ${beforeOf(first)}`
            : `At ${name} a twentieth of the skin is stretched ${nowOf(first)} or more (${pose}); when it was handed over it was ${beforeOf(first)}`,
        measured: nowOf(first),
        expected:
          first.figure === 'volume'
            ? `${beforeOf(first)} ± ${percent(SEEN_VOLUME)}`
            : `${beforeOf(first)} ± ${SEEN_STRETCH}`,
        count: 1,
        elements: [{ kind: 'bone', node: motion.bone, ids: Uint32Array.of(motion.bone) }],
        evidence: all.slice(0, TOLD).map((one): Evidence => ({
          label: `${one.figure} beside what was handed over, ${inWords(one.trial.motion, one.sample.degrees)}`,
          now: nowOf(one),
          brief: beforeOf(one),
          unit: '',
        })),
        remedies: waysToSoften(character, motion),
        pose: poseOf(character, motion, first.sample.degrees),
      };
    });
  },
});

import { object } from 'yup';
import { type Found, defineCheck } from '../../../contracts/check';
import { type Evidence, theCharacter, theNode } from '../../../contracts/finding';
import type { HandedMotion } from '../../../contracts/handed-motion';
import { SKINNING, TRIALS } from '../../../contracts/trials';
import type { Character } from '../../../character/model';
import { inWords, poseOf, waysToSoften } from '../findings';
import { type WorseMotion, SEEN_STRETCH, SEEN_VOLUME, heldAgainst } from '../handed';
import { READS } from './at-joints';

/** Motions that are told one by one, at most. */
const TOLD = 6;

const percent = (share: number | null): string => `${Math.round((share ?? 0) * 100)} %`;
const times = (factor: number): string => `${factor.toFixed(1)} ×`;

const nowOf = ({ figure, sample }: WorseMotion): string =>
  figure === 'volume' ? percent(sample.volume) : times(sample.stretch);
const beforeOf = ({ figure, before }: WorseMotion): string =>
  figure === 'volume' ? percent(before.volume) : times(before.stretch);

/** The worst that it may be, to be no worse than it was. */
const allowedOf = ({ figure, before }: WorseMotion): string =>
  figure === 'volume' ? percent((before.volume ?? 0) - SEEN_VOLUME) : times(before.stretch + SEEN_STRETCH);

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
    const { worse, unheld } = heldAgainst(character, trials, handed);
    const found = worse.map((all): Found => {
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
        expected: allowedOf(first),
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
    return unheld > 0 ? [...found, notHeld(character, unheld, handed)] : found;
  },
});

/** What of the motions of then says nothing now is told: silence would pass for “as it was”. */
const notHeld = (character: Character, unheld: number, { rows, skinning }: HandedMotion): Found => ({
  gravity: 'note',
  subject: theCharacter(character),
  message: `${unheld} of ${rows.length} motions that were tried when it was handed over are not held against it: they end elsewhere now, are not skinned ${SKINNING[skinning]} any more, or their bone is gone or shares its name`,
  measured: rows.length - unheld,
  expected: rows.length,
  count: unheld,
  mark: 'not-held',
});

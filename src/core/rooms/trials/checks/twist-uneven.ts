import { object } from 'yup';
import { type Found, defineCheck } from '../../../contracts/check';
import { weightOfNodes } from '../../../character/hierarchy';
import { theNode } from '../../../contracts/finding';
import { TRIALS } from '../../../contracts/trials';
import { inWords, poseOf } from '../findings';
import { triedMotions } from '../motions';
import { twistSpreadOf } from '../twist-spread';
import { READS } from './at-joints';

/** Where an arm has twist bones its skin turns evenly from the elbow to the hand. */
export const twistUnevenCheck = defineCheck({
  id: 'twist-uneven',
  room: 'trials',
  title: 'Twist spread along the arm',
  why: 'Twist bones are there so that an arm turns all along, as in life. Where the skin hardly goes with them the whole turn falls on the wrist, or on a sleeve’s hem.',
  advice:
    'Let the weights pass from the arm to its twist bones and on to the hand little by little, in Weights.',
  waiverReasons: [
    'It is a glove or a guard that turns as one with the hand.',
    'The engine does not drive the twist bones.',
  ],
  leadsTo: 'weights',
  isInMotion: true,
  settings: object({ trials: TRIALS }),
  reads: [...READS, 'shading', 'sets', 'carried'],
  run(character, { trials }) {
    if (!trials) return [];
    const weight = weightOfNodes(character);
    const byHand = new Map<number, Found & { readonly off: number }>();
    for (const motion of triedMotions(character, trials)) {
      // Without twist bones nothing could spread it; one that pulls nothing at all is told in Weights.
      const isSpread = motion.joints.some(({ bone }) => bone !== motion.bone && weight[bone] > 0);
      const spread = isSpread ? twistSpreadOf(character, motion) : null;
      if (!spread || spread.off <= trials.twist || spread.off <= (byHand.get(motion.bone)?.off ?? 0))
        continue;
      const { off, at, node } = spread;
      const bones = motion.joints.map(({ bone }) => bone);
      byHand.set(motion.bone, {
        off,
        gravity: 'worth',
        subject: theNode(character, motion.bone),
        message: `When “${character.nodes[motion.bone].name}” turns, “${character.nodes[node].name}” is up to ${Math.round(off)}° off an even twist along the arm (${inWords(motion, motion.degrees)}); the brief allows ${Math.round(trials.twist)}°`,
        measured: Math.round(off),
        expected: Math.round(trials.twist),
        unit: '°',
        count: 1,
        elements: bones.map((bone) => ({ kind: 'bone', node: bone, ids: Uint32Array.of(bone) })),
        evidence: [
          { label: 'Off an even twist', now: Math.round(off), brief: Math.round(trials.twist), unit: '°' },
          { label: 'There, on the way to the hand', now: Math.round(at * 100), brief: '—', unit: '%' },
        ],
        remedies: [],
        pose: poseOf(character, motion, motion.degrees),
      });
    }
    return [...byHand.values()].map(({ off: _off, ...found }) => found);
  },
});

import { object } from 'yup';
import type { JointMotion } from '../../../anatomy/joint-motions';
import type { Character } from '../../../character/model';
import { type Found, defineCheck } from '../../../contracts/check';
import { theNode } from '../../../contracts/finding';
import { TRIALS } from '../../../contracts/trials';
import { inWords, poseOf } from '../findings';
import { type Following, followingOf } from '../missed';
import { triedMotions } from '../motions';
import { READS } from './at-joints';

/** Flesh of which less than this goes along does not follow; a thumb’s ball goes partly with the hand. */
const FOLLOWS = 0.4;

/** Joints that turn without their flesh. */
export const doesNotFollowCheck = defineCheck({
  id: 'does-not-follow',
  room: 'trials',
  title: 'Flesh that does not follow its joint',
  why: 'A joint that was missed when the mesh was bound turns, and the limb about it stays where it was.',
  leadsTo: 'weights',
  isInMotion: true,
  settings: object({ trials: TRIALS }),
  reads: READS,
  run(character, { trials }) {
    if (!trials) return [];
    const motions = triedMotions(character, trials);
    return followingOf(character)
      .filter(({ share }) => share < FOLLOWS)
      .map((following) => found(character, following, motions));
  },
});

function found(
  character: Character,
  { bone, share, points, count }: Following,
  motions: readonly JointMotion[],
): Found {
  const percent = Math.round(share * 100);
  const motion = motions.find((one) => one.bone === bone);
  const degrees = motion?.degrees ?? 0;
  return {
    gravity: 'stops',
    subject: theNode(character, bone),
    message: `When “${character.nodes[bone].name}” turns, ${percent} % of the flesh along it goes with it${motion ? ` (${inWords(motion, degrees)})` : ''}`,
    measured: percent,
    expected: Math.round(FOLLOWS * 100),
    unit: '%',
    count,
    elements: [...points].map(([node, ids]) => ({ kind: 'vertex', node, ids })),
    evidence: [
      { label: 'Of the flesh along it goes along', now: percent, brief: FOLLOWS * 100, unit: '%' },
      { label: 'Points along it', now: count, brief: '—', unit: 'pts' },
    ],
    remedies: [
      {
        id: 'edit-weights',
        params: {
          vertices: [...points].map(([node, ids]) => ({ node, ids: [...ids] })),
          bone,
          how: 'set',
          value: 1,
        },
      },
    ],
    ...(motion ? { pose: poseOf(character, motion, degrees) } : {}),
  };
}

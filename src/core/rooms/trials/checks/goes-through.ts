import { object } from 'yup';
import { type JointMotion, turnsOfMotion } from '../../../anatomy/joint-motions';
import type { Character } from '../../../character/model';
import { type Found, defineCheck } from '../../../contracts/check';
import { lengthText } from '../../../contracts/units';
import { type RemedyCall, theNode } from '../../../contracts/finding';
import { restWorld } from '../../../character/hierarchy';
import { decompose, quatConjugate, quatMultiply, quatRotate } from '../../../geometry/matrix';
import { posedWorld } from '../../../motion/pose';
import { TRIALS } from '../../../contracts/trials';
import { inWords, poseOf } from '../findings';
import { isLookedAtForClashes, triedMotions } from '../motions';
import { type GoesThrough, clashOf } from '../through';
import { READS } from './at-joints';

interface Clash {
  readonly motion: JointMotion;
  readonly degrees: number;
  readonly through: GoesThrough;
}

/** Nothing goes through something else when a joint of the body moves. */
export const goesThroughCheck = defineCheck({
  id: 'goes-through',
  room: 'trials',
  title: 'Parts that go through each other',
  why: 'An arm within a coat or a lantern within a leg is seen in the first second of the first walk.',
  advice:
    'Move the prop, hang it on another bone, or let the pose stop before; what hangs on bones of cloth is not counted, since a game moves it away.',
  waiverReasons: ['It never moves so far in the game.', 'It is cloth that the game moves away.'],
  leadsTo: 'placement',
  isInMotion: true,
  settings: object({ trials: TRIALS }),
  reads: READS,
  run(character, { trials, unit }) {
    if (!trials) return [];
    return worstClashes(character, triedMotions(character, trials))
      .filter(({ through }) => through.share > trials.through)
      .map((clash) => told(character, clash, trials.through, unit));
  },
});

/** For every joint of the body and every pair of meshes the motion that drives one deepest into the other. */
export function worstClashes(character: Character, motions: readonly JointMotion[]): Clash[] {
  const worst = new Map<string, Clash>();
  for (const motion of motions.filter(isLookedAtForClashes)) {
    const { degrees } = motion;
    const through = clashOf(character, motion, degrees);
    if (!through) continue;
    const key = `${motion.bone} ${through.moves} ${through.into}`;
    if (through.depth > (worst.get(key)?.through.depth ?? 0)) worst.set(key, { motion, degrees, through });
  }
  return [...worst.values()];
}

/** A little farther than out, so that it does not touch. */
const CLEAR = 1.15;

/** What hangs as it is can be moved out, seen from how it stands at rest; what is bound goes where its bones go. */
function waysOut(character: Character, { motion, degrees, through }: Clash): RemedyCall[] {
  const { moves, wayOut } = through;
  if (character.nodes[moves].skin >= 0) return [];
  const rest = decompose(restWorld(character.nodes), moves * 16);
  const posed = decompose(posedWorld(character, turnsOfMotion(motion, degrees)), moves * 16);
  const turned = quatMultiply(rest.rotation, quatConjugate(posed.rotation));
  const shift = quatRotate(turned, wayOut);
  const place = rest.translation.map((x, k) => x + CLEAR * shift[k]);
  return [{ id: 'place-part', params: { node: moves, place, turn: [...rest.rotation] } }];
}

function told(
  character: Character,
  { motion, degrees, through }: Clash,
  limit: number,
  unit: Parameters<typeof lengthText>[1],
): Found {
  const name = (node: number) => `“${character.nodes[node].name}”`;
  const what =
    through.moves === through.into
      ? `a part of ${name(through.moves)} goes ${lengthText(through.depth, unit)} into another of it`
      : `${name(through.moves)} goes ${lengthText(through.depth, unit)} into ${name(through.into)}`;
  const times = (factor: number) => `${Math.round(factor * 10) / 10} ×`;
  return {
    gravity: 'worth',
    subject: theNode(character, motion.bone),
    message: `When ${name(motion.bone)} moves (${inWords(motion, degrees)}), ${what}`,
    measured: times(through.share),
    expected: times(limit),
    unit: '',
    count: 1,
    mark: `${character.nodes[through.moves].name}/${character.nodes[through.into].name}`,
    elements: [{ kind: 'vertex', node: through.moves, ids: through.vertices }],
    evidence: [
      {
        label: 'Against the thickness of what moves',
        now: times(through.share),
        brief: times(limit),
        unit: '',
      },
      { label: 'Deepest', now: lengthText(through.depth, unit), brief: '—', unit: '' },
    ],
    remedies: waysOut(character, { motion, degrees, through }),
    pose: poseOf(character, motion, degrees),
  };
}

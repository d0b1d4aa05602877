import { object } from 'yup';
import {
  ALONG,
  type Along,
  HINGES,
  type Hinge,
  alongAxis,
  boneAxesOf,
  hingeAxis,
  squareHinge,
} from '../../../anatomy/bone-axes';
import type { BoneAxes } from '../../../anatomy/bone-axes';
import { degreesBetween } from '../../../anatomy/bearing';
import { whyNotTurned, withTurnedAxes } from '../../../character/turn-axes';
import { choiceOf, refsTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import {
  type Quat,
  cross,
  dot,
  quatAbout,
  quatBetween,
  quatMultiply,
  quatRotate,
} from '../../../geometry/matrix';

/** The hinge is left where the shortest turn brings it. */
const AS_IS = 'as-is';
const HINGE_CHOICES = { [AS_IS]: 'what it comes to', ...HINGES } as const;

/** Bones are listed up to so many. */
const LISTED = 60;

/** Turns by less are none, radians. */
const STILL = 1e-7;

/** Turns the axes of bones so that one runs along the bone and, at knees and elbows, another along the hinge. */
export const alignAxes = defineRemedy({
  id: 'align-axes',
  room: 'skeleton',
  title: 'Lay their axes along the bones',
  does: 'The bones’ own axes turn in place, the shortest way, until one points to the next joint; at knees and elbows the hinge can be one of them as well. Clips are rewritten so that everything moves as it did. Bones that fork or end are left as they are.',
  params: object({
    bones: refsTo('bone', 'Bones').required(),
    along: choiceOf<Along>('Along the bone', ALONG).default('x'),
    hinge: choiceOf<Hinge | typeof AS_IS>('Knees and elbows bend about', HINGE_CHOICES).default(AS_IS),
  }),
  rows(character, { bones, along }) {
    const chosen = new Set(bones);
    return boneAxesOf(character)
      .filter(({ node }) => chosen.has(node))
      .slice(0, LISTED)
      .map((bone) => ({
        label: `${character.nodes[bone.node].name}, off by`,
        value: degreesBetween(bone.along, alongAxis(along, bone.along)),
        unit: '°',
      }));
  },
  promises: () => promise(['places', 'binds', 'clips']),
  apply(character, { bones, along, hinge }) {
    if (bones.some((bone) => character.nodes[bone]?.kind !== 'bone'))
      throw new RemedyError('One of these bones is not there any more; choose them again.');
    const chosen = new Set(bones);
    const turns = new Map(
      boneAxesOf(character)
        .filter(({ node }) => chosen.has(node))
        .map((bone) => [bone.node, turnOf(bone, along, hinge)] as const)
        .filter(([, turn]) => 2 * Math.acos(Math.min(1, Math.abs(turn[3]))) > STILL),
    );
    if (turns.size === 0)
      throw new NothingToDo(
        'None of these bones has axes that would turn: they lie so already, or the bones fork or end.',
      );
    const why = whyNotTurned(character, turns.keys());
    if (why) throw new RemedyError(why);
    return withTurnedAxes(character, turns);
  },
});

function turnOf(bone: BoneAxes, along: Along, hinge: Hinge | typeof AS_IS): Quat {
  const first = quatBetween(alongAxis(along, bone.along), bone.along) as Quat;
  const wanted = hinge === AS_IS ? null : squareHinge(bone);
  // One axis cannot both run along the bone and be its hinge.
  if (!wanted || hinge === AS_IS || along.includes(hinge)) return first;
  const from = quatRotate(
    first,
    hingeAxis(hinge, quatRotate([-first[0], -first[1], -first[2], first[3]], wanted)),
  );
  const angle = Math.atan2(dot(cross(from, wanted), bone.along), dot(from, wanted));
  return quatMultiply(quatAbout(bone.along, angle), first) as Quat;
}

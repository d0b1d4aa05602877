import { object } from 'yup';
import { parentBone, restWorld, topDown } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';
import { whyNotTurned, withTurnedAxes } from '../../../character/turn-axes';
import { refsTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { type Quat, decompose, quatConjugate, quatMultiply } from '../../../geometry/matrix';

/** Bones are listed up to so many. */
const LISTED = 60;

/** Turns by less are none, degrees. */
const STILL = 1e-5;

const degreesOf = (turn: ArrayLike<number>) =>
  (2 * Math.atan2(Math.hypot(turn[0], turn[1], turn[2]), Math.abs(turn[3])) * 180) / Math.PI;

/** The turn about its own axes that gives each bone the axes of the bone above it, those above first. */
function turnsOf(character: Character, bones: readonly number[]): Map<number, Quat> {
  const { nodes } = character;
  const chosen = new Set(bones);
  const world = restWorld(nodes);
  const rotations = new Map<number, Quat>();
  const rotationOf = (node: number) => rotations.get(node) ?? decompose(world, node * 16).rotation;
  const turns = new Map<number, Quat>();
  for (const node of topDown(nodes)) {
    const above = parentBone(nodes, node);
    if (!chosen.has(node) || above < 0) continue;
    const wanted = rotationOf(above) as Quat;
    const turn = quatMultiply(quatConjugate(rotationOf(node)), wanted) as Quat;
    rotations.set(node, wanted);
    if (degreesOf(turn) > STILL) turns.set(node, turn);
  }
  return turns;
}

/** Gives bones the axes of the bone above: their rotation at rest is none. */
export const zeroRotations = defineRemedy({
  id: 'zero-rotations',
  room: 'skeleton',
  title: 'Zero their rest rotations',
  does: 'Each bone gets the axes of the bone above it, so that its rotation at rest is none. Clips are rewritten so that everything moves as it did; bones at the top stay as they are.',
  params: object({ bones: refsTo('bone', 'Bones').required() }),
  rows: (character, { bones }) =>
    bones.slice(0, LISTED).map((bone) => ({
      label: `${character.nodes[bone].name}, turned at rest by`,
      value: degreesOf(character.nodes[bone].rotation),
      unit: '°',
    })),
  promises: () => promise(['places', 'binds', 'clips']),
  apply(character, { bones }) {
    if (bones.some((bone) => character.nodes[bone]?.kind !== 'bone'))
      throw new RemedyError('One of these bones is not there any more; choose them again.');
    const turns = turnsOf(character, bones);
    if (turns.size === 0)
      throw new NothingToDo(
        'None of these bones is turned against the bone above it; there is nothing to zero.',
      );
    const why = whyNotTurned(character, turns.keys());
    if (why) throw new RemedyError(why);
    return withTurnedAxes(character, turns);
  },
});

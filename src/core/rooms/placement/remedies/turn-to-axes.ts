import { object } from 'yup';
import { type Remedy, NothingToDo, RemedyError } from '../../../contracts/types';
import type { Brief } from '../../../contracts/brief';
import type { Character } from '../../../character/model';
import { type Similarity, STILL, underSimilarity } from '../../../character/similarity';
import {
  type Quat,
  type Vec3,
  cross,
  quatConjugate,
  quatMultiply,
  quatOfRotation,
} from '../../../geometry/matrix';
import { AXES } from '../../../anatomy/landmarks';
import { FACING_DEGREES, facingOf } from '../survey';

const frame = (left: Vec3, up: Vec3, forward: Vec3): Quat =>
  quatOfRotation([...left, 0, ...up, 0, ...forward, 0, 0, 0, 0, 1]);

function turn(character: Character, brief: Brief): Similarity {
  const facing = facingOf(character);
  if (!facing)
    throw new RemedyError(
      'The skeleton does not tell where the figure looks: head, feet and both sides are needed. Turn it where it was made.',
    );
  const { ahead, forward, stands } = facing;
  // Near an axis the turn is by quarters exactly: a joint a little off must not tilt the whole figure.
  const upright = stands ? AXES[facing.up] : facing.upright;
  const near = stands && facing.forwardOff(forward) <= FACING_DEGREES ? AXES[forward] : ahead;
  const f = AXES[brief.forward];
  return {
    ...STILL,
    rotation: quatMultiply(
      frame(cross(AXES.y, f), AXES.y, f),
      quatConjugate(frame(cross(upright, near), upright, near)),
    ),
  };
}

/** Turns the whole character about the world's origin until it stands upright along +Y and looks along the brief's forward axis. */
export const turnToAxes: Remedy = {
  id: 'turn-to-axes',
  room: 'placement',
  title: 'Turn to the brief’s axes',
  does: 'The whole character turns about the world’s origin until it stands along +Y and looks where the brief wants it; near a quarter turn, by exactly that.',
  params: object({}),
  preview(character, _params, brief) {
    const facing = facingOf(character);
    const s = turn(character, brief);
    const degrees = (2 * Math.acos(Math.min(1, Math.abs(s.rotation[3]))) * 180) / Math.PI;
    return [
      { label: 'Faces', before: facing?.forward ?? '?', after: brief.forward, unit: '' },
      { label: 'Upright along', before: facing?.up ?? '?', after: 'y', unit: '' },
      { label: 'Turned by', before: 0, after: degrees, unit: '°' },
    ];
  },
  apply(character, _params, brief) {
    const s = turn(character, brief);
    if (Math.abs(s.rotation[3]) > 1 - 1e-12)
      throw new NothingToDo('It stands along the brief’s axes already; there is nothing to turn.');
    return underSimilarity(character, s);
  },
  promises: (character, _params, brief) => ({
    similarity: turn(character, brief),
    meant: new Set(),
    holds: 'in every pose',
  }),
};

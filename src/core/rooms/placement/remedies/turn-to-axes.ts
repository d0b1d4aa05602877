import { object } from 'yup';
import { type BriefBase } from '../../../contracts/brief';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { MOVED_ASPECTS } from '../moved';
import { type Forward } from '../settings';
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
import { AXES } from '../../../anatomy/bearing';
import { facingOf } from '../survey';

const frame = (left: Vec3, up: Vec3, forward: Vec3): Quat =>
  quatOfRotation([...left, 0, ...up, 0, ...forward, 0, 0, 0, 0, 1]);

type FacingBrief = BriefBase & { readonly forward: Forward };

function turn(character: Character, brief: FacingBrief): Similarity {
  const facing = facingOf(character);
  if (!facing)
    throw new RemedyError(
      'The skeleton does not tell where the figure looks: head, feet and both sides are needed. Turn it where it was made.',
    );
  const { ahead, forward, stands } = facing;
  // Near an axis the turn is by quarters exactly: a joint a little off must not tilt the whole figure.
  const upright = stands ? AXES[facing.up] : facing.upright;
  const near = stands && facing.forwardOff(forward) <= facing.within ? AXES[forward] : ahead;
  const otherForward = AXES[brief.forward];
  return {
    ...STILL,
    rotation: quatMultiply(
      frame(cross(AXES.y, otherForward), AXES.y, otherForward),
      quatConjugate(frame(cross(upright, near), upright, near)),
    ),
  };
}

/**
 * Turns the whole character about the world's origin until it stands upright along +Y and looks along the
 * brief's forward axis.
 */
export const turnToAxes = defineRemedy({
  id: 'turn-to-axes',
  room: 'placement',
  title: 'Turn to the brief’s axes',
  does: 'The whole character turns about the world’s origin until it stands along +Y and looks where the brief wants it; near a quarter turn, by exactly that.',
  params: object({}),
  rows(character, _params, brief: FacingBrief) {
    const facing = facingOf(character);
    return [
      { label: 'Faces', value: facing?.forward ?? '?', unit: '' },
      { label: 'Upright along', value: facing?.up ?? '?', unit: '' },
      {
        label: `Off the way along ${brief.forward}`,
        value: facing?.forwardOff(brief.forward) ?? '?',
        unit: '°',
      },
      { label: 'Off the upright', value: facing?.upOff ?? '?', unit: '°' },
    ];
  },
  apply(character, _params, brief: FacingBrief) {
    const similarity = turn(character, brief);
    if (Math.abs(similarity.rotation[3]) > 1 - 1e-12)
      throw new NothingToDo('It stands along the brief’s axes already; there is nothing to turn.');
    return underSimilarity(character, similarity);
  },
  promises: (character, _params, brief: FacingBrief) =>
    promise(MOVED_ASPECTS, { similarity: turn(character, brief) }),
});

/** A pose that is kept with a character: bones by their names, so that it is found again on every revision. */
import { type InferType, array, number, object, string } from 'yup';
import { uuid } from './route';

const finite = () =>
  number()
    .required()
    .test('finite', 'a number must be finite', (x) => Number.isFinite(x));

const named = {
  name: string().defined().max(10_000),
  nth: number().integer().min(0).max(100_000).required(),
};

const turned = object({
  ...named,
  /** Rotation in the frame that the bone has at rest, a unit quaternion. */
  turn: array(finite())
    .length(4)
    .required()
    .test(
      'turn',
      'a rotation must have the length 1',
      (turn) => Math.abs(Math.hypot(...(turn ?? [])) - 1) < 1e-3,
    ),
});

export const poseTurns = array(turned).max(20_000).required();

/** A moment of a clip in place of turns, seconds. */
export const poseMoment = object({ clip: string().defined().max(10_000), time: finite() })
  .nullable()
  .default(null);

export const keptPose = object({
  id: uuid(),
  name: string().required(),
  turns: poseTurns,
  moment: poseMoment,
});

export type KeptPose = InferType<typeof keptPose>;

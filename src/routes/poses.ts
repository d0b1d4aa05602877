/** Poses of a character that are kept by name. */
import { object, string } from 'yup';
import { characterRecord } from './characters';
import { poseMoment, poseTurns } from './kept-pose';
import { defineRoute, uuid } from './route';

/** Keeps how a character stands under a name; one of the same name gives way. */
export const keepPose = defineRoute({
  method: 'POST',
  path: '/api/characters/:id/poses',
  request: object({
    id: uuid(),
    name: string().trim().min(1).max(80).required(),
    turns: poseTurns,
    moment: poseMoment,
  }),
  answer: characterRecord,
});

export const removePose = defineRoute({
  method: 'DELETE',
  path: '/api/characters/:id/poses/:pose',
  request: object({ id: uuid(), pose: uuid() }),
  answer: characterRecord,
});

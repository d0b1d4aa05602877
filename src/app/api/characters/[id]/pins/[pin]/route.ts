import { labelPin, removePin } from '@/routes/characters';
import * as characters from '@/server/characters';
import { database } from '@/server/database';
import { handle } from '@/server/http';

export const PATCH = handle(labelPin, async ({ id, pin, label }) => {
  await characters.labelPin(database(), id, pin, label);
  return characters.characterById(database(), id);
});

export const DELETE = handle(removePin, async ({ id, pin }) => {
  await characters.removePin(database(), id, pin);
  return characters.characterById(database(), id);
});

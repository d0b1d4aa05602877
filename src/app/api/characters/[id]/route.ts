import { changeCharacter, readCharacter, removeCharacter } from '@/routes/characters';
import * as characters from '@/server/characters';
import { database } from '@/server/database';
import { handle } from '@/server/http';

export const GET = handle(readCharacter, ({ id }) => characters.characterById(database(), id));

export const PATCH = handle(changeCharacter, async ({ id, name, brief }) => {
  await characters.changeCharacter(database(), id, { ...(name && { name }), ...(brief && { brief }) });
  return characters.characterById(database(), id);
});

export const DELETE = handle(removeCharacter, async ({ id }) => {
  await characters.removeCharacter(database(), id);
  return { removed: true };
});

import { remapStep } from '@/routes/steps';
import { characterById } from '@/server/characters';
import { database } from '@/server/database';
import { handle } from '@/server/http';
import { guardFresh, remapCharacter } from '@/server/steps';

export const POST = handle(
  remapStep,
  async ({ id, base, ...step }) => {
    const character = await characterById(database(), id);
    guardFresh(character, base);
    return remapCharacter(database(), character, base, step);
  },
  201,
);

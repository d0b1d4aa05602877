import { applyRemedyStep } from '@/routes/steps';
import { characterById } from '@/server/characters';
import { database } from '@/server/database';
import { handle } from '@/server/http';
import { applyRemedy, guardFresh } from '@/server/steps';

export const POST = handle(
  applyRemedyStep,
  async ({ id, base, ...step }) => {
    const character = await characterById(database(), id);
    guardFresh(character, base);
    return applyRemedy(database(), character, base, step);
  },
  201,
);

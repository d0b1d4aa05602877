import { remapStep } from '@/routes/steps';
import { characterById } from '@/server/characters';
import { saveCrosswalk } from '@/server/crosswalks';
import { database } from '@/server/database';
import { handle } from '@/server/http';
import { guardFresh, remapCharacter } from '@/server/steps';

export const POST = handle(
  remapStep,
  async ({ id, base, ...step }) => {
    const character = await characterById(database(), id);
    guardFresh(character, base);
    const done = await remapCharacter(database(), character, base, step);
    await saveCrosswalk(database(), step.crosswalk);
    return done;
  },
  201,
);

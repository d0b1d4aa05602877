import { wantedBy } from '@/jobs/answer';
import { askAndWait } from '@/jobs/wait';
import { remapStep } from '@/routes/steps';
import { characterById } from '@/server/characters';
import { database } from '@/server/database';
import { handle } from '@/server/http';
import { type WeightsMoved, guardFresh } from '@/server/steps';

export const POST = handle(
  remapStep,
  async ({ id, base, job, ...input }, { signal }) => {
    const character = await characterById(database(), id);
    guardFresh(character, base);
    const title = `${character.name} onto ${input.target.title}`.slice(0, 200);
    const wanted = wantedBy('remap', job, { title, input, character: id, base });
    return askAndWait<WeightsMoved>(database(), wanted, { signal });
  },
  201,
);

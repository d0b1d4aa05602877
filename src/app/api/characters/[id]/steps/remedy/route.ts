import { wantedBy } from '@/jobs/answer';
import { askAndWait } from '@/jobs/wait';
import { applyRemedyStep } from '@/routes/steps';
import { characterById } from '@/server/characters';
import { database } from '@/server/database';
import { handle } from '@/server/http';
import { type StepDone, guardFresh } from '@/server/steps';

export const POST = handle(
  applyRemedyStep,
  async ({ id, base, job, ...input }, { signal }) => {
    const character = await characterById(database(), id);
    guardFresh(character, base);
    const title = `a step on ${character.name}`;
    const wanted = wantedBy('remedy', job, { title, input, character: id, base });
    return askAndWait<StepDone>(database(), wanted, { signal });
  },
  201,
);

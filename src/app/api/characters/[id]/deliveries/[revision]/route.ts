import { object } from 'yup';
import { stepsLeft } from '@/core/contracts/step';
import { streamJob, wantedBy } from '@/jobs/answer';
import { jobId } from '@/routes/jobs';
import { uuid } from '@/routes/route';
import { characterById } from '@/server/characters';
import { database } from '@/server/database';
import { type Context, answer, readRequest } from '@/server/http';
import { Refused } from '@/server/refused';

/** Goes on with a delivery that was broken off: the steps that are left are done again on it. */
export const POST = (request: Request, context: Context) =>
  answer(request, async () => {
    const schema = object({ id: uuid(), revision: uuid(), job: jobId() });
    const { id, revision, job } = await readRequest(schema, request, context, true);
    const character = await characterById(database(), id);
    const found = character.revisions.find((candidate) => candidate.id === revision);
    if (!found || stepsLeft(found.step) === 0)
      throw new Refused('There is nothing left to do of that delivery; reload the page.', 404);
    return streamJob(
      request,
      'The delivery could not be gone on with; what came so far is in the ledger. Try again, and report it if it stays.',
      wantedBy('go on with a delivery', job, {
        title: `the delivery of ${character.name}`,
        input: { revision },
        character: id,
        base: character.head,
      }),
    );
  });

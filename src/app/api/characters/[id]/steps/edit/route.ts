import { wantedBy } from '@/jobs/answer';
import { addressesOf, partsOf } from '@/jobs/parts';
import { askAndWait } from '@/jobs/wait';
import { editStep } from '@/routes/steps';
import { characterById } from '@/server/characters';
import { database } from '@/server/database';
import { type Context, answer, readRequest } from '@/server/http';
import { type StepDone, guardFresh } from '@/server/steps';

/** The body is a bundle of patches; `base` stands in the query. */
export const POST = (request: Request, context: Context) =>
  answer(request, async () => {
    const { id, base, job } = await readRequest(editStep.request, request, context);
    const character = await characterById(database(), id);
    guardFresh(character, base);
    const parts = partsOf(new Uint8Array(await request.arrayBuffer()));
    const wanted = wantedBy('edit', job, {
      title: `what the hand did on ${character.name}`,
      input: { patches: addressesOf(parts) },
      files: parts,
      character: id,
      base,
    });
    const done = await askAndWait<StepDone>(database(), wanted, { signal: request.signal });
    return Response.json(done, { status: 201 });
  });

import { object } from 'yup';
import { uuid } from '@/routes/route';
import { streamProgress } from '@/server/arrivals';
import { characterById } from '@/server/characters';
import { database } from '@/server/database';
import { goOnWithDelivery } from '@/server/delivery';
import { type Context, answer, readRequest } from '@/server/http';

/** Goes on with a delivery that was broken off: the steps that are left are done again on it. */
export const POST = (request: Request, context: Context) =>
  answer(request, async () => {
    const { id, revision } = await readRequest(object({ id: uuid(), revision: uuid() }), request, context);
    const character = await characterById(database(), id);
    return streamProgress(
      request,
      'The delivery could not be gone on with; what came so far is in the ledger. Try again, and report it if it stays.',
      (say, signal) => goOnWithDelivery(database(), character, revision, say, signal),
    );
  });

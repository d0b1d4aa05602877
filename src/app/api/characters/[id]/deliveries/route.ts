import { readArrivalFor, streamProgress } from '@/server/arrivals';
import { database } from '@/server/database';
import { deliverAgain, lineTo } from '@/server/delivery';
import { type Context, answer } from '@/server/http';

/**
 * A new delivery of a character that is there: a line of its own, with the steps that led to `base` done
 * again on it.
 */
export const POST = (request: Request, context: Context) =>
  answer(request, async () => {
    const { character, base, ...delivery } = await readArrivalFor(request, context);
    const line = lineTo(character, base);
    return streamProgress(
      request,
      'The delivery could not be taken in; what came so far is in the ledger. Try again, and report it if it stays.',
      (say, signal) => deliverAgain(database(), character, line, delivery, say, signal),
    );
  });

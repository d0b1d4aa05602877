import { filesAsked, streamJob, wantedBy } from '@/jobs/answer';
import { readArrivalFor } from '@/server/arrivals';
import { lineTo } from '@/server/delivery';
import { type Context, answer } from '@/server/http';

/**
 * A new delivery of a character that is there: a line of its own, with the steps that led to `base` done
 * again on it.
 */
export const POST = (request: Request, context: Context) =>
  answer(request, async () => {
    const { character, base, fields, ...arriving } = await readArrivalFor(request, context);
    lineTo(character, base);
    return streamJob(
      request,
      'The delivery could not be taken in; what came so far is in the ledger. Try again, and report it if it stays.',
      wantedBy('deliver', fields.job, {
        title: `a new delivery of ${character.name}`,
        ...filesAsked({ fields, ...arriving }),
        character: character.id,
        base,
      }),
    );
  });

import { handOverRequest } from '@/routes/dockets';
import { streamProgress } from '@/server/arrivals';
import { database } from '@/server/database';
import { handOver } from '@/server/dockets';
import { type Context, answer, readRequest } from '@/server/http';
import { receiverAsked } from '@/server/report-facts';

/** Hands a revision over. Answers line by line with progress; broken off, nothing is kept. */
export const POST = (request: Request, context: Context) =>
  answer(request, async () => {
    const { id, receiver, ...what } = await readRequest(handOverRequest, request, context, true);
    const asked = receiver ? { receiver: receiverAsked(receiver) } : {};
    return streamProgress(
      request,
      'It could not be handed over; nothing was kept. Try again, and report it if it stays.',
      (say, signal) => handOver(database(), id, { ...what, ...asked }, say, signal),
    );
  });

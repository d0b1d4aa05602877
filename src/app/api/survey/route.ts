import { object } from 'yup';
import { readArrival } from '@/server/arrivals';
import { answer } from '@/server/http';
import { runTask } from '@/server/pool';

/**
 * Looks into files before they are taken in: what they say of unit and axes, and how large they are as read.
 * Saves nothing.
 */
export const POST = (request: Request) =>
  answer(request, async () => {
    const { files } = await readArrival(object({}), request);
    return Response.json(await runTask('survey', { files }, { signal: request.signal }));
  });

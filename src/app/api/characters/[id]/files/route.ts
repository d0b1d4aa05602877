import { filesAsked, streamJob, wantedBy } from '@/jobs/answer';
import { readArrivalFor } from '@/server/arrivals';
import { type Context, answer } from '@/server/http';

/**
 * Adds a mesh, a prop or a skeleton to a character that is there: a new revision on top of `base`. 409 where
 * the head has moved.
 */
export const POST = (request: Request, context: Context) =>
  answer(request, async () => {
    const { character, base, fields, ...arriving } = await readArrivalFor(request, context);
    return streamJob(
      request,
      'The files could not be added; nothing was changed. Try again, and report it if it stays.',
      wantedBy('add files', fields.job, {
        title: `${arriving.listed.map((file) => file.name).join(', ')} for ${character.name}`.slice(0, 200),
        ...filesAsked({ fields, ...arriving }),
        character: character.id,
        base,
      }),
    );
  });

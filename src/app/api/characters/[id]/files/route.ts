import { unitWord } from '@/core/contracts/units';
import { readArrivalFor, streamProgress } from '@/server/arrivals';
import { database } from '@/server/database';
import { type Context, answer } from '@/server/http';
import { addFiles } from '@/server/steps';

/**
 * Adds a mesh, a prop or a skeleton to a character that is there: a new revision on top of `base`. 409 where
 * the head has moved.
 */
export const POST = (request: Request, context: Context) =>
  answer(request, async () => {
    const { character, base, files, options, listed } = await readArrivalFor(request, context);
    const unit = options.unitMetres ? unitWord(options.unitMetres) : 'its own unit';
    return streamProgress(
      request,
      'The files could not be added; nothing was changed. Try again, and report it if it stays.',
      async (say, signal) => {
        const step = { files, listed, read: options, unit };
        const done = await addFiles(database(), character, base, step, { onProgress: say, signal });
        const { name, notes, counts, revision } = done;
        return { name, notes, counts, revision };
      },
    );
  });

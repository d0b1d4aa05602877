import { filesAsked, streamJob, wantedBy } from '@/jobs/answer';
import { briefKey } from '@/core/house/brief';
import { importFields } from '@/routes/arrivals';
import { listCharacters } from '@/routes/characters';
import { readArrival } from '@/server/arrivals';
import { briefById, briefsOf } from '@/server/briefs';
import * as characters from '@/server/characters';
import { database } from '@/server/database';
import { answer, handle } from '@/server/http';

export const dynamic = 'force-dynamic';

/** The shelf. */
export const GET = handle(listCharacters, async ({ only }) => {
  const rows = await characters.listCharacters(database(), only?.split(','));
  return { characters: rows, briefs: await briefsOf(database(), new Set(rows.map((row) => row.brief))) };
});

/**
 * Takes in one character from one or several files. Answers line by line (NDJSON) with progress, then the new
 * character or the one sentence that says why not. Cancelled at whatever point, it leaves nothing behind.
 */
export const POST = (request: Request) =>
  answer(request, async () => {
    const arriving = await readArrival(importFields, request);
    const { brief: id, job } = arriving.fields;
    const brief = await briefById(database(), id);
    const { files, input } = filesAsked(arriving);
    return streamJob(
      request,
      'The file could not be taken in; nothing was saved. Try again, and report it if it stays.',
      wantedBy('import', job, {
        title: arriving.listed
          .map((file) => file.name)
          .join(', ')
          .slice(0, 200),
        input: { ...input, brief: briefKey(brief) },
        files,
        character: null,
        base: null,
      }),
    );
  });

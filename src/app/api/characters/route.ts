import { briefKey } from '@/core/house/brief';
import { importFields } from '@/routes/arrivals';
import { listCharacters } from '@/routes/characters';
import { readArrival, streamProgress } from '@/server/arrivals';
import { briefById, listBriefs } from '@/server/briefs';
import * as characters from '@/server/characters';
import { database } from '@/server/database';
import { answer, handle } from '@/server/http';
import { runTask } from '@/server/pool';

export const dynamic = 'force-dynamic';

/** The shelf. */
export const GET = handle(listCharacters, async () => ({
  characters: await characters.listCharacters(database()),
}));

/**
 * Takes in one character from one or several files. Answers line by line (NDJSON) with progress, then the new
 * character or the one sentence that says why not. Cancelled at whatever point, it leaves nothing behind.
 */
export const POST = (request: Request) =>
  answer(request, async () => {
    const { fields, files, options, listed } = await readArrival(importFields, request);
    const brief = await briefById(database(), fields.brief);
    return streamProgress(
      request,
      'The file could not be taken in; nothing was saved. Try again, and report it if it stays.',
      async (say, signal) => {
        const briefs = (await listBriefs(database())).map((b) => b.brief);
        const input = { files, options, brief, briefs };
        const made = await runTask('import', input, { onProgress: say, signal, giving: true });
        say({ stage: 'saving', share: 0.9 });
        const step = { kind: 'import' as const, files: listed, notes: [...made.notes] };
        const first = { ...made, brief: briefKey(brief), label: 'as delivered', step };
        const { id } = await characters.createCharacter(database(), made.name, brief.id, first, signal);
        const fits = made.fits ? { brief: made.fits.brief, reason: made.fits.reason } : undefined;
        return { id, name: made.name, notes: [...made.notes], counts: made.audited?.counts, fits };
      },
    );
  });

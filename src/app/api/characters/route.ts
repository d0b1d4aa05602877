import { BRIEFS } from '@/core/house/briefs';
import { filesOf, told } from '@/server/arrivals';
import { createCharacter, listCharacters } from '@/server/characters';
import { database } from '@/server/database';
import { answer } from '@/server/http';
import { Refused, onThread } from '@/server/pool';

export const dynamic = 'force-dynamic';

/** The shelf. */
export async function GET(request: Request) {
  return answer(request, async () => ({ characters: await listCharacters(database()) }));
}

/**
 * Takes in one character from one or several files. Answers line by line (NDJSON) with progress, then the new character or the one
 * sentence that says why not. Cancelled at whatever point, it leaves nothing behind.
 */
export async function POST(request: Request) {
  return answer(request, async () => {
    const { form, files, options, listed } = await filesOf(request);
    const brief = String(form.get('brief') ?? 'handset');
    if (!BRIEFS.some((b) => b.id === brief)) throw new Refused(`There is no brief “${brief}”.`, 400);
    return told(
      'The file could not be taken in; nothing was saved. Try again, and report it if it stays.',
      async (say, signal) => {
        const made = await onThread(
          { task: 'import', files, options, brief },
          { onProgress: say, signal, giving: true },
        );
        say({ stage: 'saving', share: 0.9 });
        const { id } = await createCharacter(database(), made.name, brief, {
          ...made,
          brief,
          label: 'as delivered',
          step: { kind: 'import', files: listed, notes: [...made.notes] },
        });
        return { id, name: made.name, notes: made.notes, counts: made.audited?.counts };
      },
    );
  });
}

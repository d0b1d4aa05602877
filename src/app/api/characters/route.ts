import { BRIEFS } from '@/core/audit/briefs';
import { auditArrival, filesOf, told } from '@/server/arrivals';
import { createCharacter, listCharacters, removeCharacter } from '@/server/characters';
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
    return told('The file could not be taken in; nothing was saved. Try again, and report it if it stays.', async (say, signal) => {
      const made = await onThread({ task: 'import', files, options }, { onProgress: say, signal });
      say({ stage: 'saving', share: 0.7 });
      const db = database();
      const { id, revision } = await createCharacter(db, made.name, brief, { ...made, label: 'as delivered', step: { kind: 'import', files: listed, notes: [...made.notes] } });
      try {
        const counts = await auditArrival(revision, brief, say, signal);
        return { id, name: made.name, notes: made.notes, counts };
      } catch (error) {
        if (signal.aborted) await removeCharacter(db, id);
        throw error;
      }
    });
  });
}

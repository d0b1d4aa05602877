import { unitWord } from '@/core/contracts/units';
import { arrivingAt, told } from '@/server/arrivals';
import { addRevision } from '@/server/characters';
import { database } from '@/server/database';
import { added } from '@/server/delivery';
import { answer } from '@/server/http';

/** Adds a mesh, a prop or a skeleton to a character that is there: a new revision on top of `base`. 409 where the head has moved. */
export async function POST(request: Request, { params }: { params: Promise<{ id: string }> }) {
  return answer(request, async () => {
    const { character, base, files, options, listed } = await arrivingAt(request, await params);
    const db = database();
    return told(
      'The files could not be added; nothing was changed. Try again, and report it if it stays.',
      async (say, signal) => {
        const { made, revision } = await added(
          db,
          character.brief,
          base,
          files,
          options,
          listed,
          options.unitMetres ? unitWord(options.unitMetres) : 'its own unit',
          { onProgress: say, signal },
        );
        say({ stage: 'saving', share: 0.9 });
        return {
          name: made.name,
          notes: made.notes,
          counts: made.audited?.counts,
          revision: await addRevision(db, character.id, base, revision),
        };
      },
    );
  });
}

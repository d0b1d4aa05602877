import { object } from 'yup';
import { unitWord } from '@/core/placement/units';
import { filesOf, told } from '@/server/arrivals';
import { addRevision, characterById, wireOf } from '@/server/characters';
import { database } from '@/server/database';
import { answer, checked, uuid } from '@/server/http';
import { onThread } from '@/server/pool';

const schema = object({ id: uuid(), base: uuid() });

/** Adds a mesh, a prop or a skeleton to a character that is there: a new revision on top of `base`. 409 where the head has moved. */
export async function POST(request: Request, { params }: { params: Promise<{ id: string }> }) {
  return answer(request, async () => {
    const { form, files, options, listed } = await filesOf(request);
    const { id, base } = checked(schema, { ...(await params), base: form.get('base') });
    const db = database();
    const character = await characterById(db, id);
    return told('The files could not be added; nothing was changed. Try again, and report it if it stays.', async (say, signal) => {
      const wire = await wireOf(db, base);
      const made = await onThread({ task: 'add', wire, files, options, brief: character.brief }, { onProgress: say, signal });
      say({ stage: 'saving', share: 0.9 });
      const revision = await addRevision(db, id, base, { ...made, brief: character.brief, label: `added ${made.name}`, step: { kind: 'add', files: listed, notes: [...made.notes], unit: options.unitMetres ? unitWord(options.unitMetres) : 'its own unit' } });
      return { name: made.name, notes: made.notes, counts: made.audited?.counts, revision };
    });
  });
}

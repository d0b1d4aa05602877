import { object } from 'yup';
import { characterById, moveHead } from '@/server/characters';
import { database } from '@/server/database';
import { answer, bodyOf, checked, uuid } from '@/server/http';

const schema = object({ id: uuid() });
const move = object({ base: uuid(), to: uuid() });

/** Undo, redo, go back to a revision. */
export async function POST(request: Request, { params }: { params: Promise<{ id: string }> }) {
  return answer(request, async () => {
    const { id } = checked(schema, await params);
    const { base, to } = checked(move, await bodyOf(request));
    await moveHead(database(), id, base, to);
    return characterById(database(), id);
  });
}

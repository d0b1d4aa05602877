import { object, string } from 'yup';
import { copyCharacter, revisionById } from '@/server/characters';
import { database } from '@/server/database';
import { answer, bodyOf, checked, uuid } from '@/server/http';
import { Refused } from '@/server/pool';

const schema = object({ id: uuid(), revision: uuid(), name: string().trim().min(1).max(120).required() });

/** Saves a revision under a new name, as a character of its own. */
export async function POST(request: Request, { params }: { params: Promise<{ id: string }> }) {
  return answer(request, async () => {
    const { id, revision, name } = checked(schema, {
      ...(await params),
      ...((await bodyOf(request)) as object),
    });
    if ((await revisionById(database(), revision)).characterId !== id)
      throw new Refused('That revision does not belong to this character; reload the page.', 404);
    return Response.json(await copyCharacter(database(), revision, name), { status: 201 });
  });
}

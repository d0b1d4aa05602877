import { object, string } from 'yup';
import { BRIEFS } from '@/core/house/briefs';
import { characterById, removeCharacter } from '@/server/characters';
import { database } from '@/server/database';
import { answer, bodyOf, checked, uuid } from '@/server/http';

type Context = { params: Promise<{ id: string }> };
const schema = object({ id: uuid() });

export async function GET(request: Request, { params }: Context) {
  return answer(request, async () => characterById(database(), checked(schema, await params).id));
}

const change = object({
  name: string().trim().min(1).max(120),
  brief: string().oneOf(BRIEFS.map((b) => b.id)),
});

/** Changes the name or the brief. */
export async function PATCH(request: Request, { params }: Context) {
  return answer(request, async () => {
    const { id } = checked(schema, await params);
    const { name, brief } = checked(change, await bodyOf(request));
    await characterById(database(), id);
    if (name || brief)
      await database()
        .updateTable('characters')
        .set({ ...(name ? { name } : {}), ...(brief ? { brief } : {}) })
        .where('id', '=', id)
        .execute();
    return characterById(database(), id);
  });
}

export async function DELETE(request: Request, { params }: Context) {
  return answer(request, async () => {
    await removeCharacter(database(), checked(schema, await params).id);
    return { removed: true };
  });
}

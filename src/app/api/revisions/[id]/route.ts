import { object, string } from 'yup';
import { getBlob } from '@/server/blobs';
import { database } from '@/server/database';
import { answer, binary, bodyOf, checked, uuid } from '@/server/http';
import { Refused } from '@/server/pool';

/** The manifest of a revision and the addresses of its arrays. A revision never changes, so neither does this. */
export async function GET(request: Request, { params }: { params: Promise<{ id: string }> }) {
  return answer(request, async () => {
    const { id } = checked(object({ id: uuid() }), await params);
    const row = await database()
      .selectFrom('revisions')
      .select('manifest')
      .where('id', '=', id)
      .executeTakeFirst();
    const bytes = row ? await getBlob(database(), row.manifest) : null;
    if (!bytes) throw new Refused('This revision is not in the house any more; reload the page.', 404);
    return binary(bytes, 'application/json', { 'cache-control': 'private, max-age=31536000, immutable' });
  });
}

const words = object({ label: string().trim().min(1).max(200), note: string().trim().max(4000) });

/** Changes a revision's label or its note; what it holds never changes. */
export async function PATCH(request: Request, { params }: { params: Promise<{ id: string }> }) {
  return answer(request, async () => {
    const { id } = checked(object({ id: uuid() }), await params);
    const { label, note } = checked(words, await bodyOf(request));
    const change = { ...(label === undefined ? {} : { label }), ...(note === undefined ? {} : { note }) };
    if (Object.keys(change).length === 0)
      throw new Refused('The request changes nothing; send a label or a note.', 400);
    const { numUpdatedRows } = await database()
      .updateTable('revisions')
      .set(change)
      .where('id', '=', id)
      .executeTakeFirst();
    if (Number(numUpdatedRows) === 0)
      throw new Refused('This revision is not in the house any more; reload the page.', 404);
    return { saved: true };
  });
}

import { object } from 'yup';
import { getBlob } from '@/server/blobs';
import { database } from '@/server/database';
import { answer, binary, checked, uuid } from '@/server/http';
import { Refused } from '@/server/pool';

/** The manifest of a revision and the addresses of its arrays. A revision never changes, so neither does this. */
export async function GET(request: Request, { params }: { params: Promise<{ id: string }> }) {
  return answer(request, async () => {
    const { id } = checked(object({ id: uuid() }), await params);
    const row = await database().selectFrom('revisions').select('manifest').where('id', '=', id).executeTakeFirst();
    const bytes = row ? await getBlob(database(), row.manifest) : null;
    if (!bytes) throw new Refused('This revision is not in the house any more; reload the page.', 404);
    return binary(bytes, 'application/json', { 'cache-control': 'private, max-age=31536000, immutable' });
  });
}

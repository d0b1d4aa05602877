import { object } from 'yup';
import { contentAddress } from '@/routes/route';
import { getBlob } from '@/server/blobs';
import { database } from '@/server/database';
import { type Context, answer, binary, readRequest } from '@/server/http';
import { Refused } from '@/server/refused';

const PNG = 0x89;

/** A picture by its content address. */
export const GET = (request: Request, context: Context) =>
  answer(request, async () => {
    const { hash } = await readRequest(object({ hash: contentAddress() }), request, context);
    const bytes = await getBlob(database(), hash);
    if (!bytes) throw new Refused('There is nothing at this address.', 404);
    return binary(bytes, bytes[0] === PNG ? 'image/png' : 'application/octet-stream', {
      'cache-control': 'private, max-age=31536000, immutable',
    });
  });

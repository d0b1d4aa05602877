import { object, string } from 'yup';
import { getBlob } from '@/server/blobs';
import { database } from '@/server/database';
import { answer, binary, checked } from '@/server/http';
import { Refused } from '@/server/pool';

/** A picture by its content address. */
export async function GET(request: Request, { params }: { params: Promise<{ hash: string }> }) {
  return answer(request, async () => {
    const { hash } = checked(
      object({
        hash: string()
          .matches(/^[0-9a-f]{64}$/)
          .required(),
      }),
      await params,
    );
    const bytes = await getBlob(database(), hash);
    if (!bytes) throw new Refused('There is nothing at this address.', 404);
    return binary(bytes, bytes[0] === 0x89 ? 'image/png' : 'application/octet-stream', {
      'cache-control': 'private, max-age=31536000, immutable',
    });
  });
}

import { pack } from '@/core/character/bundle';
import { arraysRequest } from '@/routes/revisions';
import { getBlobs } from '@/server/blobs';
import { database } from '@/server/database';
import { type Context, answer, binary, readRequest } from '@/server/http';
import { Refused } from '@/server/refused';

/**
 * Arrays by their content address, many in one answer: { hash: bytes } as a bundle. The page asks only for
 * those it does not hold.
 */
export const POST = (request: Request, context: Context) =>
  answer(request, async () => {
    const { hashes } = await readRequest(arraysRequest, request, context, true);
    const found = await getBlobs(database(), hashes);
    const missing = hashes.find((hash) => !found.has(hash));
    if (missing)
      throw new Refused(`The array ${missing.slice(0, 12)} is not in the store; reload the page.`, 404);
    return binary(new Uint8Array(pack(Object.fromEntries(found))));
  });

import { array, object, string } from 'yup';
import { pack } from '@/core/character/bundle';
import { getBlobs } from '@/server/blobs';
import { database } from '@/server/database';
import { answer, binary, bodyOf, checked } from '@/server/http';
import { Refused } from '@/server/pool';

const schema = object({
  hashes: array(
    string()
      .matches(/^[0-9a-f]{64}$/)
      .required(),
  )
    .required()
    .max(20_000),
});

/** Arrays by their content address, many in one answer: { hash: bytes } as a bundle. The client asks only for those it does not hold. */
export async function POST(request: Request) {
  return answer(request, async () => {
    const { hashes } = checked(schema, await bodyOf(request));
    const found = await getBlobs(database(), hashes);
    const missing = hashes.find((h) => !found.has(h));
    if (missing)
      throw new Refused(`The array ${missing.slice(0, 12)} is not in the store; reload the page.`, 404);
    return binary(new Uint8Array(pack(Object.fromEntries(found))));
  });
}

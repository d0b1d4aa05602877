/** Bytes that a job is sent with come back as they were, however many parts they were cut into. */
import fc from 'fast-check';
import type { Kysely } from 'kysely';
import { addressesOf, partsOf, wholeOf } from '@/jobs/parts';
import { putBlob } from '@/server/blobs';
import type { Database } from '@/server/database';
import { houseWithBriefs } from './support/asking';

const house = houseWithBriefs('bough_parts');
let db: Kysely<Database>;
beforeAll(() => {
  db = house();
});

it('what was cut is whole again, in parts no larger than said', () =>
  fc.assert(
    fc.asyncProperty(
      fc.uint8Array({ maxLength: 40 }),
      fc.integer({ min: 1, max: 50 }),
      async (bytes, most) => {
        const parts = partsOf(bytes, most);
        expect(parts.every((part) => part.length <= most)).toBe(true);
        for (const part of parts) await putBlob(db, part);
        expect(await wholeOf(db, addressesOf(parts))).toEqual(bytes);
      },
    ),
    { numRuns: 100 },
  ));

it('where a part is not kept there is nothing', async () => {
  expect(await wholeOf(db, [await putBlob(db, Uint8Array.from([1])), 'f'.repeat(64)])).toBeNull();
});

/** The PDF of a report, made once and kept beside it. */
import type { Kysely, Transaction } from 'kysely';
import { type Db, hashOf, putBlob } from './blobs';
import { type Database, lockForKeeping } from './database';

/** The PDF of a report that has been printed before; null where it has not. */
export async function printOf(db: Db, report: Uint8Array): Promise<Uint8Array | null> {
  const row = await db
    .selectFrom('prints')
    .innerJoin('blobs', 'blobs.hash', 'prints.pdf')
    .select('bytes')
    .where('report', '=', hashOf(report))
    .executeTakeFirst();
  return row ? new Uint8Array(row.bytes.buffer, row.bytes.byteOffset, row.bytes.byteLength) : null;
}

/** Keeps a PDF beside the report that it is of; gives its address. */
export async function keepPrint(
  db: Kysely<Database>,
  report: Uint8Array,
  pdf: Uint8Array,
  ended: (trx: Transaction<Database>, kept: { pdf: string }) => Promise<void>,
  signal?: AbortSignal,
): Promise<{ pdf: string }> {
  const keep = async (trx: Transaction<Database>) => {
    const hash = await putBlob(trx, pdf);
    await trx
      .insertInto('prints')
      .values({ report: hashOf(report), pdf: hash })
      .onConflict((builder) => builder.column('report').doNothing())
      .execute();
    await ended(trx, { pdf: hash });
    return { pdf: hash };
  };
  return lockForKeeping(db, keep, signal);
}

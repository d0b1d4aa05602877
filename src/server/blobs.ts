import { createHash } from 'node:crypto';
import { type Kysely, type Transaction, sql } from 'kysely';
import type { Database } from './database';

export type Db = Kysely<Database> | Transaction<Database>;

/** The sha-256 of bytes, hexadecimal: their address. */
export const hashOf = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/** Stores bytes under their sha-256; bytes that are there already are not written again. */
export async function putBlob(db: Db, bytes: Uint8Array): Promise<string> {
  const hash = hashOf(bytes);
  await db
    .insertInto('blobs')
    .values({
      hash,
      bytes: Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength),
      size: bytes.length,
    })
    .onConflict((builder) => builder.column('hash').doNothing())
    .execute();
  return hash;
}

/** What is stored in one statement at most: rows, and bytes. */
const PORTION = { rows: 1000, bytes: 16 * 2 ** 20 };

/** Stores many bytes under their addresses; those that are there already are not written again. */
export async function putBlobs(db: Db, blobs: Iterable<readonly [string, Uint8Array]>): Promise<void> {
  let rows: { hash: string; bytes: Buffer; size: number }[] = [];
  let size = 0;
  const put = async () => {
    if (rows.length === 0) return;
    await db
      .insertInto('blobs')
      .values(rows)
      .onConflict((builder) => builder.column('hash').doNothing())
      .execute();
    rows = [];
    size = 0;
  };
  for (const [hash, bytes] of blobs) {
    rows.push({
      hash,
      bytes: Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength),
      size: bytes.length,
    });
    size += bytes.length;
    if (rows.length >= PORTION.rows || size >= PORTION.bytes) await put();
  }
  await put();
}

/** The bytes at an address; null where there are none. */
export async function getBlob(db: Db, hash: string): Promise<Uint8Array | null> {
  const row = await db.selectFrom('blobs').select('bytes').where('hash', '=', hash).executeTakeFirst();
  return row ? new Uint8Array(row.bytes.buffer, row.bytes.byteOffset, row.bytes.byteLength) : null;
}

/** The bytes at some addresses; one that is not stored is left out. */
export async function getBlobs(db: Db, hashes: readonly string[]): Promise<Map<string, Uint8Array>> {
  if (hashes.length === 0) return new Map();
  const rows = await db
    .selectFrom('blobs')
    .select(['hash', 'bytes'])
    // One parameter, however many there are.
    .where(sql<boolean>`hash = any(${[...new Set(hashes)]}::text[])`)
    .execute();
  return new Map(
    rows.map((row) => [
      row.hash,
      new Uint8Array(row.bytes.buffer, row.bytes.byteOffset, row.bytes.byteLength),
    ]),
  );
}

/**
 * Takes those of the blobs away that nothing needs any more. Within {@link clearing}, so that nobody who is keeping some
 * has just found them.
 */
export async function dropUnneeded(trx: Transaction<Database>, hashes: readonly string[]): Promise<void> {
  if (hashes.length === 0) return;
  await sql`
    delete from blobs b
    where b.hash = any(${[...hashes]})
      and not exists (select 1 from revision_blobs x where x.hash = b.hash)
      and not exists (select 1 from revisions r where r.manifest = b.hash)
      and not exists (select 1 from revisions r where r.picture = b.hash)
      and not exists (select 1 from audits a where a.findings = b.hash)
      and not exists (select 1 from dockets d where d.file = b.hash)
      and not exists (select 1 from dockets d where d.docket = b.hash)
      and not exists (select 1 from dockets d where d.report = b.hash)
      and not exists (select 1 from dockets d where d.picture = b.hash)
      and not exists (select 1 from job_blobs j where j.hash = b.hash)
      and not exists (select 1 from prints p where p.report = b.hash)
      and not exists (select 1 from prints p where p.pdf = b.hash)
  `.execute(trx);
}

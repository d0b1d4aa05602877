import { type Kysely, sql } from 'kysely';
import type { Db } from './blobs';
import type { CrosswalkFile } from '../core/rooms/crosswalk/file';
import type { Database } from './database';

/** The crosswalk saved for two skeletons, or null. */
export async function savedCrosswalk(
  db: Kysely<Database>,
  source: string,
  target: string,
): Promise<CrosswalkFile | null> {
  const row = await db
    .selectFrom('crosswalks')
    .select('file')
    .where('source_fingerprint', '=', source)
    .where('target_fingerprint', '=', target)
    .executeTakeFirst();
  return (row?.file as CrosswalkFile | undefined) ?? null;
}

/** Most saved crosswalks that are looked through for one that fits nearly. */
const MOST = 200;

/** What was saved onto a skeleton from any other, the newest first. */
export async function crosswalksOnto(db: Kysely<Database>, target: string): Promise<CrosswalkFile[]> {
  const rows = await db
    .selectFrom('crosswalks')
    .select('file')
    .where('target_fingerprint', '=', target)
    .orderBy('updated_at', 'desc')
    .limit(MOST)
    .execute();
  return rows.map((row) => row.file as CrosswalkFile);
}

/** Saves a crosswalk under the fingerprints of its skeletons; the newest for a pair stays. */
export async function saveCrosswalk(db: Db, file: CrosswalkFile): Promise<void> {
  const { source, target } = file;
  const json = JSON.stringify(file);
  await db
    .insertInto('crosswalks')
    .values({
      source_fingerprint: source.fingerprint,
      target_fingerprint: target.fingerprint,
      target: target.title,
      file: json,
    })
    .onConflict((builder) =>
      builder
        .columns(['source_fingerprint', 'target_fingerprint'])
        .doUpdateSet({ file: json, target: target.title, updated_at: sql`now()` as never }),
    )
    .execute();
}

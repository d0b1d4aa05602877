import { type Kysely, sql } from 'kysely';
import type { Database } from './database';

/** The crosswalk saved for two skeletons, or null. */
export async function savedCrosswalk(db: Kysely<Database>, source: string, target: string): Promise<unknown> {
  const row = await db
    .selectFrom('crosswalks')
    .select('file')
    .where('source_fingerprint', '=', source)
    .where('target_fingerprint', '=', target)
    .executeTakeFirst();
  return row?.file ?? null;
}

/** Saves a crosswalk under the fingerprints of its skeletons; the newest for a pair stays. */
export async function saveCrosswalk(
  db: Kysely<Database>,
  source: string,
  target: string,
  title: string,
  file: unknown,
): Promise<void> {
  const json = JSON.stringify(file);
  await db
    .insertInto('crosswalks')
    .values({ source_fingerprint: source, target_fingerprint: target, target: title, file: json })
    .onConflict((c) =>
      c
        .columns(['source_fingerprint', 'target_fingerprint'])
        .doUpdateSet({ file: json, target: title, updated_at: sql`now()` as never }),
    )
    .execute();
}

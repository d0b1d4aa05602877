/** What is told to everybody who listens to the database, when what it tells of is written. */
import { type Kysely, type Transaction, sql } from 'kysely';
import type { PageTold } from '../routes/jobs';
import type { Database } from './database';

/** Where it is told, in JSON. */
export const CHANNEL = 'bough';

export type Told =
  /** Something waits in a queue. */
  | { readonly what: 'asked'; readonly queue: string }
  /** Whoever is at this job ends it. */
  | { readonly what: 'cancelled'; readonly job: string }
  | PageTold;

/** Tells everybody several things at once. */
export async function tellEach(
  db: Kysely<Database> | Transaction<Database>,
  told: readonly Told[],
): Promise<void> {
  const texts = told.map((change) => JSON.stringify(change));
  await sql`select pg_notify(${CHANNEL}, t) from unnest(${texts}::text[]) t`.execute(db);
}

/** Tells everybody; within a transaction, when that is written. */
export async function tellAll(db: Kysely<Database> | Transaction<Database>, told: Told): Promise<void> {
  await sql`select pg_notify(${CHANNEL}, ${JSON.stringify(told)})`.execute(db);
}

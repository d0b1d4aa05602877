/**
 * The queue: pg-boss in the database that is there anyway. It delivers ids of jobs, each to one worker at a time, and
 * delivers again what a worker failed at; what a job is and how it stands is told by the table of jobs.
 */
import { CompiledQuery, type Kysely, type Transaction, sql } from 'kysely';
import PgBoss from 'pg-boss';
import type { Database } from '../server/database';
import { tellEach } from '../server/told';
import { type JobKind, queueOf } from './job';
import { ALL_KINDS } from './kinds';

/** How often a job is begun before it is set aside: by workers that end with it, or by errors that are no refusals. */
export const MOST_ATTEMPTS = 3;

/** From how many jobs that come at once the database is to count how many wait. */
const HEAP = 200;

/** The tables of the queue live in a schema of their own. */
export const SCHEMA = 'queue';

type Db = Kysely<Database> | Transaction<Database>;

/** The queue's way to the database, within a transaction of the caller's where that is given. */
export const through = (db: Db): PgBoss.Db => ({
  executeSql: async (text, values) => {
    const { rows } = await db.executeQuery(CompiledQuery.raw(text, values ?? []));
    return { rows: rows as unknown[] };
  },
});

/** A queue that is neither looked after nor changed by this process: it asks, takes and ends. */
const bossOn = (db: Db, more: Partial<PgBoss.ConstructorOptions> = {}): PgBoss =>
  new PgBoss({ db: through(db), schema: SCHEMA, supervise: false, schedule: false, migrate: false, ...more });

/** Makes the queue's tables, or brings them up to date, and a queue for every kind. */
export async function prepareQueue(db: Kysely<Database>): Promise<void> {
  const boss = bossOn(db, { migrate: true });
  await boss.start();
  for (const kind of ALL_KINDS) {
    const name = queueOf(kind);
    // Each begins again after 2, then 4 seconds and more.
    const options = { name, retryLimit: MOST_ATTEMPTS - 1, retryDelay: 2, retryBackoff: true };
    if (await boss.getQueue(name)) await boss.updateQueue(name, options);
    else await boss.createQueue(name, options);
  }
  await boss.stop({ graceful: false, close: false });
  // The order in which jobs are taken, so that taking one costs the same however many wait; partitions inherit it.
  const job = sql.table(`${SCHEMA}.job`);
  await sql`
    create index if not exists job_in_order on ${job} (name, priority desc, created_on, id) where state < 'active'
  `.execute(db);
}

const held = globalThis as unknown as {
  boughQueue?: { readonly db: Kysely<Database>; readonly boss: Promise<PgBoss> };
};

/** The queue of this process. */
export function queue(db: Kysely<Database>): Promise<PgBoss> {
  if (held.boughQueue?.db !== db) held.boughQueue = { db, boss: begun(db) };
  return held.boughQueue.boss;
}

async function begun(db: Kysely<Database>): Promise<PgBoss> {
  const boss = bossOn(db);
  // A listener: an error that nobody hears would end the process.
  boss.on('error', (error) => process.stderr.write(`${error.message}\n`));
  return boss.start();
}

/** Hands jobs to their queues, within the transaction that writes them down. */
export async function enqueue(
  boss: PgBoss,
  trx: Transaction<Database>,
  jobs: readonly (Pick<JobKind, 'kind' | 'version'> & { readonly id: string })[],
): Promise<void> {
  if (jobs.length === 0) return;
  await boss.insert(
    jobs.map((job) => ({ id: job.id, name: queueOf(job) })),
    { db: through(trx) } as never,
  );
  // The database counts again by itself, but later: until then it would sort all that waits each time that one is taken.
  if (jobs.length >= HEAP) await sql`analyze ${sql.table(`${SCHEMA}.job`)}`.execute(trx);
  const names = [...new Set(jobs.map(queueOf))];
  await tellEach(
    trx,
    names.map((queue) => ({ what: 'asked', queue })),
  );
}

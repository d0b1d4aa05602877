/**
 * A worker: takes jobs of the kinds that it knows, as many at a time as its lanes have room for, and does them in its
 * threads. That it lives is told by a lock on its connection, which the database lets go of when either ends.
 */
import { randomInt } from 'node:crypto';
import type { ExpressionBuilder, Kysely, Transaction } from 'kysely';
import { sql } from 'kysely';
import { Client } from 'pg';
import type PgBoss from 'pg-boss';
import type { Database, JobProgress } from '../server/database';
import { Refused, cancelled } from '../server/refused';
import { CHANNEL, type Told, tellAll } from '../server/told';
import { endParent } from './ask';
import { type JobKind, LANES, type Lane, queueOf } from './job';
import { MOST_ATTEMPTS, SCHEMA, queue, through } from './queue';

/** The first half of the locks that workers hold; the second half is their own number. */
const ALIVE = 7_290_115;

/** How often a worker looks round by itself: for jobs that wait out a delay, and for workers that have ended. */
const ROUND = 1000;

/** How often progress is written down at most, milliseconds. */
const TOLD = 250;

/** How long a worker waits before it looks for the database again, milliseconds. */
const AGAIN = 1000;

/** Jobs at a time, lane by lane. */
export type Capacity = Readonly<Record<Lane, number>>;

export const CAPACITY: Capacity = { 'at hand': 2, 'in heaps': 1 };

/** One job that this worker is at. */
interface Running {
  readonly id: string;
  readonly lane: Lane;
  readonly abort: AbortController;
}

export class Worker {
  private readonly running = new Set<Running>();
  private client: Client | null = null;
  private key = 0;
  private timer: ReturnType<typeof setInterval> | undefined;
  private isStopping = false;
  private turn = 0;
  private taking: Promise<void> = Promise.resolve();

  constructor(
    private readonly db: Kysely<Database>,
    private readonly url: string,
    private readonly kinds: readonly JobKind[],
    private readonly room: Capacity = CAPACITY,
  ) {}

  /** Begins to take jobs. */
  async start(): Promise<void> {
    await this.connect();
    this.timer = setInterval(() => void this.round(), ROUND);
    await this.round();
  }

  /** Takes no more; what it is at is given back and begun again by whoever lives. */
  async stop(): Promise<void> {
    this.isStopping = true;
    clearInterval(this.timer);
    await this.taking;
    for (const { abort } of this.running) abort.abort();
    while (this.running.size > 0) await pause(20);
    await this.client?.end().catch(() => {});
  }

  /** A connection of its own: it hears what is told, and holds the lock. */
  private async connect(): Promise<void> {
    const client = new Client({ connectionString: this.url, keepAlive: true });
    client.on('error', () => {});
    client.on('end', () => void this.lost(client));
    client.on('notification', ({ payload }) => this.hear(JSON.parse(payload ?? '{}') as Told));
    await client.connect();
    for (;;) {
      const key = randomInt(1, 2 ** 31 - 1);
      const { rows } = await client.query('select pg_try_advisory_lock($1, $2) as free', [ALIVE, key]);
      if (!rows[0].free) continue;
      this.key = key;
      break;
    }
    await client.query(`listen ${CHANNEL}`);
    this.client = client;
  }

  /** Without its lock others take a worker for ended: it drops what it is at, and comes back under another number. */
  private async lost(client: Client): Promise<void> {
    if (this.isStopping || client !== this.client) return;
    this.client = null;
    for (const { abort } of this.running) abort.abort();
    while (!this.isStopping && !this.client) {
      await pause(AGAIN);
      await this.connect().catch(() => {});
    }
    await this.round();
  }

  private hear(told: Told): void {
    if (told.what === 'asked') void this.take();
    if (told.what !== 'cancelled') return;
    for (const { id, abort } of this.running) if (id === told.job) abort.abort();
  }

  private async round(): Promise<void> {
    try {
      await this.bury();
      await this.take();
    } catch (error) {
      // The database may be away; the next round tries again.
      if (this.client) process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
    }
  }

  /** Fetches what there is room for; one fetch after the other, so that none takes too much. */
  private take(): Promise<void> {
    this.taking = this.taking.then(() => this.takeNow()).catch(() => {});
    return this.taking;
  }

  private async takeNow(): Promise<void> {
    if (this.isStopping || !this.client) return;
    const boss = await queue(this.db);
    // Each kind is the first in its turn: no heap of one keeps another waiting.
    this.turn++;
    for (const lane of LANES) {
      const kinds = this.kinds.filter((k) => k.lane === lane);
      for (let i = 0; i < kinds.length; i++) {
        const kind = kinds[(i + this.turn) % kinds.length];
        const free = this.room[lane] - [...this.running].filter((r) => r.lane === lane).length;
        if (free <= 0) break;
        for (const { id } of await boss.fetch(queueOf(kind), { batchSize: free }))
          void this.begin(boss, kind, id);
      }
    }
  }

  private async begin(boss: PgBoss, kind: JobKind, id: string): Promise<void> {
    const abort = new AbortController();
    const entry: Running = { id, lane: kind.lane, abort };
    this.running.add(entry);
    const { key } = this;
    try {
      const row = await this.claim(id, key);
      if (row) await this.work(boss, kind, row, abort.signal, key);
      // It ended while it waited, or is gone with its character.
      else await boss.deleteJob(queueOf(kind), id);
    } catch (error) {
      // Whatever could not be written down is found by the next round of whoever lives.
      process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
    } finally {
      this.running.delete(entry);
      void this.take();
    }
  }

  private async claim(id: string, worker: number) {
    const row = await this.db
      .updateTable('jobs')
      .set((e) => ({
        state: 'running',
        worker,
        attempts: e('attempts', '+', 1),
        started_at: sql`now()` as never,
      }))
      .where('id', '=', id)
      .where('state', 'in', ['asked', 'running'])
      .returningAll()
      .executeTakeFirst();
    if (row) await tellAll(this.db, { what: 'job', job: id, parent: row.parent });
    return row;
  }

  private async work(
    boss: PgBoss,
    kind: JobKind,
    row: NonNullable<Awaited<ReturnType<Worker['claim']>>>,
    signal: AbortSignal,
    worker: number,
  ): Promise<void> {
    const name = queueOf(kind);
    const { id, parent, attempts } = row;
    const mine = { id, worker, attempts };
    const teller = new Teller(this.db, mine, parent);
    let isKept = false;
    try {
      const input = kind.input.validateSync(row.input) as object;
      await kind.run(input, {
        db: this.db,
        base: row.base,
        character: row.character_id,
        signal,
        tell: (progress) => teller.tell(progress),
        ended: async (trx, answer) => {
          await end(trx, mine, { state: 'done', answer: JSON.stringify(answer) });
          await boss.deleteJob(name, id, { db: through(trx) });
          isKept = true;
        },
      });
      if (!isKept) throw new Error(`The work “${kind.kind}” ended without keeping its ending.`);
    } catch (error) {
      await this.failed(boss, name, mine, error, signal);
    } finally {
      teller.end();
    }
  }

  /** What a person can mend ends the job with its sentence; anything else is tried again, later each time. */
  private async failed(
    boss: PgBoss,
    name: string,
    mine: Mine,
    error: unknown,
    signal: AbortSignal,
  ): Promise<void> {
    const isOurs = signal.aborted || !(error instanceof Refused);
    await this.db.transaction().execute(async (trx) => {
      if (!isOurs) {
        await end(trx, mine, { state: 'refused', message: (error as Refused).message });
        await boss.deleteJob(name, mine.id, { db: through(trx) });
        return;
      }
      if (!signal.aborted) process.stderr.write(`${error instanceof Error ? error.stack : String(error)}\n`);
      await giveBack(boss, trx, name, mine, signal.aborted && this.isStopping);
    });
  }

  /** Jobs of workers that are no more are given back, or set aside where they took too many with them. */
  private async bury(): Promise<void> {
    if (!this.client) return;
    const boss = await queue(this.db);
    await this.db.transaction().execute(async (trx) => {
      const lost = await trx
        .selectFrom('jobs')
        .select(['id', 'kind', 'version', 'worker', 'attempts'])
        .where('state', '=', 'running')
        .where('worker', 'is not', null)
        .where(
          sql<boolean>`not exists (select 1 from pg_locks l where l.locktype = 'advisory' and l.granted
            and l.database = (select oid from pg_database where datname = current_database())
            and l.classid = ${ALIVE} and l.objid = jobs.worker)`,
        )
        .forUpdate()
        .skipLocked()
        .execute();
      for (const { id, kind, version, worker, attempts } of lost)
        await giveBack(boss, trx, queueOf({ kind, version }), { id, worker: worker!, attempts }, false);
    });
    // Taken from the queue by a worker that ended before it could say so.
    const { rows } = await sql<{ id: string; name: string }>`
      select q.id, q.name from ${sql.ref(`${SCHEMA}.job`)} q join jobs on jobs.id = q.id
      where q.state = 'active' and jobs.state = 'asked' and q.started_on < now() - interval '5 seconds'
    `.execute(this.db);
    for (const { id, name } of rows) await boss.fail(name, id);
  }
}

/** One beginning of a job by one worker: whoever is not it any more ends nothing. */
interface Mine {
  readonly id: string;
  readonly worker: number;
  readonly attempts: number;
}

/** True of the row while the job is still at this beginning of it. */
const stillIs =
  ({ id, worker, attempts }: Mine) =>
  (e: ExpressionBuilder<Database, 'jobs'>) =>
    e.and({ id, worker, attempts, state: 'running' });

/** Writes how a job ended. Throws where it is another's meanwhile, or was cancelled. */
async function end(
  trx: Transaction<Database>,
  mine: Mine,
  values: { state: 'done' | 'refused' | 'set aside'; answer?: string; message?: string },
): Promise<void> {
  const row = await trx
    .updateTable('jobs')
    .set({ ...values, progress: null, worker: null, ended_at: sql`now()` as never })
    .where(stillIs(mine))
    .returning('parent')
    .executeTakeFirst();
  if (!row) throw cancelled();
  await tellAll(trx, { what: 'job', job: mine.id, parent: row.parent });
  if (row.parent) await endParent(trx, row.parent);
}

/** Puts a job back into its queue, or sets it aside where it has been begun too often. */
async function giveBack(
  boss: PgBoss,
  trx: Transaction<Database>,
  name: string,
  mine: Mine,
  isNoFault: boolean,
): Promise<void> {
  if (mine.attempts >= MOST_ATTEMPTS && !isNoFault) {
    const message = `It was begun ${mine.attempts} times and ended its worker or failed each time; it is set aside. Ask for it again, or report it if it stays.`;
    await end(trx, mine, { state: 'set aside', message });
    await boss.deleteJob(name, mine.id, { db: through(trx) });
    return;
  }
  const row = await trx
    .updateTable('jobs')
    .set((e) => ({
      state: 'asked',
      worker: null,
      progress: null,
      // A worker that was asked to end has not failed.
      attempts: isNoFault ? e('attempts', '-', 1) : e.ref('attempts'),
    }))
    .where(stillIs(mine))
    .returning('parent')
    .executeTakeFirst();
  if (!row) return;
  if (isNoFault) {
    // The queue counts as well: what is no fault is put in anew.
    await boss.deleteJob(name, mine.id, { db: through(trx) });
    await boss.send(name, {}, { id: mine.id, db: through(trx) });
  } else {
    await boss.fail(name, mine.id, {}, { db: through(trx) });
  }
  await tellAll(trx, { what: 'asked', queue: name });
  await tellAll(trx, { what: 'job', job: mine.id, parent: row.parent });
}

/** Writes progress down, not more often than people can read it. */
class Teller {
  private last: JobProgress | null = null;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private isEnded = false;

  constructor(
    private readonly db: Kysely<Database>,
    private readonly mine: Mine,
    private readonly parent: string | null,
  ) {}

  tell(progress: JobProgress): void {
    this.last = progress;
    if (!this.isEnded) this.timer ??= setTimeout(() => void this.write(), TOLD);
  }

  private async write(): Promise<void> {
    this.timer = undefined;
    const write = this.db
      .updateTable('jobs')
      .set({ progress: JSON.stringify(this.last) })
      .where(stillIs(this.mine))
      .execute();
    // Progress that is lost harms nothing.
    await write
      .then(() => tellAll(this.db, { what: 'job', job: this.mine.id, parent: this.parent }))
      .catch(() => {});
  }

  end(): void {
    this.isEnded = true;
    clearTimeout(this.timer);
  }
}

const pause = (milliseconds: number): Promise<void> => new Promise((done) => setTimeout(done, milliseconds));

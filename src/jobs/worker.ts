/**
 * A worker: takes jobs of the kinds that it knows, as many at a time as its lanes have room for, and does them in its
 * threads. That it lives is told by a lock on its connection, which the database lets go of when either ends.
 */
import { randomInt } from 'node:crypto';
import type { ExpressionBuilder, Kysely, Transaction } from 'kysely';
import { sql } from 'kysely';
import { Client } from 'pg';
import type PgBoss from 'pg-boss';
import { LANES, type Lane } from '../routes/jobs';
import { type Database, type JobProgress, type JobRefusal, databaseTrouble } from '../server/database';
import { Refused, cancelled } from '../server/refused';
import { CHANNEL, type Told, tellAll } from '../server/told';
import { type JobRow, dropFiles, endParent } from './ask';
import { boundsOf } from './bounds';
import { ALIVE, type JobKind, queueOf } from './job';
import { MOST_ATTEMPTS, SCHEMA, queue, through } from './queue';

/** How often a worker looks round by itself: for jobs that wait out a delay, and for workers that have ended. */
const ROUND = 1000;

/** How often progress is written down at most, milliseconds. */
const TOLD = 250;

/** When a job is begun again that the database was in trouble under, seconds. */
const LATER = 2;

/** How long a worker waits before it looks for the database again, milliseconds. */
const AGAIN = 1000;

/** How often what ended jobs were sent with is taken away, and they themselves when they are old, milliseconds. */
const SWEEP = 30_000;

/** Jobs at a time, lane by lane. */
export type Capacity = Readonly<Record<Lane, number>>;

/** What a worker takes at a time: what comes in heaps has one core, what is at hand is begun whatever else goes on. */
const CAPACITY: Capacity = { 'at hand': 4, 'one at a time': 2, 'in heaps': 1, printing: 1 };

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
  private swept = 0;
  /** Endings that could not be written down yet. */
  private readonly unsaid = new Set<() => Promise<void>>();

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
    if (told.what === 'asked') void this.take(this.kinds.find((kind) => queueOf(kind) === told.queue));
    if (told.what !== 'cancelled') return;
    for (const { id, abort } of this.running) if (id === told.job) abort.abort();
  }

  private async round(): Promise<void> {
    try {
      for (const say of [...this.unsaid]) {
        await say();
        this.unsaid.delete(say);
      }
      await this.bury();
      await this.takeAll();
      await this.sweep();
    } catch (error) {
      // The database may be away; the next round tries again.
      if (this.client) process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
    }
  }

  /** Fetches what there is room for; one fetch after the other, so that none takes too much. */
  private take(kind: JobKind | undefined): Promise<void> {
    if (!kind) return Promise.resolve();
    this.taking = this.taking.then(() => this.takeNow(kind)).catch(() => {});
    return this.taking;
  }

  /** Each kind is the first in its turn: no heap of one keeps another of its lane waiting. */
  private async takeAll(lanes: readonly Lane[] = LANES): Promise<void> {
    this.turn++;
    for (const lane of lanes) {
      const kinds = this.kinds.filter((kind) => kind.lane === lane);
      for (let i = 0; i < kinds.length; i++) await this.take(kinds[(i + this.turn) % kinds.length]);
    }
  }

  private async takeNow(kind: JobKind): Promise<void> {
    if (this.isStopping || !this.client) return;
    const free =
      this.room[kind.lane] - [...this.running].filter((running) => running.lane === kind.lane).length;
    if (free <= 0) return;
    const boss = await queue(this.db);
    const { key } = this;
    for (const row of await claim(this.db, boss, kind, free, key)) void this.begin(boss, kind, row, key);
  }

  private async begin(boss: PgBoss, kind: JobKind, row: JobRow, key: number): Promise<void> {
    const abort = new AbortController();
    const entry: Running = { id: row.id, lane: kind.lane, abort };
    this.running.add(entry);
    try {
      await this.work(boss, kind, row, abort.signal, key);
    } finally {
      this.running.delete(entry);
      void this.takeAll([kind.lane]);
    }
  }

  private async work(
    boss: PgBoss,
    kind: JobKind,
    row: JobRow,
    signal: AbortSignal,
    worker: number,
  ): Promise<void> {
    const name = queueOf(kind);
    const { id, parent, attempts } = row;
    const mine = { id, worker, attempts };
    const teller = new Teller(this.db, mine, parent, row.lane);
    let isKept = false;
    try {
      const input = kind.input.validateSync(row.input) as object;
      await kind.run(input, {
        db: this.db,
        id,
        bounds: boundsOf(kind),
        base: row.base,
        character: row.character_id,
        signal,
        tell: (progress) => teller.tell(progress),
        ended: async (trx, answer) => {
          await end(trx, mine, { state: 'done', answer: JSON.stringify(answer) });
          await boss.deleteJob(name, id, { db: through(trx) });
          isKept = true;
        },
        stillMine: (trx) => guardMine(trx, mine),
        notOthers: (trx) => guardNotOthers(trx, mine),
      });
      if (!isKept) throw new Error(`The work “${kind.kind}” ended without keeping its ending.`);
    } catch (error) {
      // Neither a worker that was asked to end nor a database that is away is a fault of the job.
      const isTrouble = databaseTrouble(error) !== null;
      const isNoFault = (signal.aborted && (this.isStopping || !this.client)) || isTrouble;
      if (!signal.aborted && !(error instanceof Refused))
        process.stderr.write(`${error instanceof Error ? error.stack : String(error)}\n`);
      const say = () =>
        this.failed(boss, name, mine, error, { signal, isNoFault, delay: isTrouble ? LATER : 0 });
      // Where the database is away, the next rounds say it.
      await say().catch(() => this.unsaid.add(say));
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
    { signal, isNoFault, delay }: Failing,
  ): Promise<void> {
    const isOurs = signal.aborted || !(error instanceof Refused);
    await this.db.transaction().execute(async (trx) => {
      if (!isOurs) {
        const { message, status, body } = error as Refused;
        await end(trx, mine, { state: 'refused', message, refusal: { status, body } });
        await boss.deleteJob(name, mine.id, { db: through(trx) });
        return;
      }
      await giveBack(boss, trx, name, mine, isNoFault, delay);
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
        // A database that was started again took all workers with it; no job is to blame.
        .select(sql<boolean>`started_at < pg_postmaster_start_time()`.as('isNoFault'))
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
      for (const { id, kind, version, worker, attempts, isNoFault } of lost)
        await giveBack(boss, trx, queueOf({ kind, version }), { id, worker: worker!, attempts }, isNoFault);
    });
    // Taken from the queue by a worker that ended before it could say so.
    const { rows } = await sql<{ id: string; name: string }>`
      select q.id, q.name from ${sql.ref(`${SCHEMA}.job`)} q join jobs on jobs.id = q.id
      where q.state = 'active' and jobs.state = 'asked' and q.started_on < now() - interval '5 seconds'
    `.execute(this.db);
    for (const { id, name } of rows) await boss.fail(name, id);
  }

  /** What ended jobs were sent with goes, and after a time they themselves. */
  private async sweep(): Promise<void> {
    if (!this.client || Date.now() - this.swept < SWEEP) return;
    this.swept = Date.now();
    const ended = await this.db
      .selectFrom('job_blobs')
      .innerJoin('jobs', 'jobs.id', 'job_blobs.job_id')
      .select('jobs.id')
      .distinct()
      .where('jobs.ended_at', 'is not', null)
      .where('jobs.state', '<>', 'set aside')
      .limit(1000)
      .execute();
    await dropFiles(
      this.db,
      ended.map((j) => j.id),
    );
    await sql`
      delete from jobs where parent is null and ended_at is not null and state <> 'set aside' and
        ended_at < now() - (case lane when 'at hand' then ${KEPT['at hand']} else ${KEPT.others} end)::interval
    `.execute(this.db);
  }
}

/** Tells of the jobs that a statement has changed. */
const JOB_TOLD =
  sql`pg_notify(${CHANNEL}, json_build_object('what', 'job', 'job', id, 'parent', parent, 'lane', lane)::text)`.as(
    'told',
  );

/**
 * Takes up to so many jobs of a kind out of their queue, and writes down whose they are. One that is taken by a worker
 * that ends before it could write that down is found by the next round.
 */
async function claim(
  db: Kysely<Database>,
  boss: PgBoss,
  kind: JobKind,
  most: number,
  worker: number,
): Promise<JobRow[]> {
  const name = queueOf(kind);
  const fetched = (await boss.fetch(name, { batchSize: most })).map((job) => job.id);
  if (fetched.length === 0) return [];
  const rows = await db
    .with('begun', (creator) =>
      creator
        .updateTable('jobs')
        .set((expression) => ({
          state: 'running',
          worker,
          attempts: expression('attempts', '+', 1),
          started_at: sql`now()` as never,
        }))
        .where('id', 'in', fetched)
        .where('state', 'in', ['asked', 'running'])
        .returningAll(),
    )
    .selectFrom('begun')
    .selectAll()
    .select(JOB_TOLD)
    .execute();
  // They ended while they waited, or are gone with what they were part of.
  const gone = fetched.filter((id) => !rows.some((row) => row.id === id));
  if (gone.length > 0) await boss.deleteJob(name, gone);
  return rows;
}

/** Ended jobs are kept for so long that whoever asked for them has seen what came of them: in heaps, at hand. */
const KEPT = { others: '30 days', 'at hand': '1 day' } as const;

/** How a job came to fail. */
interface Failing {
  readonly signal: AbortSignal;
  /** It is to blame on something else than the job. */
  readonly isNoFault: boolean;
  /** When it may be begun again, seconds. */
  readonly delay: number;
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
  (expression: ExpressionBuilder<Database, 'jobs'>) =>
    expression.and({ id, worker, attempts, state: 'running' });

/** Throws where the job is neither this beginning's nor at its end: another goes on with it, or will. */
async function guardNotOthers(trx: Transaction<Database>, mine: Mine): Promise<void> {
  const row = await trx
    .selectFrom('jobs')
    .select(['state', 'worker', 'attempts'])
    .where('id', '=', mine.id)
    .forUpdate()
    .executeTakeFirst();
  const isOpen = row?.state === 'asked' || row?.state === 'running';
  if (isOpen && !(row.state === 'running' && row.worker === mine.worker && row.attempts === mine.attempts))
    throw cancelled();
}

/** How a job ended. */
interface Ending {
  readonly state: 'done' | 'refused' | 'set aside';
  readonly answer?: string;
  readonly message?: string;
  readonly refusal?: JobRefusal;
}

/** Throws where the job is another's meanwhile, or was cancelled; till the transaction ends it stays what it is. */
async function guardMine(trx: Transaction<Database>, mine: Mine): Promise<void> {
  const row = await trx.selectFrom('jobs').select('id').where(stillIs(mine)).forUpdate().executeTakeFirst();
  if (!row) throw cancelled();
}

/** Writes how a job ended. Throws where it is another's meanwhile, or was cancelled. */
async function end(trx: Transaction<Database>, mine: Mine, { refusal, ...values }: Ending): Promise<void> {
  const row = await trx
    // Two parts that end at once would each see the other still at work.
    .with('whole', (creator) =>
      creator
        .selectFrom('jobs')
        .select('id')
        .where('id', '=', (expression) =>
          expression.selectFrom('jobs as part').select('part.parent').where('part.id', '=', mine.id),
        )
        .forUpdate(),
    )
    .with('ending', (creator) =>
      creator
        .updateTable('jobs')
        .set({
          ...values,
          ...(refusal && { refusal: JSON.stringify(refusal) }),
          progress: null,
          worker: null,
          ended_at: sql`now()` as never,
        })
        .where(stillIs(mine))
        .where((expression) =>
          expression.not(
            expression.exists(
              expression.selectFrom('whole').select('whole.id').where('whole.id', 'is', null),
            ),
          ),
        )
        .returning(['id', 'parent', 'lane']),
    )
    .selectFrom('ending')
    .select('parent')
    .select(JOB_TOLD)
    .executeTakeFirst();
  if (!row) throw cancelled();
  if (row.parent) await endParent(trx, row.parent);
}

/** Puts a job back into its queue, or sets it aside where it has been begun too often. */
async function giveBack(
  boss: PgBoss,
  trx: Transaction<Database>,
  name: string,
  mine: Mine,
  isNoFault: boolean,
  startAfter = 0,
): Promise<void> {
  if (mine.attempts >= MOST_ATTEMPTS && !isNoFault) {
    const message = `It was begun ${mine.attempts} times and ended its worker or failed each time; it is set aside. Ask for it again, or report it if it stays.`;
    await end(trx, mine, { state: 'set aside', message });
    await boss.deleteJob(name, mine.id, { db: through(trx) });
    return;
  }
  const row = await trx
    .updateTable('jobs')
    .set((expression) => ({
      state: 'asked',
      worker: null,
      progress: null,
      // A worker that was asked to end has not failed.
      attempts: isNoFault ? expression('attempts', '-', 1) : expression.ref('attempts'),
    }))
    .where(stillIs(mine))
    .returning(['parent', 'lane'])
    .executeTakeFirst();
  if (!row) return;
  if (isNoFault) {
    // The queue counts as well: what is no fault is put in anew.
    await boss.deleteJob(name, mine.id, { db: through(trx) });
    await boss.send(name, {}, { id: mine.id, startAfter, db: through(trx) });
  } else {
    await boss.fail(name, mine.id, {}, { db: through(trx) });
  }
  await tellAll(trx, { what: 'asked', queue: name });
  await tellAll(trx, { what: 'job', job: mine.id, parent: row.parent, lane: row.lane });
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
    private readonly lane: Lane,
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
      .then(() => tellAll(this.db, { what: 'job', job: this.mine.id, parent: this.parent, lane: this.lane }))
      .catch(() => {});
  }

  end(): void {
    this.isEnded = true;
    clearTimeout(this.timer);
  }
}

const pause = (milliseconds: number): Promise<void> => new Promise((done) => setTimeout(done, milliseconds));

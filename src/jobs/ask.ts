/** Jobs are asked for, read, cancelled and asked again; all of it by what the database says. */
import { type Kysely, type Transaction, sql } from 'kysely';
import type { Selectable } from 'kysely';
import type { JobState } from '../routes/jobs';
import { dropUnneeded, putBlob } from '../server/blobs';
import { type Database, type JobsTable, lockForClearing, lockForKeeping } from '../server/database';
import { Refused } from '../server/refused';
import { tellAll, tellEach } from '../server/told';
import { type JobKind, queueOf } from './job';
import { ALL_KINDS, kindNamed } from './kinds';
import { enqueue, queue, through } from './queue';

/** A job to be asked for. */
export interface Wanted {
  /** Made by whoever asks; asking again with the same one is asking once. */
  readonly id: string;
  readonly kind: string;
  readonly title: string;
  readonly input: object;
  readonly character: string | null;
  readonly base: string | null;
  /** Bytes that it needs, by their addresses; kept until it has ended. */
  readonly files?: readonly Uint8Array[];
}

/** Several jobs that were asked for as one, which is done when all of them have ended. */
export interface WantedTogether {
  readonly id: string;
  readonly title: string;
  readonly parts: readonly Wanted[];
}

/** What a job of parts is called in the table; it is in no queue. */
const TOGETHER = 'together';

/** What stands in the table for a job that was cancelled before it was asked for. */
const NEVER = 'never asked';

/** States that nothing changes any more, but for asking again. */
export const ENDED: readonly JobState[] = ['done', 'refused', 'cancelled', 'set aside'];

const known = (kind: string): JobKind => {
  const found = kindNamed(kind);
  if (!found) throw new Refused(`The house knows no work called “${kind}”; reload the page.`, 400);
  return found;
};

/** Writes a job down and hands it to its queue, or finds that this was done before. Answers once it is kept. */
export async function ask(db: Kysely<Database>, wanted: Wanted, by: string): Promise<void> {
  const boss = await queue(db);
  await lockForKeeping(db, (trx) => put(boss, trx, [wanted], by, null));
}

/** The same for several as one. */
export async function askTogether(
  db: Kysely<Database>,
  { id, title, parts }: WantedTogether,
  by: string,
): Promise<void> {
  const boss = await queue(db);
  await db.transaction().execute(async (trx) => {
    const row = {
      id,
      kind: TOGETHER,
      version: 1,
      title,
      input: '{}',
      asked_by: by,
      state: 'running' as const,
      lane: 'in heaps' as const,
    };
    const made = await trx
      .insertInto('jobs')
      .values({ ...row, character_id: null, base: null, parent: null })
      .onConflict((builder) => builder.column('id').doNothing())
      .returning('id')
      .executeTakeFirst();
    if (!made) return;
    for (let i = 0; i < parts.length; i += PORTION) await put(boss, trx, parts.slice(i, i + PORTION), by, id);
    await tellAll(trx, { what: 'job', job: id, parent: null, lane: 'in heaps' });
  });
}

/** How many jobs are written down in one statement. */
const PORTION = 500;

async function put(
  boss: Awaited<ReturnType<typeof queue>>,
  trx: Transaction<Database>,
  wanted: readonly Wanted[],
  by: string,
  parent: string | null,
): Promise<void> {
  const rows = wanted.map(({ id, kind: name, title, input, character, base }) => {
    const kind = known(name);
    const checked = kind.input.validateSync(input, { stripUnknown: true }) as object;
    return {
      id,
      kind: kind.kind,
      version: kind.version,
      title,
      input: JSON.stringify(checked),
      character_id: character,
      base,
      parent,
      asked_by: by,
      state: 'asked' as const,
      lane: kind.lane,
      changes: kind.changes ?? false,
    };
  });
  const made = await trx
    .insertInto('jobs')
    .values(rows)
    .onConflict((builder) => builder.column('id').doNothing())
    .returning(['id', 'kind', 'version', 'lane'])
    .execute();
  const fresh = new Set(made.map((one) => one.id));
  for (const { id, files = [] } of wanted.filter((wanted) => fresh.has(wanted.id)))
    for (const bytes of files)
      await trx
        .insertInto('job_blobs')
        .values({ job_id: id, hash: await putBlob(trx, bytes) })
        .onConflict((builder) => builder.doNothing())
        .execute();
  await enqueue(boss, trx, made);
  // Of parts it is told with what they are parts of.
  if (!parent)
    await tellEach(
      trx,
      made.map(({ id, lane }) => ({ what: 'job', job: id, parent, lane })),
    );
}

/** A job as it is told. */
export type JobRow = Selectable<JobsTable>;

/** A job with its parts. Throws 404 where there is none. */
export async function jobWithParts(
  db: Kysely<Database>,
  id: string,
): Promise<{ job: JobRow; parts: JobRow[] }> {
  const rows = await db
    .selectFrom('jobs')
    .selectAll()
    .where((expression) => expression.or([expression('id', '=', id), expression('parent', '=', id)]))
    .orderBy('created_at')
    .orderBy('title')
    .execute();
  const job = rows.find((row) => row.id === id);
  if (!job) throw new Refused('This work is not in the house any more; reload the page.', 404);
  return { job, parts: rows.filter((row) => row.parent === id) };
}

/** How many parts there are, have ended, and came to nothing. */
export const countParts = (parts: readonly Pick<JobRow, 'state' | 'ended_at'>[]) => ({
  all: parts.length,
  ended: parts.filter((part) => part.ended_at !== null).length,
  undone: parts.filter((part) => UNDONE.includes(part.state)).length,
});

/** What is under way, and what ended last; parts are counted with what they are parts of. */
export async function jobsAtWork(db: Kysely<Database>, most = 100) {
  const passing = [
    ...ALL_KINDS.filter((kind) => kind.isPassing || kind.lane === 'at hand').map((kind) => kind.kind),
    NEVER,
  ];
  return db
    .selectFrom('jobs')
    .selectAll()
    .select((expression) => [
      expression
        .selectFrom('jobs as part')
        .select((otherExpression) => otherExpression.fn.countAll<number>().as('n'))
        .whereRef('part.parent', '=', 'jobs.id')
        .as('all'),
      expression
        .selectFrom('jobs as part')
        .select((otherExpression) => otherExpression.fn.count<number>('part.ended_at').as('n'))
        .whereRef('part.parent', '=', 'jobs.id')
        .as('ended'),
      expression
        .selectFrom('jobs as part')
        .select((otherExpression) => otherExpression.fn.countAll<number>().as('n'))
        .whereRef('part.parent', '=', 'jobs.id')
        .where('part.state', 'in', UNDONE)
        .as('undone'),
    ])
    .where('parent', 'is', null)
    .where((expression) =>
      expression.or([
        expression('kind', 'not in', passing),
        expression('ended_at', 'is', null),
        expression('state', '=', 'set aside'),
      ]),
    )
    .orderBy(sql`ended_at is null`, 'desc')
    .orderBy('created_at', 'desc')
    .limit(most)
    .execute();
}

/**
 * Ends a job that has not ended, wherever it is, and all its parts; what it was at leaves nothing. One that has not come
 * yet (whoever asks for it makes its id) is not begun when it comes. Gives how it stands then.
 */
export async function cancel(db: Kysely<Database>, id: string): Promise<JobState> {
  const boss = await queue(db);
  const rows = await db.transaction().execute(async (trx) => {
    const gone = { kind: NEVER, version: 1, title: '', input: '{}', asked_by: '', lane: 'at hand' as const };
    await trx
      .insertInto('jobs')
      .values({ id, ...gone, state: 'cancelled', ended_at: new Date() })
      .onConflict((builder) => builder.column('id').doNothing())
      .execute();
    await lockWhole(trx, id);
    const rows = await trx
      .updateTable('jobs')
      .set({
        state: 'cancelled',
        progress: null,
        ended_at: sql`now()` as never,
        message: 'It was cancelled.',
      })
      .where((expression) => expression.or([expression('id', '=', id), expression('parent', '=', id)]))
      .where('state', 'in', ['asked', 'running'])
      .returningAll()
      .execute();
    for (const row of rows) {
      const kind = kindNamed(row.kind);
      if (kind)
        await boss.deleteJob(queueOf({ ...kind, version: row.version }), row.id, { db: through(trx) });
      await tellAll(trx, { what: 'cancelled', job: row.id });
      await tellAll(trx, { what: 'job', job: row.id, parent: row.parent, lane: row.lane });
    }
    const parent = rows.find((row) => row.id === id)?.parent;
    if (parent) await endParent(trx, parent);
    return rows;
  });
  await dropFiles(
    db,
    rows.map((row) => row.id),
  );
  const { state } = await db
    .selectFrom('jobs')
    .select('state')
    .where('id', '=', id)
    .executeTakeFirstOrThrow();
  return state;
}

/**
 * Holds a job, or the one that it is a part of, till the transaction ends. Whoever changes parts holds the whole first, in
 * this order, so that no two wait for each other.
 */
async function lockWhole(trx: Transaction<Database>, id: string): Promise<void> {
  await sql`
    select id from jobs where id = coalesce((select parent from jobs where id = ${id}), ${id}::uuid) for update
  `.execute(trx);
}

/** Takes away what jobs that have ended were sent with. */
export async function dropFiles(db: Kysely<Database>, jobs: readonly string[]): Promise<void> {
  if (jobs.length === 0) return;
  const held = db.selectFrom('job_blobs').select('hash').where('job_id', 'in', jobs).limit(1);
  if (!(await held.executeTakeFirst())) return;
  await lockForClearing(db, async (trx) => {
    const rows = await trx.deleteFrom('job_blobs').where('job_id', 'in', jobs).returning('hash').execute();
    await dropUnneeded(
      trx,
      rows.map((row) => row.hash),
    );
  });
}

/** States of what came to nothing, and can be asked for again. */
const UNDONE: readonly JobState[] = ['refused', 'cancelled', 'set aside'];

/**
 * Asks again for a job that came to nothing, or for those of its parts that did, each on the revision that its character
 * stands at now. Throws {@link Refused} where there are none.
 */
export async function askAgain(db: Kysely<Database>, id: string): Promise<void> {
  const boss = await queue(db);
  await db.transaction().execute(async (trx) => {
    await lockWhole(trx, id);
    const rows = await trx
      .updateTable('jobs')
      .set((expression) => ({
        state: 'asked',
        attempts: 0,
        message: null,
        refusal: null,
        ended_at: null,
        base: expression
          .selectFrom('characters')
          .select('characters.head')
          .whereRef('characters.id', '=', 'jobs.character_id'),
      }))
      .where((expression) => expression.or([expression('id', '=', id), expression('parent', '=', id)]))
      .where('state', 'in', UNDONE)
      .where('kind', 'not in', [TOGETHER, NEVER])
      .returningAll()
      .execute();
    if (rows.length === 0)
      throw new Refused('Nothing of this work is left to be asked for again; reload the page.', 409);
    await enqueue(boss, trx, rows);
    await tellEach(
      trx,
      rows.map(({ id: job, parent, lane }) => ({ what: 'job', job, parent, lane })),
    );
    const whole = rows[0].id === id ? rows[0].parent : id;
    if (!whole) return;
    await trx
      .updateTable('jobs')
      .set({ state: 'running', message: null, ended_at: null })
      .where('id', '=', whole)
      .execute();
    await tellAll(trx, { what: 'job', job: whole, parent: null, lane: 'in heaps' });
  });
}

/**
 * Ends what consists of parts once the last of them has ended. Within the transaction that ends a part, which holds the
 * lock on the whole: two parts that end at once would each see the other still at work.
 */
export async function endParent(trx: Transaction<Database>, parent: string): Promise<void> {
  const ended = await trx
    .updateTable('jobs')
    .set({ state: 'done', progress: null, ended_at: sql`now()` as never })
    .where('id', '=', parent)
    .where('state', '=', 'running')
    .where((expression) =>
      expression.not(
        expression.exists(
          expression
            .selectFrom('jobs as part')
            .select('part.id')
            .where('part.parent', '=', parent)
            .where('part.state', 'in', ['asked', 'running']),
        ),
      ),
    )
    .returning('id')
    .executeTakeFirst();
  if (ended) await tellAll(trx, { what: 'job', job: parent, parent: null, lane: 'in heaps' });
}

/** Asking for a job and waiting for its end: how a route answers with what a worker makes. */
import type { Kysely } from 'kysely';
import { sql } from 'kysely';
import { type Database, type JobProgress, databaseTrouble } from '../server/database';
import { Refused } from '../server/refused';
import { ENDED, type Wanted, ask, cancel } from './ask';
import { ALIVE } from './job';
import { hearing, listen } from './listen';

/** How often the table is looked at where nothing is told, milliseconds. */
const LOOK = 1000;

/** How often the database may be away while it is waited for. */
const AWAY = 30;

/** How long a job may wait for a worker to come where there is none, milliseconds. */
const PATIENCE = 10_000;

export interface Waiting {
  readonly by?: string;
  /** Whoever waits has gone; the job goes on. */
  readonly signal?: AbortSignal;
  /** Given: it is told how it stands, also that no worker is there, and waits for as long as it takes. */
  readonly onProgress?: (progress: JobProgress) => void;
}

/**
 * Asks for a job and gives what came of it. Throws {@link Refused} with the job's own sentence; one that says so where it
 * was cancelled, where no worker is there to do it, and where whoever waits has gone.
 */
export async function askAndWait<A>(
  db: Kysely<Database>,
  wanted: Wanted,
  { by = '', signal, onProgress }: Waiting = {},
): Promise<A> {
  const bell = new Bell();
  const forget = listen((told) => {
    if (told.what === 'job' && told.job === wanted.id) bell.ring();
  });
  try {
    await hearing();
    // Whoever has gone before anything was asked for has asked for nothing.
    if (signal?.aborted) throw new Refused('The request was broken off; nothing was changed.', 499);
    await ask(db, wanted, by);
    return (await outcome(db, wanted.id, bell, signal, onProgress)) as A;
  } finally {
    forget();
  }
}

async function outcome(
  db: Kysely<Database>,
  id: string,
  bell: Bell,
  signal: AbortSignal | undefined,
  onProgress: Waiting['onProgress'],
): Promise<unknown> {
  const asked = Date.now();
  let away = 0;
  for (;;) {
    const row = await stateOf(db, id).catch((error: unknown) => {
      if (databaseTrouble(error) === null || ++away > AWAY) throw error;
      return 'away' as const;
    });
    if (!row) throw new Refused('This work is not in the house any more; nothing was changed.', 404);
    if (row !== 'away') {
      if (row.state === 'done') return row.answer;
      if (ENDED.includes(row.state)) throw endOf(row);
      if (row.progress) onProgress?.(row.progress);
      if (row.state === 'asked' && Date.now() - asked > LOOK && !(await isAnybodyThere(db)))
        await nobody(db, id, Date.now() - asked, onProgress);
    }
    await bell.orAfter(LOOK, signal);
    if (signal?.aborted) throw new Refused('The request was broken off; the work goes on.', 499);
  }
}

const stateOf = (db: Kysely<Database>, id: string) =>
  db
    .selectFrom('jobs')
    .select(['state', 'answer', 'message', 'refusal', 'progress'])
    .where('id', '=', id)
    .executeTakeFirst();

type Row = NonNullable<Awaited<ReturnType<typeof stateOf>>>;

function endOf({ state, message, refusal }: Row): Refused {
  if (state === 'cancelled') return new Refused('The work was cancelled; nothing was changed.', 499);
  const said = message ?? 'It came to nothing; try again, and report it if it stays.';
  return new Refused(said, refusal?.status ?? 500, refusal?.body);
}

/** True where at least one worker lives. */
async function isAnybodyThere(db: Kysely<Database>): Promise<boolean> {
  const { rows } = await sql`
    select 1 from pg_locks where locktype = 'advisory' and granted and classid = ${ALIVE}
      and database = (select oid from pg_database where datname = current_database()) limit 1
  `.execute(db);
  return rows.length > 0;
}

/** Where no worker is there: it is told, or, where nobody can be told, the job is taken back. */
async function nobody(
  db: Kysely<Database>,
  id: string,
  waited: number,
  onProgress: Waiting['onProgress'],
): Promise<void> {
  const told = 'no worker runs; it begins when one does (npm run work)';
  if (onProgress) return onProgress({ stage: told, share: 0 });
  if (waited < PATIENCE) return;
  if ((await cancel(db, id)) === 'cancelled')
    throw new Refused(
      'No worker of the house runs, so that nothing was begun and nothing was changed; start one with “npm run work”, or start the house again.',
      503,
    );
}

/** Wakes whoever waits. What rings while nobody waits is heard by the next who does. */
class Bell {
  private hasRung = false;
  private wake: () => void = () => {};

  ring(): void {
    this.hasRung = true;
    this.wake();
  }

  async orAfter(milliseconds: number, signal?: AbortSignal): Promise<void> {
    if (!this.hasRung && !signal?.aborted)
      await new Promise<void>((done) => {
        const timer = setTimeout(done, milliseconds);
        this.wake = () => {
          clearTimeout(timer);
          done();
        };
        signal?.addEventListener('abort', this.wake, { once: true });
      });
    signal?.removeEventListener('abort', this.wake);
    this.hasRung = false;
    this.wake = () => {};
  }
}

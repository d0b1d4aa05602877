/** The queue and its workers: whatever ends in the middle, what was asked for has one effect. */
import { randomUUID } from 'node:crypto';
import type { Kysely } from 'kysely';
import { sql } from 'kysely';
import { GET as events } from '@/app/api/events/route';
import { GET as list, POST as askFor } from '@/app/api/jobs/route';
import { DELETE as stop, GET as read } from '@/app/api/jobs/[id]/route';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { BRIEFS } from '@/core/house/briefs';
import { ENDED, ask, askAgain, askTogether, cancel, jobWithParts, jobsAtWork } from '@/jobs/ask';
import type { JobContext, JobKind } from '@/jobs/job';
import { MOST_ATTEMPTS, prepareQueue } from '@/jobs/queue';
import { Worker } from '@/jobs/worker';
import { characterById } from '@/server/characters';
import type { Database } from '@/server/database';
import { Refused } from '@/server/refused';
import { tellAll } from '@/server/told';
import { answered, arriveAs, houseWithBriefs, on, sent } from './support/asking';

jest.mock('piscina', () => jest.requireActual('./support/threads'));

/** What kinds of the tests do while they run, by what is asked of them. */
const mockWays = new Map<string, (at: JobContext<string>) => Promise<void>>();

jest.mock('@/jobs/kinds', () => {
  const { move } = jest.requireActual('@/jobs/kinds/move');
  const kinds = [
    move,
    mockKind('mark', 1, 'in heaps'),
    mockKind('at once', 1, 'at hand'),
    mockKind('newer', 2, 'in heaps'),
  ];
  return {
    KINDS: kinds,
    ALL_KINDS: kinds,
    kindNamed: (kind: string) => kinds.find((otherKind: JobKind) => otherKind.kind === kind),
  };
});

/** A kind that leaves a mark in the database: what has one effect leaves one. */
function mockKind(kind: string, version: number, lane: JobKind['lane']) {
  const { object, string } = jest.requireActual<typeof import('yup')>('yup');
  return {
    kind,
    version,
    lane,
    bounds: {},
    input: object({ mark: string().required(), way: string() }),
    run: async ({ mark, way }: { mark: string; way?: string }, at: JobContext<string>) => {
      if (way) await mockWays.get(way)?.(at);
      await at.db.transaction().execute(async (trx) => {
        await sql`insert into marks (mark) values (${mark})`.execute(trx);
        await at.ended(trx, mark);
      });
      return mark;
    },
  };
}

const house = houseWithBriefs('bough_jobs');
let db: Kysely<Database>;
let kinds: readonly JobKind[];
const workers: Worker[] = [];

beforeAll(async () => {
  db = house();
  await prepareQueue(db);
  await sql`create table marks (mark text, at timestamptz default clock_timestamp())`.execute(db);
  kinds = jest.requireMock('@/jobs/kinds').KINDS;
});
afterEach(async () => {
  for (const worker of workers.splice(0)) await worker.stop();
  mockWays.clear();
  await sql`truncate marks`.execute(db);
});

async function worker(known = kinds): Promise<Worker> {
  const otherWorker = new Worker(db, process.env.DATABASE_URL as string, known);
  workers.push(otherWorker);
  await otherWorker.start();
  return otherWorker;
}

const wanted = (kind: string, mark: string, way?: string) => ({
  id: randomUUID(),
  kind,
  title: mark,
  input: { mark, way },
  character: null,
  base: null,
});
const marks = async () =>
  (await sql<{ mark: string }>`select mark from marks order by at`.execute(db)).rows.map((row) => row.mark);
const stateOf = async (id: string) => (await jobWithParts(db, id)).job;
const until = async (what: () => Promise<boolean>) => {
  while (!(await what())) await new Promise((done) => setTimeout(done, 20));
};
const ended = (id: string) => until(async () => ENDED.includes((await stateOf(id)).state));
const gate = () => {
  let open = () => {};
  const opened = new Promise<void>((done) => {
    open = done;
  });
  return { opened, open };
};

it('what is asked for is done once, also when it is asked for again; its answer stands with it', async () => {
  await worker();
  const job = wanted('mark', 'a');
  await Promise.all([ask(db, job, 'R.'), ask(db, job, 'R.')]);
  await ended(job.id);
  await ask(db, job, 'R.');
  expect(await stateOf(job.id)).toMatchObject({
    state: 'done',
    answer: 'a',
    attempts: 1,
    worker: null,
    asked_by: 'R.',
  });
  expect(await marks()).toEqual(['a']);
  expect((await sql`select 1 from queue.job where state <> 'completed'`.execute(db)).rows).toEqual([]);
});

it('what was asked for while nobody worked is done by whoever comes; two workers share it, each job once', async () => {
  const jobs = Array.from({ length: 30 }, (_, i) => wanted('mark', `m${i}`));
  for (const job of jobs) await ask(db, job, '');
  await Promise.all([worker(), worker()]);
  for (const { id } of jobs) await ended(id);
  expect((await marks()).sort()).toEqual(jobs.map((job) => job.title).sort());
});

it('a worker that is cut off in the middle keeps nothing: another does it, and it is done once', async () => {
  const held = gate();
  const begun: number[] = [];
  mockWays.set('held', async () => {
    begun.push(begun.length);
    // The first one comes back long after it was taken for ended.
    if (begun.length === 1) await held.opened;
  });
  await worker();
  const job = wanted('mark', 'once', 'held');
  await ask(db, job, '');
  await until(async () => begun.length === 1);
  await worker();
  // The connection that says that the first one lives; that of the second is younger.
  await sql`select pg_terminate_backend(pid) from pg_locks where locktype = 'advisory' and objid = ${(await stateOf(job.id)).worker}`.execute(
    db,
  );
  await ended(job.id);
  held.open();
  expect(await stateOf(job.id)).toMatchObject({ state: 'done', attempts: 2 });
  for (const worker of workers.splice(0)) await worker.stop();
  expect(await marks()).toEqual(['once']);
});

it('a worker that is asked to end gives back what it is at, which counts as no failure', async () => {
  const begun: JobContext<string>[] = [];
  mockWays.set('waits', async (at) => {
    begun.push(at);
    if (begun.length > 1) return;
    await new Promise<void>((_, no) =>
      at.signal.addEventListener('abort', () => no(new Error('broken off'))),
    );
  });
  const first = await worker();
  const job = wanted('mark', 'given back', 'waits');
  await ask(db, job, '');
  await until(async () => begun.length === 1);
  await first.stop();
  expect(await stateOf(job.id)).toMatchObject({ state: 'asked', attempts: 0, worker: null });
  await worker();
  await ended(job.id);
  expect(await stateOf(job.id)).toMatchObject({ state: 'done', attempts: 1 });
  expect(await marks()).toEqual(['given back']);
});

it('what fails each time is tried again later and later, then set aside with a sentence; others go on meanwhile', async () => {
  const times: number[] = [];
  mockWays.set('breaks', async () => {
    times.push(Date.now());
    throw new Error('a mistake of ours');
  });
  const written = jest.spyOn(process.stderr, 'write').mockReturnValue(true);
  await worker();
  const bad = wanted('mark', 'bad', 'breaks');
  await ask(db, bad, '');
  const good = wanted('mark', 'good');
  await ask(db, good, '');
  await ended(good.id);
  expect((await stateOf(bad.id)).state).toBe('asked');
  await ended(bad.id);
  written.mockRestore();
  expect(await stateOf(bad.id)).toMatchObject({ state: 'set aside', attempts: MOST_ATTEMPTS, worker: null });
  expect((await stateOf(bad.id)).message).toMatch(/^It was begun 3 times and .*set aside\. .*\.$/);
  expect(times).toHaveLength(MOST_ATTEMPTS);
  expect(times[2] - times[1]).toBeGreaterThan(times[1] - times[0]);
  expect(await marks()).toEqual(['good']);
});

it('what a person can mend ends with its sentence at once; what is not known is refused when it is asked', async () => {
  mockWays.set('refuses', async () => {
    throw new Refused('There is nothing to move; bind the mesh first.');
  });
  await worker();
  const job = wanted('mark', 'x', 'refuses');
  await ask(db, job, '');
  await ended(job.id);
  expect(await stateOf(job.id)).toMatchObject({
    state: 'refused',
    attempts: 1,
    message: 'There is nothing to move; bind the mesh first.',
  });
  await expect(ask(db, wanted('gardening', 'x'), '')).rejects.toThrow(/knows no work called “gardening”/);
  await expect(ask(db, { ...wanted('mark', 'x'), input: {} }, '')).rejects.toThrow(/mark/);
  expect(await marks()).toEqual([]);
});

it('cancelled, a job leaves nothing, whether it waits or is at work', async () => {
  const waiting = wanted('mark', 'waiting');
  await ask(db, waiting, '');
  await cancel(db, waiting.id);
  let signal: AbortSignal | undefined;
  mockWays.set('slow', async (at) => {
    signal = at.signal;
    await new Promise<void>((done) => at.signal.addEventListener('abort', () => done()));
    // It does not mind the signal and goes on; its ending is not taken.
  });
  await worker();
  const running = wanted('mark', 'running', 'slow');
  await ask(db, running, '');
  await until(async () => signal !== undefined);
  await cancel(db, running.id);
  const after = wanted('mark', 'after');
  await ask(db, after, '');
  await ended(after.id);
  expect(signal?.aborted).toBe(true);
  expect([(await stateOf(waiting.id)).state, (await stateOf(running.id)).state]).toEqual([
    'cancelled',
    'cancelled',
  ]);
  expect(await marks()).toEqual(['after']);
});

it('several asked for as one end together, what came of each told; cancelled as one', async () => {
  mockWays.set('refuses', async () => {
    throw new Refused('Not this one.');
  });
  await worker();
  const parts = [wanted('mark', 'p1'), wanted('mark', 'p2', 'refuses'), wanted('mark', 'p3')];
  const all = { id: randomUUID(), title: 'Three', parts };
  await askTogether(db, all, 'R.');
  await askTogether(db, all, 'R.');
  await ended(all.id);
  const told = await jobWithParts(db, all.id);
  expect(told.parts.map((part) => [part.title, part.state, part.answer ?? part.message])).toEqual([
    ['p1', 'done', 'p1'],
    ['p2', 'refused', 'Not this one.'],
    ['p3', 'done', 'p3'],
  ]);
  // The list tells of the whole, not of its parts.
  expect((await jobsAtWork(db)).filter((job) => job.title === 'Three' || job.parent === all.id)).toHaveLength(
    1,
  );
  for (const worker of workers.splice(0)) await worker.stop();
  const later = { id: randomUUID(), title: 'Later', parts: [wanted('mark', 'q1'), wanted('mark', 'q2')] };
  await askTogether(db, later, '');
  await cancel(db, later.id);
  const { job, parts: none } = await jobWithParts(db, later.id);
  expect([job, ...none].map((j) => j.state)).toEqual(['cancelled', 'cancelled', 'cancelled']);
});

it('what came to nothing is asked for again, alone or with what it is a part of; what is done stays done', async () => {
  mockWays.set('refuses', async () => {
    throw new Refused('Not yet.');
  });
  await worker();
  const parts = [wanted('mark', 'done'), wanted('mark', 'not yet', 'refuses')];
  const all = { id: randomUUID(), title: 'Two', parts };
  await askTogether(db, all, '');
  await ended(all.id);
  expect((await jobsAtWork(db)).find((job) => job.id === all.id)).toMatchObject({ undone: '1' });
  mockWays.clear();
  await askAgain(db, all.id);
  expect((await stateOf(all.id)).state).toBe('running');
  await ended(all.id);
  expect(
    (await jobWithParts(db, all.id)).parts.map((part) => [part.state, part.attempts, part.message]),
  ).toEqual([
    ['done', 1, null],
    ['done', 1, null],
  ]);
  expect((await marks()).sort()).toEqual(['done', 'not yet']);
  await expect(askAgain(db, all.id)).rejects.toThrow(/Nothing of this work is left/);
});

describe('a database in trouble', () => {
  const quietly = async (work: () => Promise<void>) => {
    const quiet = jest.spyOn(process.stderr, 'write').mockReturnValue(true);
    await work().finally(() => quiet.mockRestore());
  };
  it('is no fault of the job: it is begun again as often as it takes', () =>
    quietly(async () => {
      let times = 0;
      mockWays.set('full', async () => {
        if (times++ < MOST_ATTEMPTS) throw Object.assign(new Error('no room'), { code: '53100' });
      });
      await worker();
      const job = wanted('at once', 'full', 'full');
      await ask(db, job, '');
      await ended(job.id);
      expect(await stateOf(job.id)).toMatchObject({ state: 'done', attempts: 1 });
      expect(times).toBe(MOST_ATTEMPTS + 1);
      expect(await marks()).toEqual(['full']);
    }));
  it('that cannot even take the failure down is told of it later', () =>
    quietly(async () => {
      let times = 0;
      mockWays.set('away', async () => {
        if (times++ > 0) return;
        await sql`alter table jobs rename to jobs_away`.execute(db);
        throw new Error('in between');
      });
      await worker();
      const job = wanted('at once', 'away', 'away');
      await ask(db, job, '');
      await new Promise((done) => setTimeout(done, 2500));
      await sql`alter table jobs_away rename to jobs`.execute(db);
      await ended(job.id);
      expect(await stateOf(job.id)).toMatchObject({ state: 'done', attempts: 2 });
      expect(await marks()).toEqual(['away']);
    }));
});

it('a move that came too late is asked for again on the revision that the character stands at', async () => {
  const { id, revision } = await arriveAs(db, 'quay-skeleton.glb', BRIEFS[0]);
  const part = () => ({
    id: randomUUID(),
    kind: 'move',
    title: 'Quay',
    input: { target: { id: QUAY.id, title: QUAY.title }, limit: 4, weights: 'rules' },
    character: id,
    base: revision,
  });
  const [first, late] = [part(), part()];
  await worker();
  await ask(db, first, '');
  await ended(first.id);
  await ask(db, late, '');
  await ended(late.id);
  expect((await stateOf(late.id)).state).toBe('refused');
  await askAgain(db, late.id);
  await ended(late.id);
  expect((await stateOf(late.id)).state).toBe('done');
  expect((await characterById(db, id)).revisions).toHaveLength(3);
});

it('a heap of work keeps nothing waiting that is at hand', async () => {
  const held = gate();
  mockWays.set('held', () => held.opened);
  await worker();
  const heap = Array.from({ length: 20 }, (_, i) => wanted('mark', `h${i}`, 'held'));
  for (const job of heap) await ask(db, job, '');
  const now = wanted('at once', 'now');
  await ask(db, now, '');
  await ended(now.id);
  expect(await marks()).toEqual(['now']);
  held.open();
  for (const { id } of heap) await ended(id);
});

it('a worker takes only the kinds and versions that it knows; a newer one beside it takes the others', async () => {
  const old = kinds.map((kind) => (kind.kind === 'newer' ? { ...kind, version: 1 } : kind));
  await worker(old);
  const job = wanted('newer', 'v2');
  const mark = wanted('mark', 'm');
  await ask(db, job, '');
  await ask(db, mark, '');
  await ended(mark.id);
  expect((await stateOf(job.id)).state).toBe('asked');
  await worker();
  await ended(job.id);
  expect((await marks()).sort()).toEqual(['m', 'v2']);
});

it('a character is moved by a worker as one step; on a revision that is the head no more it is refused', async () => {
  const { id, revision } = await arriveAs(db, 'quay-skeleton.glb', BRIEFS[0]);
  const part = (base: string) => ({
    id: randomUUID(),
    kind: 'move',
    title: 'Quay',
    input: { target: { id: QUAY.id, title: QUAY.title }, limit: 4, weights: 'rules' },
    character: id,
    base,
  });
  await worker();
  const first = part(revision);
  await ask(db, first, '');
  await ended(first.id);
  const { state, answer, message } = await stateOf(first.id);
  expect([state, message]).toEqual(['done', null]);
  const character = await characterById(db, id);
  expect(character.head).toBe((answer as { revision: { id: string } }).revision.id);
  expect(character.revisions).toHaveLength(2);
  const late = part(revision);
  await ask(db, late, '');
  await ended(late.id);
  expect(await stateOf(late.id)).toMatchObject({
    state: 'refused',
    message: expect.stringMatching(/revision 1.*revision 2/),
  });
  expect((await characterById(db, id)).revisions).toHaveLength(2);
});

describe('over the routes', () => {
  const asked = (id: string, parts: object[]) =>
    on(askFor, sent('POST', { id, title: 'Some', by: 'R.', parts }));
  const part = (mark: string, kind = 'mark') => ({ id: randomUUID(), kind, title: mark, input: { mark } });

  it('several are asked for, read, listed with how many have ended, and cancelled', async () => {
    const id = randomUUID();
    expect(await answered(await asked(id, [part('r1'), part('r2')]))).toEqual({ status: 201, body: { id } });
    const of = async () => (await answered(await on(read, sent('GET'), { id }))).body;
    expect((await of()).job).toMatchObject({
      state: 'running',
      parts: { all: 2, ended: 0, undone: 0 },
      askedBy: 'R.',
    });
    await worker();
    await ended(id);
    const { job, parts } = await of();
    expect(job).toMatchObject({ state: 'done', parts: { all: 2, ended: 2, undone: 0 } });
    expect(parts.map((part: { answer: unknown }) => part.answer)).toEqual(['r1', 'r2']);
    const { body } = await answered(await on(list, sent('GET')));
    expect(body.jobs.find((job: { id: string }) => job.id === id)).toMatchObject({
      title: 'Some',
      parts: { all: 2, ended: 2, undone: 0 },
    });
    for (const worker of workers.splice(0)) await worker.stop();
    const other = randomUUID();
    await asked(other, [part('r3')]);
    await on(stop, sent('DELETE'), { id: other });
    expect((await stateOf(other)).state).toBe('cancelled');
  });

  it('what cannot be is refused, and leaves nothing', async () => {
    const id = randomUUID();
    const bad = await answered(await asked(id, [part('a'), part('b', 'gardening')]));
    expect(bad).toMatchObject({ status: 400, body: { message: expect.stringMatching(/gardening/) } });
    expect((await asked(id, [])).status).toBe(400);
    expect((await asked('no id', [part('a')])).status).toBe(400);
    expect((await on(read, sent('GET'), { id })).status).toBe(404);
  });

  it('pages hear of jobs and of new heads as they are written, and are forgotten when they go', async () => {
    const page = new AbortController();
    const { body } = events(new Request('http://127.0.0.1/api/events', { signal: page.signal }));
    const reader = body!.getReader();
    const heard: { what: string; job?: string; character?: string }[] = [];
    const reading = (async () => {
      for (;;) {
        const { value, done } = await reader.read();
        if (done) return;
        for (const line of new TextDecoder().decode(value).split('\n'))
          if (line.startsWith('data: ')) heard.push(JSON.parse(line.slice(6)));
      }
    })();
    // The connection to the database stands when the first is heard.
    const id = randomUUID();
    await asked(id, [part('heard')]);
    await worker();
    await until(async () => {
      await tellAll(db, { what: 'job', job: id, parent: null, lane: 'in heaps' });
      return heard.length > 0;
    });
    const figure = await arriveAs(db, 'quay-skeleton.glb', BRIEFS[0]);
    await ended(id);
    await until(async () => heard.some((t) => t.what === 'head' && t.character === figure.id));
    expect(heard.filter((t) => t.what === 'job' && t.job === id).length).toBeGreaterThan(0);
    expect(heard.every((t) => t.what === 'job' || t.what === 'head')).toBe(true);
    await reader.cancel();
    await reading;
    const listening = async () =>
      (
        await sql`select 1 from pg_stat_activity where datname = current_database() and query like 'listen%'`.execute(
          db,
        )
      ).rows.length;
    for (const worker of workers.splice(0)) await worker.stop();
    // One that soon may be wanted again.
    await until(async () => (await listening()) <= 1);
  });
});

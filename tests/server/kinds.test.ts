/** What kinds of jobs do where workers end in the middle, where nobody works, and within what bounds. */
import { randomUUID } from 'node:crypto';
import type { Kysely } from 'kysely';
import { POST as applyRemedy } from '@/app/api/characters/[id]/steps/remedy/route';
import { POST as takeIn } from '@/app/api/characters/route';
import { POST as handOver } from '@/app/api/characters/[id]/dockets/route';
import { POST as deliver } from '@/app/api/characters/[id]/deliveries/route';
import { DELETE as stop, POST as again } from '@/app/api/jobs/[id]/route';
import type { Step } from '@/core/contracts/step';
import { BRIEFS } from '@/core/house/briefs';
import { jobWithParts, jobsAtWork } from '@/jobs/ask';
import { boundsOf, checkBounds } from '@/jobs/bounds';
import { ALL_KINDS } from '@/jobs/kinds';
import { listen } from '@/jobs/listen';
import { prepareQueue } from '@/jobs/queue';
import { Worker } from '@/jobs/worker';
import { characterById } from '@/server/characters';
import type { Database } from '@/server/database';
import { listDockets } from '@/server/dockets';
import { applyRemedy as step } from '@/server/steps';
import { castBytes } from '../core/support/cast';
import { answered, arriveAs, houseWithBriefs, lastLine, on, sent, upload } from './support/asking';

/** What happens before a task of the threads begins; a task that is broken off ends. */
const mockBefore: { act: ((task: string) => Promise<void>) | null } = { act: null };
jest.mock('piscina', () => ({
  Piscina: class {
    async run(job: { task: string }, { signal }: { signal: AbortSignal }) {
      await mockBefore.act?.(job.task);
      if (signal.aborted) throw new Error('aborted');
      return (jest.requireActual('./support/run-job') as { runJob: (j: unknown) => unknown }).runJob(job);
    }
  },
}));

const house = houseWithBriefs('bough_kinds');
let db: Kysely<Database>;
const workers: Worker[] = [];
beforeAll(async () => {
  db = house();
  await prepareQueue(db);
});
afterEach(async () => {
  mockBefore.act = null;
  delete process.env.BOUGH_JOB_BOUNDS;
  delete process.env.BOUGH_GIVES_WAY;
  for (const worker of workers.splice(0)) await worker.stop();
});

async function worker(): Promise<Worker> {
  const otherWorker = new Worker(db, process.env.DATABASE_URL as string, ALL_KINDS);
  workers.push(otherWorker);
  await otherWorker.start();
  return otherWorker;
}

/** Ends a worker as a kill does: it writes nothing any more, and its lock is gone. */
async function killOf(worker: Worker): Promise<void> {
  const inside = worker as unknown as {
    client: { end: () => Promise<void> } | null;
    timer: NodeJS.Timeout;
    isStopping: boolean;
  };
  inside.isStopping = true;
  clearInterval(inside.timer);
  await inside.client?.end();
  workers.splice(workers.indexOf(worker), 1);
}

const until = async (what: () => Promise<boolean>) => {
  for (let i = 0; i < 8000 && !(await what()); i++) await new Promise((done) => setTimeout(done, 25));
  expect(await what()).toBe(true);
};
const stateOf = async (id: string) => (await jobWithParts(db, id)).job;
const chest = Buffer.from(
  'o crate\nv 0 5 0\nv 40 5 0\nv 40 65 0\nv 0 65 0\nv 0 5 30\nv 40 5 30\nv 40 65 30\nv 0 65 30\nf 1 4 3 2\nf 5 6 7 8\nf 1 2 6 5\nf 3 4 8 7\nf 1 5 8 4\nf 2 3 7 6\n',
);
const crate = { unit: '0.01', brief: 'deck-gear' };

describe('a delivery', () => {
  it('whose worker ends in the middle is gone on with by another: each step is there once, with its row', async () => {
    await worker();
    const first = await lastLine(await takeIn(upload([['crate.obj', chest]], crate)));
    const id = String(first.id);
    let { head } = await characterById(db, id);
    for (const [remedy, params] of [
      ['set-on-ground', {}],
      ['rescale-prop', { node: 0, factor: 2 }],
      ['rescale-prop', { node: 0, factor: 0.5 }],
    ] as const)
      head = (await step(db, await characterById(db, id), head, { remedy, params })).revision.id;
    const job = randomUUID();
    // The worker that is at it ends while the second step is done again, without being able to say so.
    let remedies = 0;
    const hang = new Promise<void>(() => {});
    const [killed] = workers;
    mockBefore.act = async (task) => {
      if (task !== 'remedy' || ++remedies < 2) return;
      mockBefore.act = null;
      await killOf(killed);
      await worker();
      await hang;
    };
    const answer = await on(deliver, upload([['crate.obj', chest]], { base: head, unit: '0.01', job }), {
      id,
    });
    const line = await lastLine(answer);
    expect(line).toMatchObject({ stage: 'done', rows: [1, 2, 3].map(() => ({ outcome: 'done' })) });
    expect(await stateOf(job)).toMatchObject({ state: 'done', attempts: 2 });
    const record = await characterById(db, id);
    // Four as they were, and the delivery with its three.
    expect(record.revisions).toHaveLength(8);
    expect(record.head).toBe(record.revisions[7].id);
    const delivery = record.revisions.find((revision) => revision.step.kind === 'delivery')?.step as Extract<
      Step,
      { kind: 'delivery' }
    >;
    expect(delivery.rows).toHaveLength(3);
    expect(record.working).toBe(false);
  });

  it('that another worker has meanwhile is left as it stands by whoever lost it', async () => {
    const otherWorker = await worker();
    const first = await lastLine(await takeIn(upload([['crate.obj', chest]], crate)));
    const id = String(first.id);
    let { head } = await characterById(db, id);
    for (const factor of [2, 0.5])
      head = (
        await step(db, await characterById(db, id), head, {
          remedy: 'rescale-prop',
          params: { node: 0, factor },
        })
      ).revision.id;
    const job = randomUUID();
    let remedies = 0;
    let stood: string | undefined;
    mockBefore.act = async (task) => {
      if (task !== 'remedy' || ++remedies < 2) return;
      mockBefore.act = null;
      // As it is when its connection was lost and another, who ends later, has begun it again.
      await db.updateTable('jobs').set({ worker: 1, attempts: 2 }).where('id', '=', job).execute();
      stood = (await characterById(db, id)).head;
      const { key } = otherWorker as unknown as { key: number };
      expect(key).not.toBe(1);
      throw new Error('lost');
    };
    const quiet = jest.spyOn(process.stderr, 'write').mockReturnValue(true);
    const moved: string[] = [];
    const forget = listen((told) => {
      if (told.what === 'head' && told.character === id) moved.push(told.head);
    });
    const line = await lastLine(
      await on(deliver, upload([['crate.obj', chest]], { base: head, unit: '0.01', job }), { id }),
    );
    forget();
    quiet.mockRestore();
    expect(line).toMatchObject({ stage: 'done', rows: [1, 2].map(() => ({ outcome: 'done' })) });
    // From the step that stood on to the last: the head never went back to where the delivery began.
    const since = moved.slice(moved.indexOf(stood!));
    expect([since.length, since.includes(head)]).toEqual([2, false]);
  });

  it('that is cancelled stands aside, and is not taken up again by asking for the same', async () => {
    await worker();
    const first = await lastLine(await takeIn(upload([['crate.obj', chest]], crate)));
    const id = String(first.id);
    const { head: begun } = await characterById(db, id);
    const done = await step(db, await characterById(db, id), begun, { remedy: 'set-on-ground', params: {} });
    const job = randomUUID();
    mockBefore.act = async (task) => {
      if (task === 'remedy') await on(stop, sent('DELETE'), { id: job });
    };
    const request = () => upload([['crate.obj', chest]], { base: done.revision.id, unit: '0.01', job });
    expect((await lastLine(await on(deliver, request(), { id }))).stage).toBe('refused');
    await until(async () => (await characterById(db, id)).head === done.revision.id);
    mockBefore.act = null;
    expect((await lastLine(await on(deliver, request(), { id }))).message).toMatch(/cancelled/);
    expect((await characterById(db, id)).revisions).toHaveLength(3);
  });
});

describe('where no worker runs', () => {
  it('a step is not begun, and that is said; it is not done later behind the back of whoever asked', async () => {
    const { id, revision } = await arriveAs(db, 'capstan.glb', BRIEFS[0]);
    const job = randomUUID();
    const request = sent('POST', { base: revision, job, remedy: 'set-on-ground', params: {} });
    expect(await answered(await on(applyRemedy, request, { id }))).toMatchObject({
      status: 503,
      body: {
        message: expect.stringMatching(/No worker of the house runs.*nothing was changed.*npm run work/),
      },
    });
    await worker();
    await new Promise((done) => setTimeout(done, 1500));
    expect(await stateOf(job)).toMatchObject({ state: 'cancelled' });
    expect((await characterById(db, id)).head).toBe(revision);
  });

  it('what tells of its progress says so, and is done when one comes', async () => {
    const { id, revision } = await arriveAs(db, 'capstan.glb', BRIEFS[0]);
    const answer = await on(handOver, sent('POST', { revision, by: 'R. Lindqvist' }), { id });
    const reader = answer.body!.getReader();
    let told = '';
    while (!told.includes('no worker runs')) told += new TextDecoder().decode((await reader.read()).value);
    await worker();
    for (let more = await reader.read(); !more.done; more = await reader.read())
      told += new TextDecoder().decode(more.value);
    expect(JSON.parse(told.trim().split('\n').at(-1)!)).toMatchObject({ stage: 'done' });
    expect(await listDockets(db, id)).toHaveLength(1);
  });
});

describe('files that a job was sent with', () => {
  const held = async (job: string) =>
    (await db.selectFrom('job_blobs').select('hash').where('job_id', '=', job).execute()).length;
  it('are kept until it has ended, and no longer', async () => {
    const job = randomUUID();
    const asking = takeIn(upload([['crate.obj', chest]], { ...crate, job }));
    await until(async () => (await held(job)) === 1);
    const otherWorker = await worker();
    expect((await lastLine(await asking)).stage).toBe('done');
    await (otherWorker as unknown as { swept: number; sweep: () => Promise<void> }).sweep();
    Object.assign(otherWorker, { swept: 0 });
    await (otherWorker as unknown as { sweep: () => Promise<void> }).sweep();
    expect(await held(job)).toBe(0);
  });
  it('are gone when it is asked for again after it was cancelled, which is said', async () => {
    const job = randomUUID();
    const asking = takeIn(upload([['crate.obj', chest]], { ...crate, job }));
    await until(async () => (await held(job)) === 1);
    await on(stop, sent('DELETE'), { id: job });
    expect((await lastLine(await asking)).message).toMatch(/cancelled/);
    expect(await held(job)).toBe(0);
    expect((await on(again, sent('POST', {}), { id: job })).status).toBe(200);
    await worker();
    await until(async () => (await stateOf(job)).state === 'refused');
    expect((await stateOf(job)).message).toMatch(/not kept any more; drop them again/);
  });
});

it('what a person waited for is not listed when it has ended; what was asked for several at once is', async () => {
  await worker();
  const { id, revision } = await arriveAs(db, 'capstan.glb', BRIEFS[0]);
  const job = randomUUID();
  await on(applyRemedy, sent('POST', { base: revision, job, remedy: 'centre', params: {} }), { id });
  const arrived = randomUUID();
  await lastLine(await takeIn(upload([['crate.obj', chest]], { ...crate, job: arrived })));
  const listed = (await jobsAtWork(db)).map((job) => job.id);
  expect(listed).toContain(arrived);
  expect(listed).not.toContain(job);
});

describe('bounds', () => {
  const remap = ALL_KINDS.find((kind) => kind.kind === 'remap')!;
  it('are those of the kind, then those that are set', () => {
    expect(boundsOf(remap).seconds).toBe(1800);
    process.env.BOUGH_JOB_BOUNDS = '{"remap": {"seconds": 7200, "megabytes": 9000}}';
    expect(boundsOf(remap)).toMatchObject({ seconds: 7200, megabytes: 9000 });
    expect(boundsOf(ALL_KINDS.find((kind) => kind.kind === 'audit')!).seconds).toBe(120);
    expect(() => checkBounds(ALL_KINDS)).not.toThrow();
  });
  it('give way to others as far as nobody waits for it, and not where the house was told so', () => {
    const [one, several] = ['hand over', 'hand over several'].map((kind) =>
      ALL_KINDS.find((other) => other.kind === kind)!,
    );
    expect(boundsOf(several).niceness).toBeGreaterThan(boundsOf(one).niceness);
    process.env.BOUGH_GIVES_WAY = 'no';
    expect([one, several].map((kind) => boundsOf(kind).niceness)).toEqual([0, 0]);
  });
  it.each([
    ['{"remap": {"seconds": -1}}', /BOUGH_JOB_BOUNDS is not as it should be \(seconds must be a positive/],
    ['{"remap": {"hours": 1}}', /is not as it should be \(.*hours/],
    ['remap', /is not as it should be/],
    ['{"gardening": {}}', /names “gardening”, which is no kind of job; there are import/],
  ])('%s is refused in a sentence', (text, words) => {
    process.env.BOUGH_JOB_BOUNDS = text;
    expect(() => checkBounds(ALL_KINDS)).toThrow(words);
  });
  it('end what takes longer, and say which to raise', async () => {
    process.env.BOUGH_JOB_BOUNDS = '{"import": {"seconds": 0.05}}';
    mockBefore.act = () => new Promise((done) => setTimeout(done, 200));
    await worker();
    const line = await lastLine(await takeIn(upload([['deckhand.glb', castBytes('capstan.glb')]])));
    expect(line).toMatchObject({
      stage: 'refused',
      message: expect.stringMatching(/longer than its limit.*BOUGH_JOB_BOUNDS/),
    });
  });
});

/**
 * The queue and its workers: what the queue itself costs a job, and how much more two workers do than one. Wants a database
 * of its own (DATABASE_URL), prepared, and the worker bundled.
 */
import { type ChildProcess, spawn } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { type Kysely, sql } from 'kysely';
import { object } from 'yup';
import { BRIEFS } from '../core/house/briefs';
import { briefKey } from '../core/house/brief';
import { type Wanted, askTogether, jobWithParts } from '../jobs/ask';
import { type JobKind, queueOf } from '../jobs/job';
import { enqueue, queue } from '../jobs/queue';
import { Worker } from '../jobs/worker';
import { createCharacter } from '../server/characters';
import { type Database, database } from '../server/database';
import { moveHead } from '../server/revisions';
import { runJob } from '../worker/tasks';
import type { BenchRow } from './row';

/** What the queue may cost a job, milliseconds. */
const COST = 5;

/** How much more two workers are to do than one. */
const TWICE = 1.7;

const pause = (milliseconds: number) => new Promise((done) => setTimeout(done, milliseconds));

/** Asks for jobs as one and waits for all of them; gives how long that took, seconds. */
async function timed(db: Kysely<Database>, parts: readonly Wanted[]): Promise<number> {
  const id = randomUUID();
  const began = performance.now();
  await askTogether(db, { id, title: 'bench', parts }, 'bench');
  for (;;) {
    const job = await db.selectFrom('jobs').select('ended_at').where('id', '=', id).executeTakeFirstOrThrow();
    if (job.ended_at) break;
    await pause(25);
  }
  const { parts: done } = await jobWithParts(db, id);
  const failed = done.find((part) => part.state !== 'done');
  if (failed) throw new Error(`A job of the bench came to nothing: ${failed.message ?? failed.state}`);
  return (performance.now() - began) / 1000;
}

/** Jobs that do nothing, one after the other: what is left is the queue's. */
async function costRow(db: Kysely<Database>): Promise<BenchRow> {
  const input = object({});
  // Stands in for a kind of the house in its place, and does nothing.
  const nothing: JobKind = {
    kind: 'move',
    version: 1,
    lane: 'in heaps',
    bounds: {},
    input,
    run: async (_, at) => {
      await at.db.transaction().execute((trx) => at.ended(trx, null));
      return null;
    },
  };
  await queue(db).then((boss) => boss.getQueue(queueOf(nothing)));
  const worker = new Worker(db, process.env.DATABASE_URL ?? '', [nothing]);
  await worker.start();
  const jobs = (count: number): Wanted[] =>
    Array.from({ length: count }, () => ({
      id: randomUUID(),
      kind: 'move',
      title: 'nothing',
      input: { target: { id: 'none', title: 'none' }, limit: 4, weights: 'rules' },
      character: null,
      base: null,
    }));
  const count = 500;
  // The first round compiles; of the others the best is what the queue costs, and the rest is what else the machine does.
  const rounds: number[] = [];
  for (let i = 0; i < 5; i++) rounds.push(((await timed(db, jobs(count))) * 1000) / count);
  const cost = Math.min(...rounds);
  await worker.stop();
  return {
    work: `what the queue costs a job: asked for, taken, begun and ended, ${count} that do nothing, one after the other`,
    measured: `${cost.toFixed(1)} ms`,
    budget: `≤ ${COST} ms`,
    holds: cost <= COST,
  };
}

/** How much longer one of many may take to be fetched than one of few. */
const AS_FEW = 2;

/** What it takes to fetch one of a few that wait, and one of ten thousand. */
async function heapRow(db: Kysely<Database>): Promise<BenchRow> {
  const boss = await queue(db);
  const name = queueOf({ kind: 'move', version: 1 });
  const put = (count: number) =>
    db.transaction().execute((trx) =>
      enqueue(
        boss,
        trx,
        Array.from({ length: count }, () => ({ kind: 'move', version: 1, id: randomUUID() })),
      ),
    );
  const fetched = async (count: number) => {
    const began = performance.now();
    for (let i = 0; i < count; i++) {
      const [job] = await boss.fetch(name, { batchSize: 1 });
      await boss.deleteJob(name, job.id);
    }
    return (performance.now() - began) / count;
  };
  await put(300);
  await fetched(100);
  const few = await fetched(100);
  await put(10_000);
  const many = await fetched(100);
  await sql`delete from queue.job`.execute(db);
  return {
    work: `one job fetched of 200 that wait: ${few.toFixed(1)} ms, of 10 000: ${many.toFixed(1)} ms`,
    measured: `${(many / few).toFixed(2)} ×`,
    budget: `≤ ${AS_FEW} ×`,
    holds: many <= AS_FEW * few,
  };
}

async function startWorker(): Promise<ChildProcess> {
  const child = spawn(process.execPath, [path.join('dist', 'work.mjs')], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise((ready) => child.stdout.once('data', ready));
  return child;
}

const stopped = (child: ChildProcess) =>
  new Promise((done) => {
    child.once('exit', done);
    child.kill('SIGTERM');
  });

/** How many are moved in a round, and in how many rounds. */
const FIGURES = 4;
const ROUNDS = 3;

/** A character at its first revision. */
interface Figure {
  readonly id: string;
  readonly revision: string;
}

async function figuresIn(db: Kysely<Database>): Promise<Figure[]> {
  const [brief] = BRIEFS;
  const bytes = new Uint8Array(readFileSync(path.join('dist', 'demo', 'deckhand-clean.glb')));
  const figures: Figure[] = [];
  for (let i = 0; i < FIGURES; i++) {
    const made = runJob<'import'>({ task: 'import', input: { files: [{ name: 'd.glb', bytes }], brief } });
    if ('refused' in made) throw new Error(made.refused);
    const step = { kind: 'import' as const, files: [], notes: [] };
    const first = { ...made, brief: briefKey({ ...brief, version: 1 }), label: 'first', step };
    figures.push(await createCharacter(db, `bench ${i}`, brief.id, first));
  }
  return figures;
}

/** Moves all of them by example, which takes some seconds each, and sets them back; gives how long the moves took, seconds. */
async function moved(db: Kysely<Database>, figures: readonly Figure[]): Promise<number> {
  const jobs = figures.map(({ id, revision }): Wanted => ({
    id: randomUUID(),
    kind: 'move',
    title: 'bench',
    input: { target: { id: 'vrm', title: 'VRM' }, limit: 4, weights: 'example' },
    character: id,
    base: revision,
  }));
  const took = await timed(db, jobs);
  for (const { id, revision } of figures) await moveHead(db, id, await headOf(db, id), revision);
  return took;
}

const headOf = async (db: Kysely<Database>, id: string): Promise<string> => {
  const { head } = await db
    .selectFrom('characters')
    .select('head')
    .where('id', '=', id)
    .executeTakeFirstOrThrow();
  if (!head) throw new Error('A character of the bench has no revision.');
  return head;
};

/** How long so many processes take that only count, at once, seconds. */
async function counted(processes: number): Promise<number> {
  const began = performance.now();
  const count = () =>
    new Promise((done) =>
      spawn(process.execPath, [
        '-e',
        'let x = 0; for (let i = 0; i < 5e8; i++) x = (x * 1664525 + i) | 0;',
      ]).once('exit', done),
    );
  await Promise.all(Array.from({ length: processes }, count));
  return (performance.now() - began) / 1000;
}

/** The same characters moved by one worker and by two, turn by turn, so that both have the same machine. */
async function scaleRow(db: Kysely<Database>): Promise<BenchRow> {
  const figures = await figuresIn(db);
  const workers = [await startWorker(), await startWorker()];
  const [, second] = workers;
  try {
    // Twice without the clock, so that what runs is compiled and what is read is at hand.
    for (let i = 0; i < 2; i++) await moved(db, figures);
    const one: number[] = [];
    const two: number[] = [];
    const cores: number[] = [];
    for (let i = 0; i < ROUNDS; i++) {
      second.kill('SIGSTOP');
      one.push(await moved(db, figures));
      second.kill('SIGCONT');
      two.push(await moved(db, figures));
      cores.push((2 * (await counted(1))) / (await counted(2)));
    }
    const more = middle(one.map((seconds, i) => seconds / two[i]));
    // Of a machine that others share, two processes may not get two cores.
    const most = Math.min(2, middle(cores));
    return {
      work: `two workers against one, ${FIGURES} characters moved by example ${ROUNDS} times in turn: ${middle(one).toFixed(1)} s, ${middle(two).toFixed(1)} s`,
      measured: `${more.toFixed(2)} × (processes that only count: ${most.toFixed(2)} ×)`,
      budget: `≥ ${TWICE} × of two cores`,
      holds: more >= (TWICE / 2) * most,
    };
  } finally {
    second.kill('SIGCONT');
    await Promise.all(workers.map(stopped));
  }
}

const middle = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[list.length >> 1];

export async function queueRows(): Promise<BenchRow[]> {
  const db = database();
  const rows = [await costRow(db), await heapRow(db), await scaleRow(db)];
  await db.destroy();
  return rows;
}

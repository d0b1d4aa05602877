/**
 * The queue and its workers: what the queue itself costs a job, and how much more two workers do than one. Wants a database
 * of its own (DATABASE_URL), prepared, and the worker bundled (dist/work.mjs).
 */
import { type ChildProcess, spawn } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import type { Kysely } from 'kysely';
import { object } from 'yup';
import { BRIEFS } from '../core/house/briefs';
import { briefKey } from '../core/house/brief';
import { type Wanted, askTogether, jobWithParts } from '../jobs/ask';
import { type JobKind, queueOf } from '../jobs/job';
import { queue } from '../jobs/queue';
import { Worker } from '../jobs/worker';
import { createCharacter } from '../server/characters';
import { type Database, database } from '../server/database';
import { runJob } from '../worker/tasks';

interface Row {
  readonly work: string;
  readonly measured: string;
  readonly budget: string;
  readonly holds: boolean;
}

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
    await pause(10);
  }
  const { parts: done } = await jobWithParts(db, id);
  const failed = done.find((p) => p.state !== 'done');
  if (failed) throw new Error(`A job of the bench came to nothing: ${failed.message ?? failed.state}`);
  return (performance.now() - began) / 1000;
}

/** Jobs that do nothing, one after the other: what is left is the queue's. */
async function costRow(db: Kysely<Database>): Promise<Row> {
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
  await timed(db, jobs(500));
  const count = 500;
  const cost = ((await timed(db, jobs(count))) * 1000) / count;
  await worker.stop();
  return {
    work: `what the queue costs a job: asked for, taken, begun and ended, ${count} that do nothing, one after the other`,
    measured: `${cost.toFixed(1)} ms`,
    budget: `≤ ${COST} ms`,
    holds: cost <= COST,
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

/** The same characters handed over by one worker, then by two. */
async function scaleRow(db: Kysely<Database>): Promise<Row> {
  const [brief] = BRIEFS;
  const bytes = new Uint8Array(readFileSync(path.join('dist', 'demo', 'deckhand-clean.glb')));
  const figures: { id: string; revision: string }[] = [];
  for (let i = 0; i < 8; i++) {
    const made = runJob<'import'>({ task: 'import', input: { files: [{ name: 'd.glb', bytes }], brief } });
    if ('refused' in made) throw new Error(made.refused);
    const step = { kind: 'import' as const, files: [], notes: [] };
    const first = { ...made, brief: briefKey({ ...brief, version: 1 }), label: 'first', step };
    figures.push(await createCharacter(db, `bench ${i}`, brief.id, first));
  }
  const jobs = (): Wanted[] =>
    figures.map(({ id, revision }) => ({
      id: randomUUID(),
      kind: 'hand over several',
      title: 'bench',
      input: { by: 'bench' },
      character: id,
      base: revision,
    }));
  const workers = [await startWorker()];
  try {
    // Each round once without the clock, so that what runs is compiled and what is read is at hand.
    await timed(db, jobs());
    const one = await timed(db, jobs());
    workers.push(await startWorker());
    await timed(db, jobs());
    const two = await timed(db, jobs());
    const more = one / two;
    return {
      work: `two workers against one: ${figures.length} characters handed over in ${one.toFixed(1)} s, then ${two.toFixed(1)} s`,
      measured: `${more.toFixed(2)} ×`,
      budget: `≥ ${TWICE} ×`,
      holds: more >= TWICE,
    };
  } finally {
    await Promise.all(workers.map(stopped));
  }
}

export async function queueRows(): Promise<Row[]> {
  const db = database();
  const rows = [await costRow(db), await scaleRow(db)];
  await db.destroy();
  return rows;
}

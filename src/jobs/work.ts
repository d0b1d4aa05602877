/** A worker process: node dist/work.mjs. Takes jobs from DATABASE_URL until it is asked to end. */
import { database } from '../server/database';
import { warmUp } from '../server/pool';
import { boundsOf, checkBounds } from './bounds';
import { ALL_KINDS, kindNamed } from './kinds';
import { Worker } from './worker';

/** How long jobs may take to come to their end when the worker is asked to, milliseconds. */
const GRACE = 4000;

checkBounds(ALL_KINDS);
const worker = new Worker(database(), process.env.DATABASE_URL ?? '', ALL_KINDS);
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.on(signal, () => {
    setTimeout(() => process.exit(0), GRACE).unref();
    void worker.stop().then(() => process.exit(0));
  });
const quick = kindNamed('remedy');
if (quick) warmUp(boundsOf(quick));
await worker.start();
process.stdout.write('at work\n');

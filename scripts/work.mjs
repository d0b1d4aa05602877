/**
 * `npm run work`: one more worker, for the house that runs in this folder, or on any machine for the database that
 * DATABASE_URL names. Ctrl-C ends it; what it is at is given back, and begun again by another.
 */
import { readFileSync } from 'node:fs';
import path from 'node:path';
import {
  Stop,
  buildBundles,
  checkNode,
  dataFolder,
  installPackages,
  main,
  say,
  startWorker,
  stopServer,
} from './lib.mjs';
import { ours } from './processes.mjs';

/** The database of the house that runs in this folder; null where none does. */
function databaseHere() {
  try {
    const noted = JSON.parse(readFileSync(path.join(dataFolder, 'running.json'), 'utf8'));
    return ours(noted.pid, 'start.mjs') ? (noted.database ?? null) : null;
  } catch {
    return null;
  }
}

await main(async () => {
  checkNode();
  const url = process.env.DATABASE_URL || databaseHere();
  if (!url)
    throw new Stop(
      'There is no database to take work from: no house runs in this folder, and DATABASE_URL is not set. Start one with “npm start”, or set DATABASE_URL to the database of the one that runs.',
    );
  installPackages();
  await buildBundles();
  // Listened for before the worker is there: a signal that comes while it is started would leave it behind.
  let worker = null;
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => void stopServer(worker));
  worker = startWorker({ ...process.env, DATABASE_URL: url, NODE_ENV: 'production' });
  say('At work. Ctrl-C ends it.');
  return new Promise((done) => worker.once('exit', (code) => done(code ?? 0)));
});

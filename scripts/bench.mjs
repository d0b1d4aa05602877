/**
 * `npm run bench`: bundles the bench and runs it in a process of its own, beside a house of its own for the
 * page. `npm run bench -- match` tries the matching of skeletons alone, `-- motion` motion on
 * other bones, `-- bodies` the whole audit over bodies of every kind, `-- large` the work on a body of 682 000 vertices,
 * `-- hand` what follows the hand, `-- surface` faults planted all over meshes,
 * `-- queue` the queue and its workers.
 */
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, rmSync } from 'node:fs';
import path from 'node:path';
import {
  Stop,
  aptInstall,
  buildApp,
  buildBundles,
  buildDemo,
  checkNode,
  freePort,
  installPackages,
  main,
  root,
  startServer,
  startWorker,
  stopServer,
  waitForServer,
} from './lib.mjs';
import { startDatabase } from './database.mjs';

async function bundleBench() {
  const { build } = await import('esbuild');
  const outfile = path.join(root, 'dist', 'bench.mjs');
  await build({
    entryPoints: [path.join(root, 'src/bench/main.ts')],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    logLevel: 'error',
    packages: 'external',
  });
  return outfile;
}

/** Has a database of its own, fresh and prepared, for as long as the work takes; gives it the environment. */
async function withDatabase(cast, work) {
  const folder = path.join(root, '.data', 'bench');
  rmSync(folder, { recursive: true, force: true });
  const database = await startDatabase(folder);
  try {
    const env = {
      ...process.env,
      DATABASE_URL: database.url,
      NEXT_TELEMETRY_DISABLED: '1',
      NODE_ENV: 'production',
    };
    const prepared = spawnSync(process.execPath, [path.join(root, 'dist', 'prepare.mjs'), cast], {
      cwd: root,
      env,
      stdio: 'inherit',
    });
    if (prepared.status !== 0) throw new Stop('The database of the bench could not be prepared.');
    return await work(env);
  } finally {
    await database.stop();
  }
}

/** Serves a house in it, with a worker. */
async function withHouse(env, work) {
  const port = await freePort();
  const server = startServer('127.0.0.1', port, env);
  const worker = startWorker(env);
  try {
    const url = `http://127.0.0.1:${port}`;
    await waitForServer(url);
    return await work(url);
  } finally {
    await Promise.all([stopServer(server), stopServer(worker)]);
  }
}

await main(async () => {
  checkNode();
  installPackages(true);
  await buildBundles();
  const cast = await buildDemo();
  // Matching, motion, bodies and large ones alone need neither a page nor a house.
  const alone = ['match', 'motion', 'bodies', 'large', 'hand', 'surface', 'weights', 'trials'].find((part) =>
    process.argv.includes(part),
  );
  if (alone)
    return (
      spawnSync(process.execPath, [await bundleBench(), alone], { stdio: 'inherit', cwd: root }).status ?? 1
    );
  const isQueue = process.argv.includes('queue');
  const isPage = process.argv.includes('page');
  const isAll = !isQueue && !isPage;
  if (!isQueue && !existsSync('/usr/bin/chromium')) aptInstall(['chromium'], 'Chromium');
  if (!isQueue) await buildApp();
  const bench = await bundleBench();
  // Not waited for by standing still: a worker that ends is to be heard of.
  const run = (more, ...args) =>
    new Promise((done) => {
      const child = spawn(process.execPath, [bench, ...args], {
        stdio: 'inherit',
        cwd: root,
        env: { ...process.env, ...more },
      });
      child.once('exit', (code) => done(code ?? 1));
    });
  const inHouse = (...args) =>
    withDatabase(cast, (env) => withHouse(env, (url) => run({ BASE_URL: url }, ...args)));
  if (isPage) return inHouse('page');
  const queued = await withDatabase(cast, ({ DATABASE_URL }) => run({ DATABASE_URL }, 'queue'));
  return isAll ? Math.max(queued, await inHouse()) : queued;
});

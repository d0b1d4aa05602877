/**
 * `npm test`: the same preparation as a start, then format, types and lint, then the unit tests and, beside them, the
 * interface in Chromium. `npm test unit` and the like run a part of it.
 */
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
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
  say,
  startServer,
  startWorker,
  stopServer,
  waitForServer,
} from './lib.mjs';
import { startDatabase } from './database.mjs';

const bin = (name) => path.join(root, 'node_modules', '.bin', name);
const results = (name) => path.join(root, 'test-results', name);
const only = process.argv.slice(2);
const wanted = (part) => only.length === 0 || only.includes(part);
const tally = { passed: 0, failed: 0 };

// A break is answered once the running step has ended, so that nothing that was started here stays behind.
let broken = false;
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
  process.on(signal, () => {
    broken = true;
  });

/** Runs a command to its end; true where it ended well. `quiet`: what it writes comes at once, when it has ended. */
async function step(name, command, args, env = {}, quiet = false) {
  if (broken) throw new Stop('Stopped before all tests had run.');
  say(`— ${name}`);
  const child = spawn(command, args, {
    cwd: root,
    stdio: ['ignore', quiet ? 'pipe' : 'inherit', quiet ? 'pipe' : 'inherit'],
    env: { ...process.env, ...env },
  });
  const written = [];
  for (const stream of [child.stdout, child.stderr]) stream?.on('data', (d) => written.push(d));
  const { code, signal } = await new Promise((done, fail) => {
    child.on('error', fail);
    child.on('close', (code, signal) => done({ code, signal }));
  });
  process.stdout.write(Buffer.concat(written));
  if (signal || code === 130)
    throw new Stop(`Stopped during the ${name}; the test databases and the server are ended too.`);
  return code === 0;
}

/** A step that counts as one test. */
async function countStep(name, command, args) {
  if (await step(name, command, args)) tally.passed++;
  else tally.failed++;
}

/** A step that writes its own counts into a file; one that fails without any counts as one failure. */
async function countFrom(file, counts, run) {
  rmSync(file, { force: true });
  const ok = await run();
  const { passed, failed } = existsSync(file)
    ? counts(JSON.parse(readFileSync(file, 'utf8')))
    : { passed: 0, failed: 0 };
  tally.passed += passed;
  tally.failed += !ok && failed === 0 ? 1 : failed;
}

function runUnitTests(databaseUrl, cast) {
  const file = results('unit.json');
  const chosen = (process.env.BOUGH_UNIT ?? '').split(' ').filter(Boolean);
  const env = {
    DATABASE_URL: databaseUrl,
    BOUGH_CAST: cast,
    NODE_ENV: 'test',
    NODE_OPTIONS: '--max-old-space-size=4096',
  };
  return countFrom(
    file,
    (r) => ({ passed: r.numPassedTests, failed: r.numFailedTests + r.numRuntimeErrorTestSuites }),
    () => step('unit tests', bin('jest'), [...chosen, '--json', `--outputFile=${file}`], env),
  );
}

async function runInterfaceTests(env, cast, quiet) {
  const port = await freePort();
  const url = `http://127.0.0.1:${port}`;
  const server = startServer('127.0.0.1', port, { ...process.env, ...env });
  const worker = startWorker({ ...process.env, ...env });
  try {
    await waitForServer(url);
    const chosen = process.env.BOUGH_E2E ? [process.env.BOUGH_E2E] : [];
    await countFrom(
      results('e2e.json'),
      ({ stats }) => ({ passed: stats.expected + stats.flaky, failed: stats.unexpected }),
      () =>
        step(
          'interface tests',
          bin('playwright'),
          ['test', ...chosen],
          { BASE_URL: url, BOUGH_CAST: cast, DATABASE_URL: env.DATABASE_URL },
          quiet,
        ),
    );
  } finally {
    await Promise.all([stopServer(server), stopServer(worker)]);
  }
}

/** A database of one kind of tests, fresh and with the demo cast in it, for as long as the work takes. */
async function withDatabase(name, cast, work) {
  // Those of the unit tests and of the interface run side by side, and must not meet each other's characters.
  const folder = path.join(root, '.data', 'test', name);
  rmSync(folder, { recursive: true, force: true });
  const database = await startDatabase(folder);
  try {
    const env = { DATABASE_URL: database.url, NEXT_TELEMETRY_DISABLED: '1', NODE_ENV: 'production' };
    const prepared = spawnSync(process.execPath, [path.join(root, 'dist', 'prepare.mjs'), cast], {
      cwd: root,
      env: { ...process.env, ...env },
      stdio: 'inherit',
    });
    if (prepared.status !== 0)
      throw new Stop('The test database could not be prepared; the message above says why.');
    await work(env);
  } finally {
    await database.stop();
  }
}

/** Waits for all of it, also where one part fails, so that everything has ended; then throws what went wrong first. */
async function allOf(parts) {
  const failed = (await Promise.allSettled(parts)).find((r) => r.status === 'rejected');
  if (failed) throw failed.reason;
}

await main(async () => {
  checkNode();
  installPackages();
  await buildBundles();
  const cast = buildDemo();
  if (wanted('format')) await countStep('format', bin('prettier'), ['--check', '--log-level', 'warn', '.']);
  if (wanted('types')) await countStep('types', bin('tsc'), ['--noEmit', '-p', root]);
  if (wanted('lint')) await countStep('lint', bin('oxlint'), ['--deny-warnings', 'src', 'tests', 'scripts']);
  mkdirSync(results(''), { recursive: true });
  // A database that was given is one for both.
  const both = wanted('unit') && wanted('e2e') && !process.env.DATABASE_URL;
  // Of the unit tests some start the house, which would build it while the interface is tried.
  if (wanted('unit') || wanted('e2e')) buildApp();
  // Before both kinds run side by side: files that other people made, to read and to hold our readings against, and
  // what prints reports and is driven through the interface.
  if (!existsSync('/usr/share/assimp/models')) aptInstall(['assimp-testmodels'], 'the sample models');
  if (!existsSync('/usr/bin/chromium')) aptInstall(['chromium'], 'Chromium');
  const unit = () => withDatabase('unit', cast, (env) => runUnitTests(env.DATABASE_URL, cast));
  const e2e = () => withDatabase('interface', cast, (env) => runInterfaceTests(env, cast, both));
  if (both) await allOf([unit(), e2e()]);
  else {
    if (wanted('unit')) await unit();
    if (wanted('e2e')) await e2e();
  }
  process.stdout.write(`${tally.passed} passed, ${tally.failed} failed\n`);
  return tally.failed > 0 ? 1 : 0;
});

/**
 * `npm test`: the same preparation as a start; beside the build format, types and lint; then the unit tests and, beside
 * them, the interface in Chromium, against several houses at once. `npm test unit` and the like run a part of it;
 * `npm test -- --since HEAD~1` runs what the changes since then can reach.
 */
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import path from 'node:path';
import { parseArgs } from 'node:util';
import {
  Stop,
  aptInstall,
  buildApp,
  buildBundles,
  buildCoarseDemo,
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
const { values, positionals: only } = parseArgs({
  options: { since: { type: 'string' } },
  allowPositionals: true,
});
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

/** A step that counts as one test; what it writes comes in one piece, since others run beside it. */
async function countStep(name, command, args) {
  if (await step(name, command, args, {}, true)) tally.passed++;
  else tally.failed++;
}

/** What is read off the sources alone, all at once. */
function staticChecks() {
  const checks = [
    ['format', 'prettier', ['--check', '--log-level', 'warn', '.']],
    ['types', 'tsc', ['--noEmit', '-p', root]],
    ['lint', 'oxlint', ['--deny-warnings', 'src', 'tests', 'scripts']],
  ];
  return allOf(
    checks
      .filter(([name]) => wanted(name))
      .map(([name, command, args]) => countStep(name, bin(command), args)),
  );
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

/** Files that differ from a revision, and those that are not in the repository yet. */
function changedSince(revision) {
  const git = (...args) => {
    const done = spawnSync('git', args, { cwd: root, encoding: 'utf8' });
    if (done.status !== 0)
      throw new Stop(`What changed since ${revision} cannot be told: ${done.stderr.trim().split('\n')[0]}.`);
    return done.stdout.split('\n').filter(Boolean);
  };
  return [...git('diff', '--name-only', revision), ...git('ls-files', '--others', '--exclude-standard')];
}

/** What the interface does not stand on. */
const BESIDE = /^(docs|tests|src\/(cli|bench|trial))\/|^README|^scripts\/(bench|trial)/;

/** The interface tests that changes can reach: all, those that changed themselves, or none. */
function reachedSpecs(changed) {
  if (changed.some((file) => !BESIDE.test(file) || file === 'tests/e2e/support.ts')) return null;
  return changed.filter((file) => /^tests\/e2e\/.*\.spec\.ts$/.test(file));
}

function runUnitTests(databaseUrl, cast) {
  const file = results('unit.json');
  const chosen = (process.env.BOUGH_UNIT ?? '').split(' ').filter(Boolean);
  if (values.since) chosen.push('--changedSince', values.since, '--passWithNoTests');
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

/**
 * Houses that the interface is tried in at once; each has a server, a worker and a database of its own. A browser mostly
 * waits, so that there may be more of them than processors.
 */
const HOUSES = 3;

async function runInterfaceTests(env, database, cast, { quiet, specs }) {
  const copies = process.env.DATABASE_URL
    ? []
    : Array.from({ length: HOUSES - 1 }, (_, i) => database.copyAs(`bough_${i + 2}`));
  const houses = await Promise.all(
    [env.DATABASE_URL, ...copies].map(async (url) => ({ database: url, port: await freePort() })),
  );
  const running = [];
  try {
    for (const { database: url, port } of houses) {
      // Beside the unit tests, what gives way would not come to its turn at all.
      const own = { ...process.env, ...env, DATABASE_URL: url, BOUGH_GIVES_WAY: 'no' };
      running.push(startServer('127.0.0.1', port, own), startWorker(own));
    }
    const addresses = houses.map(({ port }) => `http://127.0.0.1:${port}`);
    await Promise.all(addresses.map(waitForServer));
    const chosen = process.env.BOUGH_E2E ? [process.env.BOUGH_E2E] : (specs ?? []);
    await countFrom(
      results('e2e.json'),
      ({ stats }) => ({ passed: stats.expected + stats.flaky, failed: stats.unexpected }),
      () =>
        step(
          'interface tests',
          bin('playwright'),
          ['test', ...chosen],
          {
            BASE_URL: addresses.join(' '),
            DATABASE_URL: houses.map((h) => h.database).join(' '),
            BOUGH_CAST: cast,
          },
          quiet,
        ),
    );
  } finally {
    await Promise.all(running.map(stopServer));
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
    await work(env, database);
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
  installPackages(true);
  await buildBundles();
  mkdirSync(results(''), { recursive: true });
  // A database that was given is one for both.
  const specs = values.since ? reachedSpecs(changedSince(values.since)) : null;
  const wantsInterface = wanted('e2e') && specs?.length !== 0;
  const both = wanted('unit') && wantsInterface && !process.env.DATABASE_URL;
  // Of the unit tests some start the house, which would build it while the interface is tried.
  const isTried = wanted('unit') || wantsInterface;
  const drawn = isTried ? [buildDemo(), buildCoarseDemo()] : [];
  await allOf([...drawn, staticChecks(), ...(isTried ? [buildApp()] : [])]);
  const cast = await drawn[0];
  // The page shows a cast with fewer points: drawing in software takes most of the time.
  const coarse = await drawn[1];
  // Before both kinds run side by side: files that other people made, to read and to hold our readings against, and
  // what prints reports and is driven through the interface.
  if (!existsSync('/usr/share/assimp/models')) aptInstall(['assimp-testmodels'], 'the sample models');
  if (!existsSync('/usr/bin/chromium')) aptInstall(['chromium'], 'Chromium');
  const unit = () => withDatabase('unit', cast, (env) => runUnitTests(env.DATABASE_URL, cast));
  const e2e = () =>
    withDatabase('interface', coarse, (env, database) =>
      runInterfaceTests(env, database, coarse, { quiet: both, specs }),
    );
  if (both) await allOf([unit(), e2e()]);
  else {
    if (wanted('unit')) await unit();
    if (wantsInterface) await e2e();
  }
  process.stdout.write(`${tally.passed} passed, ${tally.failed} failed\n`);
  return tally.failed > 0 ? 1 : 0;
});

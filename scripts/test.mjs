/**
 * `npm test`: the same preparation as a start, then format, types, lint, unit tests, and the interface in
 * Chromium.
 */
import { spawnSync } from 'node:child_process';
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

function step(name, command, args, env = {}) {
  if (broken) throw new Stop('Stopped before all tests had run.');
  say(`— ${name}`);
  const done = spawnSync(command, args, { cwd: root, stdio: 'inherit', env: { ...process.env, ...env } });
  if (done.signal || done.status === 130)
    throw new Stop(`Stopped during the ${name}; the test database and server are ended too.`);
  return done.status === 0;
}

/** A step that counts as one test. */
function countStep(name, command, args) {
  if (step(name, command, args)) tally.passed++;
  else tally.failed++;
}

/** A step that writes its own counts into a file; one that fails without any counts as one failure. */
function countFrom(file, counts, run) {
  rmSync(file, { force: true });
  const before = tally.failed;
  const ok = run();
  if (existsSync(file)) {
    const { passed, failed } = counts(JSON.parse(readFileSync(file, 'utf8')));
    tally.passed += passed;
    tally.failed += failed;
  }
  if ((!ok || !existsSync(file)) && tally.failed === before) tally.failed++;
}

function runUnitTests(databaseUrl, cast) {
  // Files that other people made, to read and to hold our readings against.
  if (!existsSync('/usr/share/assimp/models')) aptInstall(['assimp-testmodels'], 'the sample models');
  const file = results('unit.json');
  countFrom(
    file,
    (r) => ({ passed: r.numPassedTests, failed: r.numFailedTests + r.numRuntimeErrorTestSuites }),
    () =>
      step(
        'unit tests',
        bin('jest'),
        [...(process.env.BOUGH_UNIT ?? '').split(' ').filter(Boolean), '--json', `--outputFile=${file}`],
        {
          DATABASE_URL: databaseUrl,
          BOUGH_CAST: cast,
          NODE_ENV: 'test',
          NODE_OPTIONS: '--max-old-space-size=4096',
        },
      ),
  );
}

async function runInterfaceTests(env, cast) {
  if (!existsSync('/usr/bin/chromium')) aptInstall(['chromium'], 'Chromium');
  buildApp();
  const port = await freePort();
  const url = `http://127.0.0.1:${port}`;
  const server = startServer('127.0.0.1', port, { ...process.env, ...env });
  try {
    await waitForServer(url);
    const chosen = process.env.BOUGH_E2E ? [process.env.BOUGH_E2E] : [];
    countFrom(
      results('e2e.json'),
      ({ stats }) => ({ passed: stats.expected + stats.flaky, failed: stats.unexpected }),
      () =>
        step('interface tests', bin('playwright'), ['test', ...chosen], { BASE_URL: url, BOUGH_CAST: cast }),
    );
  } finally {
    await stopServer(server);
  }
}

await main(async () => {
  checkNode();
  installPackages();
  await buildBundles();
  const cast = buildDemo();
  if (wanted('format')) countStep('format', bin('prettier'), ['--check', '--log-level', 'warn', '.']);
  if (wanted('types')) countStep('types', bin('tsc'), ['--noEmit', '-p', root]);
  if (wanted('lint')) countStep('lint', bin('oxlint'), ['--deny-warnings', 'src', 'tests', 'scripts']);
  if (wanted('unit') || wanted('e2e')) {
    // A data folder of the tests' own, fresh every time.
    const folder = path.join(root, '.data', 'test');
    rmSync(folder, { recursive: true, force: true });
    mkdirSync(results(''), { recursive: true });
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
      if (wanted('unit')) runUnitTests(database.url, cast);
      if (wanted('e2e')) await runInterfaceTests(env, cast);
    } finally {
      await database.stop();
    }
  }
  process.stdout.write(`${tally.passed} passed, ${tally.failed} failed\n`);
  return tally.failed > 0 ? 1 : 0;
});

/** `npm test`: the same preparation as a start, then types, lint, unit tests, and the interface in Chromium. */
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
  startDatabase,
} from './lib.mjs';

const bin = (name) => path.join(root, 'node_modules', '.bin', name);
const only = process.argv.slice(2);
const wanted = (part) => only.length === 0 || only.includes(part);

function step(name, command, args, env = {}) {
  if (broken) throw new Stop('Stopped before all tests had run.');
  say(`— ${name}`);
  const done = spawnSync(command, args, { cwd: root, stdio: 'inherit', env: { ...process.env, ...env } });
  if (done.signal || done.status === 130)
    throw new Stop(`Stopped during the ${name}; the test database and server are ended too.`);
  return done.status === 0;
}

// A break is answered once the running step has ended, so that nothing that was started here stays behind.
let broken = false;
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
  process.on(signal, () => {
    broken = true;
  });

await main(async () => {
  checkNode();
  installPackages();
  await buildBundles();
  const cast = buildDemo();
  let passed = 0;
  let failed = 0;
  const count = (ok) => {
    if (ok) passed++;
    else failed++;
  };
  if (wanted('types')) count(step('types', bin('tsc'), ['--noEmit', '-p', root]));
  if (wanted('lint')) count(step('lint', bin('oxlint'), ['--deny-warnings', 'src', 'tests', 'scripts']));
  if (wanted('unit') || wanted('e2e')) {
    // A data folder of the tests' own, fresh every time.
    const folder = path.join(root, '.data', 'test');
    rmSync(folder, { recursive: true, force: true });
    mkdirSync(path.join(root, 'test-results'), { recursive: true });
    const database = await startDatabase(folder);
    let server = null;
    try {
      const env = { DATABASE_URL: database.url, NEXT_TELEMETRY_DISABLED: '1', NODE_ENV: 'production' };
      const prepared = spawnSync(process.execPath, [path.join(root, 'dist', 'prepare.mjs'), cast], {
        cwd: root,
        env: { ...process.env, ...env },
        stdio: 'inherit',
      });
      if (prepared.status !== 0)
        throw new Stop('The test database could not be prepared; the message above says why.');
      if (wanted('unit')) {
        // Files that other people made, to read and to hold our readings against.
        if (!existsSync('/usr/share/assimp/models')) aptInstall(['assimp-testmodels'], 'the sample models');
        const file = path.join(root, 'test-results', 'unit.json');
        rmSync(file, { force: true });
        const ok = step('unit tests', bin('jest'), ['--json', `--outputFile=${file}`], {
          DATABASE_URL: database.url,
          BOUGH_CAST: cast,
          NODE_ENV: 'test',
          NODE_OPTIONS: '--max-old-space-size=4096',
        });
        if (existsSync(file)) {
          const r = JSON.parse(readFileSync(file, 'utf8'));
          passed += r.numPassedTests;
          failed += r.numFailedTests + r.numRuntimeErrorTestSuites;
        } else {
          failed++;
        }
        if (!ok && failed === 0) failed++;
      }
      if (wanted('e2e')) {
        if (!existsSync('/usr/bin/chromium')) aptInstall(['chromium'], 'Chromium');
        buildApp();
        const port = await freePort();
        server = spawn(
          process.execPath,
          [
            path.join(root, 'node_modules', 'next', 'dist', 'bin', 'next'),
            'start',
            '-H',
            '127.0.0.1',
            '-p',
            String(port),
          ],
          { cwd: root, env: { ...process.env, ...env }, stdio: ['ignore', 'ignore', 'inherit'] },
        );
        for (let i = 0; ; i++) {
          try {
            if ((await fetch(`http://127.0.0.1:${port}/api/characters`)).ok) break;
          } catch {
            /* not up yet */
          }
          if (i > 300) throw new Stop('The server did not answer within half a minute.');
          await new Promise((r) => setTimeout(r, 100));
        }
        const file = path.join(root, 'test-results', 'e2e.json');
        rmSync(file, { force: true });
        const ok = step(
          'interface tests',
          bin('playwright'),
          ['test', ...(process.env.BOUGH_E2E ? [process.env.BOUGH_E2E] : [])],
          { BASE_URL: `http://127.0.0.1:${port}`, BOUGH_CAST: cast },
        );
        if (existsSync(file)) {
          const { stats } = JSON.parse(readFileSync(file, 'utf8'));
          passed += stats.expected + stats.flaky;
          failed += stats.unexpected;
        } else {
          failed++;
        }
        if (!ok && failed === 0) failed++;
      }
    } finally {
      if (server) {
        server.kill('SIGTERM');
        await new Promise((r) => {
          server.once('exit', r);
          setTimeout(() => {
            server.kill('SIGKILL');
            r();
          }, 5000).unref();
        });
      }
      await database.stop();
    }
  }
  process.stdout.write(`${passed} passed, ${failed} failed\n`);
  return failed > 0 ? 1 : 0;
});

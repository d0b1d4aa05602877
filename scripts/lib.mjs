/**
 * What every command prepares: Node, packages, PostgreSQL, builds. Plain Node, no packages: it runs before
 * any install.
 */
import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { chownSync, existsSync, mkdirSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import net from 'node:net';
import path from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
export const dataFolder = path.resolve(process.env.BOUGH_DATA ?? path.join(root, '.data'));
export const say = (text) => process.stderr.write(`${text}\n`);

/** Ends the command with one clear sentence. */
export class Stop extends Error {}

export function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19))
    throw new Stop(`Node ${process.versions.node} is too old; install Node 20.19 or newer.`);
}

const stampOf = (file) => (existsSync(file) ? readFileSync(file, 'utf8') : '');

/** Installs the packages when they are missing or the lock file has changed. */
export function installPackages() {
  const lock = path.join(root, 'package-lock.json');
  const stamp = path.join(root, 'node_modules', '.bough-lock');
  const hash = createHash('sha256').update(readFileSync(lock)).digest('hex');
  if (stampOf(stamp) === hash) return;
  say('Installing packages …');
  const npm = (...args) =>
    spawnSync('npm', [...args, '--no-audit', '--no-fund', '--loglevel=error'], {
      cwd: root,
      stdio: ['ignore', 'ignore', 'pipe'],
      encoding: 'utf8',
    });
  // A registry that mirrors only this platform leaves other platforms' optional binaries out of the lock
  // file; "ci" then refuses, while "install" takes the locked versions all the same.
  let done = npm('ci');
  if (done.status !== 0) done = npm('install', '--no-save');
  if (done.status !== 0)
    throw new Stop(
      `The packages could not be installed (${done.stderr.trim().split('\n')[0]}); check that npm reaches its registry, and start again.`,
    );
  writeFileSync(stamp, hash);
}

function sourcesHash(folders, files = []) {
  const hash = createHash('sha256');
  const walk = (p) => {
    for (const e of readdirSync(p, { withFileTypes: true }).sort((a, b) => (a.name < b.name ? -1 : 1))) {
      const full = path.join(p, e.name);
      if (e.isDirectory()) walk(full);
      else hash.update(path.relative(root, full)).update(readFileSync(full));
    }
  };
  for (const f of folders) walk(path.join(root, f));
  for (const f of files) hash.update(readFileSync(path.join(root, f)));
  return hash.digest('hex');
}

/**
 * Compiles the SIMD kernels from their AssemblyScript source into a module that the core imports, when the
 * source has changed.
 */
export function buildKernels() {
  const folder = path.join(root, 'src/core/geometry/wasm');
  const out = path.join(folder, 'kernels.wasm.ts');
  const hash = sourcesHash([], ['src/core/geometry/wasm/kernels.as.ts']);
  if (existsSync(out) && readFileSync(out, 'utf8').includes(hash)) return;
  const file = path.join(root, 'dist', 'kernels.wasm');
  mkdirSync(path.dirname(file), { recursive: true });
  const done = spawnSync(
    process.execPath,
    [
      path.join(root, 'node_modules/assemblyscript/bin/asc.js'),
      'src/core/geometry/wasm/kernels.as.ts',
      '--runtime',
      'stub',
      '--enable',
      'simd',
      '--optimizeLevel',
      '3',
      '--noAssert',
      '--outFile',
      file,
    ],
    { cwd: root, encoding: 'utf8' },
  );
  if (done.status !== 0)
    throw new Stop(`The kernels could not be compiled: ${done.stderr.trim().split('\n')[0]}.`);
  writeFileSync(
    out,
    `// Made from kernels.as.ts (${hash}); do not edit.\nexport const KERNELS_BASE64 = '${readFileSync(file).toString('base64')}';\n`,
  );
}

/**
 * Bundles the command line, the worker threads and the demo's generator into dist/, when their sources have
 * changed.
 */
export async function buildBundles() {
  buildKernels();
  const stamp = path.join(root, 'dist', '.stamp');
  const hash = sourcesHash(
    ['src/core', 'src/cli', 'src/worker', 'src/demo', 'src/server'],
    ['package-lock.json'],
  );
  if (stampOf(stamp) === hash) return;
  const { build } = await import('esbuild');
  const entry = {
    cli: 'src/cli/main.ts',
    worker: 'src/worker/thread.ts',
    demo: 'src/demo/write.ts',
    prepare: 'src/server/prepare.ts',
  };
  await build({
    entryPoints: Object.fromEntries(
      Object.entries(entry)
        .filter(([, f]) => existsSync(path.join(root, f)))
        .map(([k, f]) => [k, path.join(root, f)]),
    ),
    outdir: path.join(root, 'dist'),
    outExtension: { '.js': '.mjs' },
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    logLevel: 'error',
    packages: 'external',
    alias: { '@': path.join(root, 'src') },
  });
  writeFileSync(stamp, hash);
}

/** Generates the demo cast into dist/demo when its sources have changed. */
export function buildDemo() {
  const folder = path.join(root, 'dist', 'demo');
  const stamp = path.join(folder, '.stamp');
  const hash = sourcesHash([
    'src/demo',
    ...['geometry', 'character', 'anatomy', 'formats'].map((f) => `src/core/${f}`),
  ]);
  if (stampOf(stamp) === hash) return folder;
  say('Drawing the demo cast …');
  const done = spawnSync(process.execPath, [path.join(root, 'dist', 'demo.mjs'), folder], {
    cwd: root,
    stdio: 'inherit',
  });
  if (done.status !== 0) throw new Stop('The demo cast could not be generated; the message above says why.');
  writeFileSync(stamp, hash);
  return folder;
}

/** Builds the application when its sources have changed. */
export function buildApp() {
  const stamp = path.join(root, '.next', '.bough-stamp');
  const hash = sourcesHash(
    ['src'],
    ['package-lock.json', 'next.config.mjs', 'postcss.config.mjs', 'tsconfig.json'],
  );
  if (stampOf(stamp) === hash) return;
  say('Building …');
  // The build stands on the one-way imports: core knows nothing above it.
  const lint = spawnSync(path.join(root, 'node_modules', '.bin', 'oxlint'), ['--deny-warnings', 'src'], {
    cwd: root,
    encoding: 'utf8',
  });
  if (lint.status !== 0) {
    process.stderr.write(lint.stdout + lint.stderr);
    throw new Stop('A rule of the house is broken; the message above says where.');
  }
  const done = spawnSync(
    process.execPath,
    [path.join(root, 'node_modules', 'next', 'dist', 'bin', 'next'), 'build'],
    {
      cwd: root,
      stdio: ['ignore', 'pipe', 'pipe'],
      encoding: 'utf8',
      env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1' },
    },
  );
  if (done.status !== 0) {
    process.stderr.write(done.stdout + done.stderr);
    throw new Stop('The application could not be built; the message above says where.');
  }
  writeFileSync(stamp, hash);
}

const canInstall = () => process.getuid?.() === 0 && existsSync('/usr/bin/apt-get');

export function aptInstall(packages, what) {
  if (!canInstall())
    throw new Stop(
      `${what} is missing and this user may not install it; run “apt-get install ${packages.join(' ')}” as root, then start again.`,
    );
  say(`Installing ${what} …`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  const quiet = { stdio: ['ignore', 'ignore', 'pipe'], env, encoding: 'utf8' };
  spawnSync('apt-get', ['update', '-qq'], quiet);
  const done = spawnSync('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...packages], quiet);
  if (done.status !== 0)
    throw new Stop(
      `${what} could not be installed: ${String(done.stderr).trim().split('\n').pop()}. Install ${packages.join(', ')} by hand and start again.`,
    );
}

function postgresBin() {
  const base = process.env.BOUGH_POSTGRES ?? '/usr/lib/postgresql';
  const versions = existsSync(base)
    ? readdirSync(base)
        .filter((v) => existsSync(path.join(base, v, 'bin', 'initdb')))
        .sort((a, b) => Number(b) - Number(a))
    : [];
  return versions.length > 0 ? path.join(base, versions[0], 'bin') : null;
}

export const freePort = () =>
  new Promise((resolve, reject) => {
    const server = net.createServer();
    server.once('error', reject);
    server.listen(0, '127.0.0.1', () => {
      const { port } = server.address();
      server.close(() => resolve(port));
    });
  });

export const portIsFree = (port, host = '127.0.0.1') =>
  new Promise((resolve) => {
    const server = net.createServer();
    server.once('error', () => resolve(false));
    server.listen(port, host, () => server.close(() => resolve(true)));
  });

const alive = (pid) => {
  try {
    process.kill(pid, 0);
    return true;
  } catch (e) {
    return e.code === 'EPERM';
  }
};

/**
 * Starts a PostgreSQL of our own in the data folder, on loopback and a free port, or uses DATABASE_URL.
 * Gives the URL and a function that stops what was started.
 */
export async function startDatabase(folder = dataFolder) {
  if (process.env.DATABASE_URL) return { url: process.env.DATABASE_URL, stop: async () => {} };
  if (!postgresBin()) aptInstall(['postgresql', 'postgresql-contrib'], 'the PostgreSQL server');
  const bin = postgresBin();
  if (!bin)
    throw new Stop(
      'PostgreSQL was installed but its server is not under /usr/lib/postgresql; install it by hand and start again.',
    );
  mkdirSync(folder, { recursive: true });
  const ids = process.getuid?.() === 0 ? postgresIds() : null;
  const home = ids ? runtimeFolder(folder, ids) : path.join(folder, 'postgres');
  const as = { cwd: '/', env: { ...process.env, LC_ALL: 'C' }, ...ids };
  makeCluster(bin, home, as, ids);
  const shared = runningCluster(home);
  if (shared) return shared;
  const port = await freePort();
  const server = await spawnPostgres(bin, home, port, as);
  const psql = ['-h', '127.0.0.1', '-p', String(port), '-U', 'bough'];
  const known = spawnSync(
    path.join(bin, 'psql'),
    [...psql, '-d', 'postgres', '-Atc', "select 1 from pg_database where datname = 'bough'"],
    { encoding: 'utf8' },
  );
  if (!known.stdout.includes('1')) spawnSync(path.join(bin, 'createdb'), [...psql, 'bough']);
  return { url: `postgres://bough@127.0.0.1:${port}/bough`, stop: () => stopPostgres(server) };
}

function postgresIds() {
  const id = (flag) => Number(execFileSync('id', [flag, 'postgres'], { encoding: 'utf8' }));
  return { uid: id('-u'), gid: id('-g') };
}

function makeCluster(bin, home, as, ids) {
  if (existsSync(path.join(home, 'PG_VERSION'))) return;
  if (existsSync(home) && readdirSync(home).length > 0)
    throw new Stop(
      `The database folder ${home} is damaged: it has no PG_VERSION. Move it away and start again; a new one is made.`,
    );
  mkdirSync(home, { recursive: true, mode: 0o700 });
  if (ids) chownSync(home, ids.uid, ids.gid);
  const options = ['--auth=trust', '--encoding=UTF8', '--no-locale', '--no-instructions'];
  const made = spawnSync(path.join(bin, 'initdb'), ['-D', home, '-U', 'bough', ...options], {
    ...as,
    encoding: 'utf8',
  });
  if (made.status !== 0)
    throw new Stop(
      `The database folder ${home} could not be made: ${String(made.stderr).trim().split('\n').pop()}. Check the disk and the rights on it.`,
    );
}

/**
 * The database of a folder that is served already, where it may be shared; a stale pid file is taken away.
 */
function runningCluster(home) {
  const pidFile = path.join(home, 'postmaster.pid');
  if (!existsSync(pidFile)) return null;
  const lines = readFileSync(pidFile, 'utf8').split('\n');
  if (!alive(Number(lines[0]))) {
    rmSync(pidFile, { force: true });
    return null;
  }
  if (process.env.BOUGH_SHARE_DATABASE)
    return { url: `postgres://bough@127.0.0.1:${lines[3]}/bough`, stop: async () => {} };
  throw new Stop(`The database in ${home} is in use by process ${lines[0]}; stop that one first.`);
}

async function spawnPostgres(bin, home, port, as) {
  const log = [];
  const settings = [
    'listen_addresses=127.0.0.1',
    'unix_socket_directories=',
    'max_connections=60',
    'shared_buffers=128MB',
  ];
  const server = spawn(
    path.join(bin, 'postgres'),
    ['-D', home, '-p', String(port), ...settings.flatMap((s) => ['-c', s])],
    { ...as, stdio: ['ignore', 'pipe', 'pipe'], detached: true },
  );
  server.stdout.on('data', (d) => log.push(String(d)));
  server.stderr.on('data', (d) => log.push(String(d)));
  for (let i = 0; i < 600; i++) {
    if (server.exitCode !== null || server.signalCode !== null) {
      const words = log.join('').trim().split('\n');
      const why = words.filter((l) => /FATAL|ERROR|HINT/.test(l)).pop() ?? 'no message';
      throw new Stop(
        `The database in ${home} did not start: ${why}. Move the folder away to begin anew, or restore it.`,
      );
    }
    const ready = spawnSync(path.join(bin, 'pg_isready'), ['-q', '-h', '127.0.0.1', '-p', String(port)]);
    if (ready.status === 0) break;
    await new Promise((r) => setTimeout(r, 100));
  }
  return server;
}

function stopPostgres(server) {
  const gone = () => server.exitCode !== null || server.signalCode !== null;
  return new Promise((resolve) => {
    if (gone()) {
      resolve();
      return;
    }
    server.once('exit', () => resolve());
    process.kill(server.pid, 'SIGINT');
    setTimeout(() => {
      if (!gone()) process.kill(server.pid, 'SIGQUIT');
    }, 8000).unref();
  });
}

/** Ends a server that this process started: asks first, and forces it after five seconds. */
export async function stopServer(server) {
  if (!server || server.exitCode !== null || server.signalCode !== null) return;
  server.kill('SIGTERM');
  await new Promise((resolve) => {
    server.once('exit', resolve);
    setTimeout(() => {
      server.kill('SIGKILL');
      resolve();
    }, 5000).unref();
  });
}

/** Starts the built application on an address. */
export function startServer(host, port, env, stderr = 'inherit') {
  const next = path.join(root, 'node_modules', 'next', 'dist', 'bin', 'next');
  return spawn(process.execPath, [next, 'start', '-H', host, '-p', String(port)], {
    cwd: root,
    env,
    stdio: ['ignore', 'ignore', stderr],
  });
}

/** Waits until a server answers. Throws Stop where it does not within half a minute. */
export async function waitForServer(url) {
  for (let i = 0; i < 300; i++) {
    const answer = await fetch(`${url}/api/characters`).catch(() => null);
    if (answer?.ok) return;
    await new Promise((r) => setTimeout(r, 100));
  }
  throw new Stop('The server did not answer within half a minute.');
}

/**
 * Under root the server runs as postgres, which must be able to reach its folder; where it cannot, the folder
 * goes to /var/lib.
 */
function runtimeFolder(folder, ids) {
  const inside = path.join(folder, 'postgres');
  mkdirSync(inside, { recursive: true, mode: 0o700 });
  chownSync(inside, ids.uid, ids.gid);
  const reach = spawnSync('test', ['-x', inside], { cwd: '/', ...ids });
  if (reach.status === 0) return inside;
  const outside = path.join(
    '/var/lib/young-bough',
    createHash('sha256').update(folder).digest('hex').slice(0, 12),
  );
  mkdirSync(outside, { recursive: true });
  chownSync(outside, ids.uid, ids.gid);
  return outside;
}

/** One running instance a data folder: a second start says so and where. */
export function claim(folder, address) {
  mkdirSync(folder, { recursive: true });
  const file = path.join(folder, 'running.json');
  if (existsSync(file)) {
    try {
      const { pid, address: where } = JSON.parse(readFileSync(file, 'utf8'));
      if (alive(pid) && pid !== process.pid)
        throw new Stop(
          `Young Bough runs already at ${where} (process ${pid}); open it there, or stop it first.`,
        );
    } catch (error) {
      if (error instanceof Stop) throw error;
    }
  }
  writeFileSync(file, JSON.stringify({ pid: process.pid, address }));
  return () => rmSync(file, { force: true });
}

export async function main(work) {
  try {
    process.exitCode = (await work()) ?? 0;
  } catch (error) {
    if (!(error instanceof Stop)) throw error;
    say(error.message);
    process.exitCode = 1;
  }
}

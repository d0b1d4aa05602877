/**
 * What every command prepares: Node, packages, builds. Plain Node, no packages: it runs before
 * any install.
 */
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import net from 'node:net';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { endStranger, ours } from './processes.mjs';

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

/**
 * Installs the packages when they are missing or the lock file has changed.
 * @param isForTests those that only tests, the bench and the linter use as well; a start does not wait for them
 */
export function installPackages(isForTests = false) {
  const lock = path.join(root, 'package-lock.json');
  const stamp = path.join(root, 'node_modules', '.bough-lock');
  const hash = createHash('sha256').update(readFileSync(lock)).digest('hex');
  const all = `${hash} with those of tests`;
  const has = stampOf(stamp);
  if (has === all || (has === hash && !isForTests)) return;
  say('Installing packages …');
  // Where the tests have their packages already, a start does not take them away.
  const keepsAll = isForTests || existsSync(path.join(root, 'node_modules', '.bin', 'jest'));
  const npm = (...args) =>
    spawnSync(
      'npm',
      [...args, ...(keepsAll ? [] : ['--omit=dev']), '--no-audit', '--no-fund', '--loglevel=error'],
      { cwd: root, stdio: ['ignore', 'ignore', 'pipe'], encoding: 'utf8' },
    );
  // A registry that mirrors only this platform leaves other platforms' optional binaries out of the lock
  // file; "ci" then refuses, while "install" takes the locked versions all the same.
  let done = npm('ci');
  if (done.status !== 0) done = npm('install', '--no-save');
  if (done.status !== 0)
    throw new Stop(
      `The packages could not be installed (${done.stderr.trim().split('\n')[0]}); check that npm reaches its registry, and start again.`,
    );
  writeFileSync(stamp, keepsAll ? all : hash);
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
    [
      'src/core',
      'src/keys',
      'src/routes',
      'src/cli',
      'src/worker',
      'src/demo',
      'src/server',
      'src/jobs',
      'src/trial',
    ],
    ['package-lock.json', 'scripts/lib.mjs'],
  );
  if (stampOf(stamp) === hash) return;
  const { build } = await import('esbuild');
  const entry = {
    cli: 'src/cli/main.ts',
    worker: 'src/worker/thread.ts',
    demo: 'src/demo/write.ts',
    prepare: 'src/jobs/prepare.ts',
    work: 'src/jobs/work.ts',
    serve: 'src/server/serve.ts',
    trial: 'src/trial/files.ts',
    bomb: 'src/trial/bomb.ts',
    forge: 'src/trial/forge.ts',
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
    // All in one file: Node takes longer to find and read three dozen packages than to run a command. What brings
    // threads or native parts of its own stays where it is.
    external: ['next', 'pg', 'piscina', 'kysely', 'gltf-validator', 'playwright-core'],
    banner: {
      js: "import { createRequire as makeRequire } from 'node:module';\nconst require = makeRequire(import.meta.url);",
    },
    alias: { '@': path.join(root, 'src') },
  });
  writeFileSync(stamp, hash);
}

/** Generates the demo cast into dist/demo when its sources have changed. */
export const buildDemo = () => drawInto(path.join(root, 'dist', 'demo'), 'Drawing the demo cast …');

/** The same with a quarter of the points, for tests that ask how something is done and not how much of it there is. */
export const buildCoarseDemo = () =>
  drawInto(path.join(root, 'dist', 'demo', 'coarse'), 'Drawing the coarse cast …', '--coarse');

async function drawInto(folder, words, ...args) {
  const stamp = path.join(folder, '.stamp');
  // Its bundle holds all that it is made with.
  const hash = sourcesHash([], ['dist/demo.mjs', 'package-lock.json']);
  if (stampOf(stamp) === hash) return folder;
  say(words);
  const generator = path.join(root, 'dist', 'demo.mjs');
  const { status, written } = await ended(process.execPath, [generator, folder, ...args]);
  if (status !== 0)
    throw new Stop(`${written}The demo cast could not be generated; the message above says why.`);
  writeFileSync(stamp, hash);
  return folder;
}

/** A command to its end, with all that it wrote. */
function ended(command, args, env = process.env) {
  const child = spawn(command, args, { cwd: root, stdio: ['ignore', 'pipe', 'pipe'], env });
  const kill = () => child.kill();
  process.once('exit', kill);
  let written = '';
  for (const stream of [child.stdout, child.stderr])
    stream.on('data', (data) => {
      written += data;
    });
  return new Promise((done, fail) => {
    child.on('error', fail);
    child.on('close', (status) => {
      process.off('exit', kill);
      done({ status, written });
    });
  });
}

/** Builds the application when its sources have changed; what else is to be done can be done beside it. */
export async function buildApp() {
  const stamp = path.join(root, '.next', '.bough-stamp');
  const hash = sourcesHash(
    ['src'],
    ['package-lock.json', 'next.config.mjs', 'postcss.config.mjs', 'tsconfig.json'],
  );
  if (stampOf(stamp) === hash) return;
  say('Building …');
  const next = path.join(root, 'node_modules', 'next', 'dist', 'bin', 'next');
  const env = { ...process.env, NEXT_TELEMETRY_DISABLED: '1' };
  const done = await ended(process.execPath, [next, 'build'], env);
  if (done.status !== 0) {
    process.stderr.write(done.written);
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

/** Ends a server or a worker that this process started: asks first, and forces it after five seconds. */
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
  return spawn(process.execPath, [path.join(root, 'dist', 'serve.mjs'), host, String(port)], {
    cwd: root,
    env,
    stdio: ['ignore', 'ignore', stderr],
  });
}

/** Starts a worker on the database that `env` names; the folder tells it from those of other houses. */
export function startWorker(env, stderr = 'inherit') {
  return spawn(process.execPath, [path.join(root, 'dist', 'work.mjs'), dataFolder], {
    cwd: root,
    // A worker computes most of the time; of fifty each must find some.
    env: { BOUGH_CONNECTIONS: '4', ...env },
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
 * One running instance a data folder: a second start says so and where. What a start that was cut short left
 * behind is ended. `note` keeps more of what this start started; `release` ends the claim.
 */
export async function claim(folder, address) {
  mkdirSync(folder, { recursive: true });
  const file = path.join(folder, 'running.json');
  const last = readNote(file);
  const running = last.pid === process.pid ? null : ours(last.pid, 'start.mjs');
  if (running)
    throw new Stop(
      `Young Bough runs already at ${last.address} (process ${last.pid}); open it there, or stop it first.`,
    );
  for (const [left, ending, what] of [
    [last.server, 'serve.mjs', 'server'],
    [last.worker, 'work.mjs', 'worker'],
  ]) {
    if (!ours(left, ending)) continue;
    say(`The ${what} of a start that was cut short still runs (process ${left}); it is ended first.`);
    if (!(await endStranger(left)))
      throw new Stop(`Process ${left}, a ${what} of this house, does not end; end it and start again.`);
  }
  const noted = { pid: process.pid, address };
  const note = (more = {}) => writeFileSync(file, JSON.stringify(Object.assign(noted, more)));
  note();
  return { note, release: () => rmSync(file, { force: true }) };
}

/** What the last start noted of itself; nothing where it noted nothing that can be read. */
function readNote(file) {
  try {
    return JSON.parse(readFileSync(file, 'utf8')) ?? {};
  } catch {
    return {};
  }
}

const WHY = {
  ENOSPC: 'the disk is full; make room',
  EDQUOT: 'the disk is full for this user; make room',
  EEXIST: 'there is a file in its place; move that away',
  ENOTDIR: 'there is a file in its place; move that away',
  EROFS: 'it can only be read; choose another place with BOUGH_DATA',
  EACCES: 'this user may not write there; change its rights, or choose another place with BOUGH_DATA',
  EPERM: 'this user may not change it; change its rights, or choose another place with BOUGH_DATA',
};

/** Runs a command: what ends it with a sentence is told as that sentence alone. */
export async function main(work) {
  try {
    process.exitCode = (await work()) ?? 0;
  } catch (error) {
    const sentence = sentenceOf(error);
    if (!sentence) throw error;
    say(sentence);
    process.exitCode = 1;
  }
}

/** The sentence that an error ends a command with; null for what is a mistake of our own. */
export function sentenceOf(error) {
  if (error instanceof Stop) return error.message;
  if (!WHY[error?.code] || !error.path) return null;
  return `${error.path} cannot be written: ${WHY[error.code]}, and start again.`;
}

/**
 * A PostgreSQL of our own in a data folder. It listens on a socket in a folder that nobody else can enter, so
 * that no other account of this machine reaches it; there is no port and no password.
 */
import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  chmodSync,
  chownSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  rmSync,
} from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { Stop, aptInstall, say } from './lib.mjs';
import { endStranger, processOf } from './processes.mjs';

/** Only the name of the socket: nothing listens on a port. */
const PORT = '5432';

/** A socket's whole path fits into 107 bytes. */
const LONGEST = 107 - '/.s.PGSQL.5432'.length;

function postgresBin() {
  const base = process.env.BOUGH_POSTGRES ?? '/usr/lib/postgresql';
  const versions = existsSync(base)
    ? readdirSync(base)
        .filter((v) => existsSync(path.join(base, v, 'bin', 'initdb')))
        .sort((a, b) => Number(b) - Number(a))
    : [];
  return versions.length > 0 ? path.join(base, versions[0], 'bin') : null;
}

/**
 * Starts a PostgreSQL of our own in the data folder, or uses DATABASE_URL. Gives its URL, `stop`, and
 * `onEnd`, which tells when it ended by itself; `restart` starts it again at the same URL.
 */
export async function startDatabase(folder) {
  const given = process.env.DATABASE_URL;
  if (given) return { url: given, onEnd: () => {}, restart: async () => {}, stop: async () => {} };
  if (!postgresBin()) aptInstall(['postgresql', 'postgresql-contrib'], 'the PostgreSQL server');
  const bin = postgresBin();
  if (!bin)
    throw new Stop(
      'PostgreSQL was installed but its server is not under /usr/lib/postgresql; install it by hand and start again.',
    );
  mkdirSync(folder, { recursive: true });
  const ids = process.getuid?.() === 0 ? postgresIds() : null;
  const cluster = new Cluster(bin, ids ? runtimeFolder(folder, ids) : path.join(folder, 'postgres'), ids);
  cluster.make();
  await cluster.clear();
  await cluster.start();
  cluster.makeDatabase();
  return cluster;
}

function postgresIds() {
  const id = (flag) => Number(execFileSync('id', [flag, 'postgres'], { encoding: 'utf8' }));
  return { uid: id('-u'), gid: id('-g') };
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

class Cluster {
  server = null;
  isStopping = false;
  ended = () => {};

  constructor(bin, home, ids) {
    this.bin = bin;
    this.home = home;
    this.ids = ids;
    this.as = { cwd: '/', env: { ...process.env, LC_ALL: 'C' }, ...ids };
    this.socket = this.socketFolder();
  }

  get url() {
    return this.urlOf('bough');
  }

  urlOf(name) {
    return `postgres://bough@socket/${name}?host=${encodeURIComponent(this.socket)}&port=${PORT}`;
  }

  /** A second database with all that the first holds, which nobody may be using meanwhile; gives its URL. */
  copyAs(name) {
    const where = ['-h', this.socket, '-p', PORT, '-U', 'bough', '--template=bough'];
    const made = spawnSync(path.join(this.bin, 'createdb'), [...where, name], { encoding: 'utf8' });
    if (made.status !== 0) throw new Stop(`The database could not be copied: ${made.stderr.trim()}.`);
    return this.urlOf(name);
  }

  /** Called with what the server said last, when it ends without having been stopped. */
  onEnd(tell) {
    this.ended = tell;
  }

  /** A folder of this house alone: databases of several may lie beside each other. */
  socketFolder() {
    const isInside = path.basename(this.home) === 'postgres';
    const beside = isInside ? path.join(path.dirname(this.home), 'socket') : `${this.home}-socket`;
    if (Buffer.byteLength(beside) <= LONGEST) return beside;
    return path.join(mkdtempSync(path.join(os.tmpdir(), 'bough-')), 'socket');
  }

  make() {
    const { home, ids, bin, as } = this;
    if (existsSync(path.join(home, 'PG_VERSION'))) return;
    if (existsSync(home) && readdirSync(home).length > 0)
      throw new Stop(
        `The database folder ${home} holds files but no PG_VERSION, so that it is no whole database. Put back what is missing, or name another data folder with BOUGH_DATA; nothing in it was changed.`,
      );
    mkdirSync(home, { recursive: true, mode: 0o700 });
    if (ids) chownSync(home, ids.uid, ids.gid);
    const options = [
      '--auth-local=trust',
      '--auth-host=reject',
      '--encoding=UTF8',
      '--no-locale',
      '--no-instructions',
    ];
    const made = spawnSync(path.join(bin, 'initdb'), ['-D', home, '-U', 'bough', ...options], {
      ...as,
      encoding: 'utf8',
    });
    if (made.status === 0) return;
    // Half a cluster would be taken for a damaged one by the next start.
    rmSync(home, { recursive: true, force: true });
    const why = String(made.stderr).trim().split('\n').pop();
    throw new Stop(
      `The database folder ${home} could not be made: ${why}. Check the disk and the rights on it.`,
    );
  }

  /** Takes away what a hard end left behind: a server without the start that it belonged to, or only its note. */
  async clear() {
    const note = path.join(this.home, 'postmaster.pid');
    const socket = path.join(this.socket, `.s.PGSQL.${PORT}`);
    const lock = `${socket}.lock`;
    for (const file of [note, lock]) if (existsSync(file)) await this.endServerNotedIn(file);
    // PostgreSQL goes by the number in them alone, which may be anybody's by now, as after the machine was started anew.
    for (const file of [note, lock, socket]) rmSync(file, { force: true });
  }

  /** Ends the server of this folder that a file names, where it still runs; a number that is another's is not believed. */
  async endServerNotedIn(file) {
    const pid = Number(readFileSync(file, 'utf8').split('\n')[0]);
    const found = processOf(pid);
    if (!found?.runs) return;
    const isOthers = !found.words.includes(this.home);
    if (isOthers && found.words.includes(`unix_socket_directories=${this.socket}`))
      throw new Stop(
        `The folder ${this.socket} is in use by another database (process ${pid}); stop that one first.`,
      );
    if (isOthers) return;
    const owner = processOf(found.parent);
    if (owner?.runs && owner.words.some((w) => w.endsWith('.mjs')))
      throw new Stop(`The database in ${this.home} is in use by process ${owner.pid}; stop that one first.`);
    say(`The database of a start that was cut short still runs (process ${pid}); it is ended first.`);
    if (!(await endStranger(pid, 'SIGINT', 'SIGQUIT')))
      throw new Stop(`The database in ${this.home} (process ${pid}) does not end; end it and start again.`);
  }

  async start() {
    const { bin, home, as, ids, socket } = this;
    mkdirSync(socket, { recursive: true, mode: 0o700 });
    chmodSync(socket, 0o700);
    if (ids) {
      chownSync(socket, ids.uid, ids.gid);
      if (socket.startsWith(os.tmpdir())) chownSync(path.dirname(socket), ids.uid, ids.gid);
    }
    const settings = [
      'listen_addresses=',
      `unix_socket_directories=${socket}`,
      'unix_socket_permissions=0700',
      'max_connections=300',
      'shared_buffers=128MB',
    ];
    const log = [];
    const server = spawn(
      path.join(bin, 'postgres'),
      ['-D', home, '-p', PORT, ...settings.flatMap((s) => ['-c', s])],
      { ...as, stdio: ['ignore', 'pipe', 'pipe'], detached: true },
    );
    const hear = (d) => {
      log.push(String(d));
      if (log.length > 200) log.shift();
    };
    server.stdout.on('data', hear);
    server.stderr.on('data', hear);
    const isReady = await this.isReady(server);
    if (!isReady)
      throw new Stop(
        `The database in ${home} did not start: ${lastWords(log)}. Make room where the disk is full, or mend what it names; what is in the folder stays as it is.`,
      );
    server.once('exit', () => {
      if (!this.isStopping) this.ended(lastWords(log));
    });
    this.server = server;
  }

  /** Starts it again after it ended by itself, at the same URL. Throws Stop where it does not start. */
  async restart() {
    await this.clear();
    await this.start();
  }

  async isReady(server) {
    const ask = ['-q', '-h', this.socket, '-p', PORT];
    for (let i = 0; i < 600; i++) {
      if (hasEnded(server)) return false;
      if (spawnSync(path.join(this.bin, 'pg_isready'), ask).status === 0) return true;
      await new Promise((r) => setTimeout(r, 100));
    }
    return false;
  }

  makeDatabase() {
    const where = ['-h', this.socket, '-p', PORT, '-U', 'bough'];
    const wanted = "select 1 from pg_database where datname = 'bough'";
    const known = spawnSync(path.join(this.bin, 'psql'), [...where, '-d', 'postgres', '-Atc', wanted], {
      encoding: 'utf8',
    });
    if (known.stdout.includes('1')) return;
    const made = spawnSync(path.join(this.bin, 'createdb'), [...where, 'bough'], { encoding: 'utf8' });
    if (made.status !== 0) throw new Stop(`The database could not be made: ${made.stderr.trim()}.`);
  }

  stop() {
    this.isStopping = true;
    const { server } = this;
    return new Promise((resolve) => {
      if (!server || hasEnded(server)) {
        resolve();
        return;
      }
      server.once('exit', () => resolve());
      process.kill(server.pid, 'SIGINT');
      setTimeout(() => {
        if (!hasEnded(server)) process.kill(server.pid, 'SIGQUIT');
      }, 8000).unref();
    });
  }
}

const hasEnded = (child) => child.exitCode !== null || child.signalCode !== null;

/** Why PostgreSQL ended, as far as it said. */
function lastWords(log) {
  const lines = log.join('').trim().split('\n');
  const why = lines.filter((l) => /FATAL|PANIC|ERROR|HINT/.test(l)).pop();
  return why?.replace(/^.*?(FATAL|PANIC|ERROR|HINT):\s*/, '') ?? 'it said nothing';
}

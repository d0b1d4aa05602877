/**
 * `npm start`: sets up everything, loads the demo cast, builds what is stale, serves, prints the address.
 * Ctrl-C stops all of it.
 */
import { spawnSync } from 'node:child_process';
import path from 'node:path';
import {
  Stop,
  buildApp,
  buildBundles,
  buildDemo,
  checkNode,
  claim,
  dataFolder,
  installPackages,
  main,
  portIsFree,
  root,
  say,
  sentenceOf,
  startServer,
  startWorker,
  stopServer,
} from './lib.mjs';
import { startDatabase } from './database.mjs';

/**
 * Where to serve, from the environment. Throws Stop where that would open the house to others without a key.
 */
function addressFromEnvironment() {
  const host = process.env.BOUGH_HOST ?? '127.0.0.1';
  const port = Number(process.env.PORT ?? 4810);
  const loopback = host === 'localhost' || host === '::1' || host.startsWith('127.');
  if (!loopback && !process.env.BOUGH_KEY)
    throw new Stop(
      `Serving on ${host} would open the house to others; set BOUGH_KEY to an access key, or serve on 127.0.0.1.`,
    );
  return { host, port, address: `http://${host.includes(':') ? `[${host}]` : host}:${port}` };
}

/** Settings that are numbers. A word in place of one would be found out only where it does harm. */
const NUMBERS = [
  'PORT',
  'BOUGH_UPLOAD_BYTES',
  'BOUGH_VERTICES',
  'BOUGH_NODES',
  'BOUGH_JOINTS',
  'BOUGH_OBJECTS',
  'BOUGH_TARGETS',
  'BOUGH_CLIPS',
  'BOUGH_MATERIALS',
  'BOUGH_BINDINGS',
  'BOUGH_WORKER_MB',
  'BOUGH_WORKER_SECONDS',
  'BOUGH_MEMORY_MB',
  'BOUGH_ARRAYS_MB',
  'BOUGH_CONNECTIONS',
];

/** Of those the bounds of what files may hold. */
const OF_FILES = new Set(
  NUMBERS.slice(NUMBERS.indexOf('BOUGH_UPLOAD_BYTES'), NUMBERS.indexOf('BOUGH_WORKER_MB')),
);

function checkSettings() {
  for (const name of NUMBERS) {
    const given = process.env[name];
    if (given !== undefined && !(Number(given) > 0))
      throw new Stop(`${name} is “${given}”, which is no number above zero; change it, or leave it out.`);
  }
}

function prepareDatabase(cast, env) {
  // Bounds are for what comes from outside; the house's own cast is loaded whatever they are.
  const own = Object.fromEntries(Object.entries(env).filter(([name]) => !OF_FILES.has(name)));
  const prepared = spawnSync(process.execPath, [path.join(root, 'dist', 'prepare.mjs'), cast], {
    cwd: root,
    env: own,
    encoding: 'utf8',
  });
  if (prepared.status === 0) return;
  const said = prepared.stderr.trim().split('\n');
  const why = said.find((l) => /error/i.test(l)) ?? said.pop() ?? 'it said nothing';
  throw new Stop(
    `The database could not be prepared: ${why}. Nothing in it was lost; mend that, and start again.`,
  );
}

/** Waits until the server answers; gives up early where `given` says so. */
async function waitForAnswer(address, given) {
  const key = process.env.BOUGH_KEY;
  const headers = key
    ? { authorization: `Basic ${Buffer.from(`bough:${key}`).toString('base64')}` }
    : undefined;
  for (let i = 0; !given(); i++) {
    const answer = await fetch(`${address}/api/characters`, { headers }).catch(() => null);
    if (answer?.ok) return true;
    if (answer && i > 300) throw new Stop(`The server answers with ${answer.status}.`);
    if (i > 600) throw new Stop('The server did not answer within a minute; look above for what it said.');
    await new Promise((r) => setTimeout(r, 100));
  }
  return false;
}

/** A server that ends so often in a row without ever having answered is not started again. */
const MOST_ENDS = 5;

/** How often a database that does not start is tried again, milliseconds. */
const AGAIN = 5000;

/** The house while it serves: what ends by itself is started again. */
class House {
  server = null;
  worker = null;
  isStopping = false;
  /** How often in a row the server ended before it had answered. */
  ends = 0;

  constructor({ host, port, address }, env, database, note, giveUp) {
    Object.assign(this, { host, port, address, env, database, note, giveUp });
    database.onEnd((why) => void this.reviveDatabase(why));
  }

  serve() {
    this.server = startServer(this.host, this.port, this.env);
    this.note({ server: this.server.pid });
    this.server.once('exit', (code, signal) => this.reviveServer(signal ?? `code ${code}`));
  }

  /** What the house is asked for that takes longer is done by a process of its own. */
  work() {
    this.worker = startWorker(this.env);
    this.note({ worker: this.worker.pid });
    this.worker.once('exit', (code, signal) => {
      if (this.isStopping) return;
      say(`The worker ended by itself (${signal ?? `code ${code}`}); it is started again.`);
      setTimeout(() => this.isStopping || this.work(), 1000);
    });
  }

  reviveServer(why) {
    if (this.isStopping) return;
    this.ends++;
    if (this.ends > MOST_ENDS) {
      this.giveUp(
        `The server ended ${this.ends} times in a row before it answered (${why}); look above for what it said.`,
      );
      return;
    }
    say(`The server ended by itself (${why}); it is started again.`);
    this.serve();
    const served = this.server;
    void waitForAnswer(this.address, () => this.isStopping || this.server !== served).then(
      (answers) => {
        if (answers) this.ends = 0;
      },
      () => {},
    );
  }

  async reviveDatabase(why) {
    say(`The database ended by itself (${why}); it is started again.`);
    for (let said = ''; !this.isStopping;) {
      try {
        await this.database.restart();
        say('The database runs again.');
        return;
      } catch (error) {
        const sentence = sentenceOf(error) ?? String(error);
        if (sentence !== said) say(`${sentence} It is tried again every ${AGAIN / 1000} seconds.`);
        said = sentence;
      }
      await new Promise((r) => setTimeout(r, AGAIN));
    }
  }

  async stop() {
    this.isStopping = true;
    await Promise.all([stopServer(this.server), stopServer(this.worker)]);
  }
}

await main(async () => {
  const { host, port, address } = addressFromEnvironment();
  checkNode();
  checkSettings();
  const { note, release } = await claim(dataFolder, address);
  let house = null;
  let database = null;
  let stopping = null;
  const stop = (code) => {
    stopping ??= (async () => {
      await house?.stop();
      await database?.stop();
      release();
      process.exit(code);
    })();
  };
  const giveUp = (sentence) => {
    say(sentence);
    stop(1);
  };
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => stop(0));
  const forever = new Promise(() => {});
  try {
    if (!(await portIsFree(port, host)))
      throw new Stop(
        `Port ${port} is in use by another program; stop that one, or choose another with PORT=….`,
      );
    installPackages();
    await buildBundles();
    // The build is the longest of it: the cast is drawn and the database made ready beside it.
    const built = buildApp();
    built.catch(() => {});
    const cast = await buildDemo();
    database = await startDatabase(dataFolder);
    // One of its own has no password, and is reached by nobody else.
    if (!process.env.DATABASE_URL) note({ database: database.url });
    const env = {
      ...process.env,
      DATABASE_URL: database.url,
      NEXT_TELEMETRY_DISABLED: '1',
      NODE_ENV: 'production',
    };
    prepareDatabase(cast, env);
    await built;
    house = new House({ host, port, address }, env, database, note, giveUp);
    house.serve();
    house.work();
    if (await waitForAnswer(address, () => stopping))
      process.stdout.write(`Young Bough is at ${address}\nCtrl-C stops it.\n`);
    return forever;
  } catch (error) {
    const sentence = sentenceOf(error);
    if (sentence) {
      giveUp(sentence);
      return forever;
    }
    await house?.stop();
    await database?.stop();
    release();
    throw error;
  }
});

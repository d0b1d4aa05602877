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
  startDatabase,
  startServer,
  stopServer,
} from './lib.mjs';

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

function prepareDatabase(cast, env) {
  const prepared = spawnSync(process.execPath, [path.join(root, 'dist', 'prepare.mjs'), cast], {
    cwd: root,
    env,
    encoding: 'utf8',
  });
  if (prepared.status === 0) return;
  const why = prepared.stderr.split('\n').find((l) => /error/i.test(l)) ?? prepared.stderr.trim();
  throw new Stop(
    `The database could not be prepared: ${why}. Check DATABASE_URL, or move ${dataFolder} away and start again.`,
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

await main(async () => {
  const { host, port, address } = addressFromEnvironment();
  checkNode();
  const release = claim(dataFolder, address);
  let server = null;
  let database = null;
  let stopping = null;
  const stop = (code) => {
    stopping ??= (async () => {
      await stopServer(server);
      await database?.stop();
      release();
      process.exit(code);
    })();
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
    const cast = buildDemo();
    database = await startDatabase();
    const env = {
      ...process.env,
      DATABASE_URL: database.url,
      NEXT_TELEMETRY_DISABLED: '1',
      NODE_ENV: 'production',
    };
    prepareDatabase(cast, env);
    buildApp();
    server = startServer(host, port, env);
    server.once('exit', (code) => {
      if (stopping) return;
      say(`The server ended by itself (code ${code}).`);
      stop(1);
    });
    if (await waitForAnswer(address, () => stopping))
      process.stdout.write(`Young Bough is at ${address}\nCtrl-C stops it.\n`);
    return forever;
  } catch (error) {
    if (error instanceof Stop) {
      say(error.message);
      stop(1);
      return forever;
    }
    await database?.stop();
    release();
    throw error;
  }
});

/** `npm start`: sets up everything, loads the demo cast, builds what is stale, serves, prints the address. Ctrl-C stops all of it. */
import { spawn, spawnSync } from 'node:child_process';
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
} from './lib.mjs';

await main(async () => {
  const host = process.env.BOUGH_HOST ?? '127.0.0.1';
  const port = Number(process.env.PORT ?? 4810);
  const loopback = host === 'localhost' || host === '::1' || host.startsWith('127.');
  if (!loopback && !process.env.BOUGH_KEY)
    throw new Stop(
      `Serving on ${host} would open the house to others; set BOUGH_KEY to an access key, or serve on 127.0.0.1.`,
    );
  const address = `http://${host.includes(':') ? `[${host}]` : host}:${port}`;
  checkNode();
  const release = claim(dataFolder, address);
  let server = null;
  let database = null;
  let stopping = null;
  const stop = (code) => {
    stopping ??= (async () => {
      if (server && server.exitCode === null) {
        server.kill('SIGTERM');
        await new Promise((r) => {
          server.once('exit', r);
          setTimeout(() => {
            server.kill('SIGKILL');
            r();
          }, 5000).unref();
        });
      }
      await database?.stop();
      release();
      process.exit(code);
    })();
  };
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => stop(0));
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
    const prepared = spawnSync(process.execPath, [path.join(root, 'dist', 'prepare.mjs'), cast], {
      cwd: root,
      env,
      encoding: 'utf8',
    });
    if (prepared.status !== 0)
      throw new Stop(
        `The database could not be prepared: ${prepared.stderr.split('\n').find((l) => /error/i.test(l)) ?? prepared.stderr.trim()}. Check DATABASE_URL, or move ${dataFolder} away and start again.`,
      );
    buildApp();
    server = spawn(
      process.execPath,
      [
        path.join(root, 'node_modules', 'next', 'dist', 'bin', 'next'),
        'start',
        '-H',
        host,
        '-p',
        String(port),
      ],
      { cwd: root, env, stdio: ['ignore', 'pipe', 'inherit'] },
    );
    server.stdout.on('data', () => {});
    server.once('exit', (code) => {
      if (!stopping) {
        say(`The server ended by itself (code ${code}).`);
        stop(1);
      }
    });
    for (let i = 0; ; i++) {
      if (stopping) return new Promise(() => {});
      try {
        const r = await fetch(`${address}/api/characters`, {
          headers: process.env.BOUGH_KEY
            ? { authorization: `Basic ${Buffer.from(`bough:${process.env.BOUGH_KEY}`).toString('base64')}` }
            : {},
        });
        if (r.ok) break;
        if (i > 300) throw new Stop(`The server answers with ${r.status}.`);
      } catch (error) {
        if (error instanceof Stop) throw error;
      }
      if (i > 600) throw new Stop('The server did not answer within a minute; look above for what it said.');
      await new Promise((r) => setTimeout(r, 100));
    }
    process.stdout.write(`Young Bough is at ${address}\nCtrl-C stops it.\n`);
    return new Promise(() => {});
  } catch (error) {
    if (error instanceof Stop) {
      say(error.message);
      stop(1);
      return new Promise(() => {});
    }
    await database?.stop();
    release();
    throw error;
  }
});

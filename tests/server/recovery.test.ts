/** The house as it is started, and what becomes of it when parts of it are ended the hard way. */
import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import {
  chmodSync,
  chownSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import net from 'node:net';
import os from 'node:os';
import path from 'node:path';

const data = mkdtempSync(path.join(os.tmpdir(), 'bough-recovery-'));
chmodSync(data, 0o755);
let port = 0;
const url = () => `http://127.0.0.1:${port}`;
const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

const freePort = () =>
  new Promise<number>((done) => {
    const server = net.createServer();
    server.listen(0, '127.0.0.1', () => {
      const { port: free } = server.address() as net.AddressInfo;
      server.close(() => done(free));
    });
  });

/** Waits until something is so. */
async function until<T>(what: string, ask: () => Promise<T | null> | T | null, seconds = 240): Promise<T> {
  for (let i = 0; i < seconds * 10; i++) {
    const found = await ask();
    if (found) return found;
    await pause(100);
  }
  throw new Error(`It did not come to this: ${what}.`);
}

interface Started {
  readonly child: ChildProcess;
  readonly said: () => string;
}

/** Starts the house and waits until it says where it is. */
async function startHouse(env: Record<string, string> = {}): Promise<Started> {
  const { DATABASE_URL: _url, NODE_ENV: _env, ...rest } = process.env;
  const child = spawn(process.execPath, [path.resolve('scripts/start.mjs')], {
    env: {
      ...rest,
      NODE_OPTIONS: '',
      PORT: String(port),
      BOUGH_DATA: data,
      ...env,
    } as unknown as NodeJS.ProcessEnv,
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  let said = '';
  for (const stream of [child.stdout, child.stderr]) stream?.on('data', (d) => (said += String(d)));
  await until(
    `the house says where it is; it said: ${said}`,
    () => {
      if (child.exitCode !== null) throw new Error(`The start ended: ${said}`);
      return said.includes('Young Bough is at') || null;
    },
    300,
  );
  return { child, said: () => said };
}

const shelf = async (headers: Record<string, string> = {}) => {
  const answer = await fetch(`${url()}/api/characters`, { headers }).catch(() => null);
  return answer?.ok ? ((await answer.json()) as { characters: { name: string }[] }).characters : null;
};
const names = async () => (await until('the shelf is there', () => shelf())).map((c) => c.name);

/** The processes of this house, by a word that only they were called with. */
const running = (word: string): number[] =>
  readdirSync('/proc')
    .filter((id) => /^\d+$/.test(id))
    .filter((id) => {
      try {
        return readFileSync(`/proc/${id}/cmdline`, 'utf8').split('\0').includes(word);
      } catch {
        return false;
      }
    })
    .map(Number);
const servers = () => running(String(port));
const databases = () => running(path.join(data, 'postgres'));
const workers = () => running(data);
const parts = () => [...servers(), ...databases(), ...workers()];

let house: Started;
beforeAll(async () => {
  port = await freePort();
  house = await startHouse();
}, 400_000);
afterAll(async () => {
  house.child.kill('SIGTERM');
  await until('everything has ended', () => parts().length === 0 || null);
});

it('has its cast, and a database that nobody else reaches', async () => {
  expect(await names()).toEqual(expect.arrayContaining(['Deckhand', 'Stoker']));
  const socket = path.join(data, 'socket');
  expect(execFileSync('stat', ['-c', '%a', socket], { encoding: 'utf8' }).trim()).toBe('700');
  const [database] = databases();
  const listening = execFileSync('ss', ['-ltnpH'], { encoding: 'utf8' });
  expect(listening).not.toContain(`pid=${database},`);
});

it('a database that is killed is started again, and requests meanwhile are told so', async () => {
  const before = await names();
  const underway = Array.from({ length: 20 }, () => fetch(`${url()}/api/characters`).catch(() => null));
  process.kill(databases()[0], 'SIGKILL');
  await Promise.all(underway);
  const told = new Set<string>();
  await until('the shelf is there again', async () => {
    const answer = await fetch(`${url()}/api/characters`);
    if (answer.ok) return house.said().includes('The database runs again.') || null;
    told.add(`${answer.status} ${((await answer.json()) as { message: string }).message}`);
    return null;
  });
  for (const text of told)
    expect(text).toBe(
      '503 The database does not answer just now; nothing was changed. Try again in a moment.',
    );
  expect(house.said()).toContain('The database ended by itself');
  expect(house.said()).not.toContain('uncaught');
  expect(await names()).toEqual(before);
});

it('a server that is killed is noticed at once and started again', async () => {
  const [before] = servers();
  process.kill(before, 'SIGKILL');
  await until('another server is there', () => servers().find((pid) => pid !== before) ?? null);
  // Its words come through a pipe, and may be later than the server.
  const words = 'The server ended by itself (SIGKILL); it is started again.';
  await until('it is told', () => house.said().includes(words) || null);
  expect(await names()).toContain('Deckhand');
});

it('a worker that is killed is started again; one more can be started beside it, and ends when it is asked to', async () => {
  const [before] = workers();
  process.kill(before, 'SIGKILL');
  await until('another worker is there', () => workers().find((pid) => pid !== before) ?? null);
  await until('it is told', () => house.said().includes('The worker ended by itself (SIGKILL)') || null);
  const more = spawn(process.execPath, [path.resolve('scripts/work.mjs')], {
    env: { ...process.env, DATABASE_URL: '', NODE_OPTIONS: '', BOUGH_DATA: data },
    stdio: 'ignore',
  });
  await until('there are two', () => (workers().length === 2 ? true : null));
  more.kill('SIGTERM');
  expect(await new Promise((done) => more.once('exit', done))).toBe(0);
  expect(workers()).toHaveLength(1);
});

it('two servers on one database: what is done through one is told to the pages of the other, and seen there', async () => {
  const { database } = JSON.parse(readFileSync(path.join(data, 'running.json'), 'utf8'));
  const second = await freePort();
  const other = `http://127.0.0.1:${second}`;
  const server = spawn(process.execPath, [path.resolve('dist/serve.mjs'), '127.0.0.1', String(second)], {
    env: { ...process.env, DATABASE_URL: database, NODE_ENV: 'production', NODE_OPTIONS: '' },
    stdio: 'ignore',
  });
  const page = new AbortController();
  try {
    const shelfThere = async () =>
      (await (await fetch(`${other}/api/characters`)).json()) as {
        characters: { id: string; name: string; head: string }[];
      };
    const { characters } = await until('the other server answers', () => shelfThere().catch(() => null));
    const { id, head } = characters.find((character) => character.name === 'Capstan')!;
    const events = await fetch(`${url()}/api/events`, { signal: page.signal });
    let heard = '';
    const hearing = (async () => {
      for await (const chunk of events.body!.pipeThrough(new TextDecoderStream() as never))
        heard += chunk as string;
    })().catch(() => {});
    await until('the page is heard', () => (heard.includes('retry') ? true : null));
    await pause(500);
    const headers = { 'content-type': 'application/json' };
    const step = (from: string, base: string) =>
      fetch(`${from}/api/characters/${id}/steps/remedy`, {
        method: 'POST',
        headers,
        body: JSON.stringify({ base, remedy: 'rescale', params: { by: 'factor', factor: 1.01 } }),
      });
    const made = await step(other, head);
    expect(made.status).toBe(201);
    const { revision } = (await made.json()) as { revision: { id: string } };
    await until('it is told', () => (heard.includes(`"head":"${revision.id}"`) ? true : null));
    // Through either, only the newest revision can be gone on from; asked of both at once, one is too late.
    expect((await step(url(), head)).status).toBe(409);
    const both = await Promise.all([step(url(), revision.id), step(other, revision.id)]);
    expect(both.map((response) => response.status).sort()).toEqual([201, 409]);
    page.abort();
    await hearing;
  } finally {
    page.abort();
    server.kill('SIGTERM');
    await new Promise((done) => server.once('exit', done));
  }
});

it('a start that was killed leaves nothing that the next one cannot set right', async () => {
  const left = parts();
  expect(left.length).toBeGreaterThanOrEqual(3);
  house.child.kill('SIGKILL');
  await until('the start is gone', () => (house.child.signalCode ? true : null));
  house = await startHouse();
  expect(house.said()).toMatch(/The server of a start that was cut short still runs/);
  expect(house.said()).toMatch(/The worker of a start that was cut short still runs/);
  expect(house.said()).toMatch(/The database of a start that was cut short still runs/);
  expect([servers().length, workers().length]).toEqual([1, 1]);
  expect(parts().filter((pid) => left.includes(pid))).toEqual([]);
  expect(await names()).toContain('Deckhand');
});

it('a server that has ended and was never taken note of counts as gone', async () => {
  house.child.kill('SIGTERM');
  await until('everything has ended', () => parts().length === 0 || null);
  // The shell becomes a sleeper that does not ask after its children: one that ends after that stays as a zombie.
  const child = 'until grep -q sleep /proc/$$/comm; do :; done';
  const keeper = spawn('sh', ['-c', `(${child}) & echo $!; exec sleep 300`], {
    stdio: ['ignore', 'pipe', 'ignore'],
  });
  let zombie = 0;
  keeper.stdout.on('data', (d) => (zombie = Number(String(d).trim())));
  await until('there is a zombie', () => {
    if (!zombie) return null;
    return readFileSync(`/proc/${zombie}/stat`, 'utf8').includes(') Z ') || null;
  });
  writeFileSync(
    path.join(data, 'running.json'),
    JSON.stringify({ pid: zombie, address: url(), server: zombie }),
  );
  writeFileSync(path.join(data, 'postgres', 'postmaster.pid'), `${zombie}\n${data}\n0\n5432\n`);
  house = await startHouse();
  expect(await names()).toContain('Deckhand');
  keeper.kill('SIGKILL');
});

it('notes that now belong to other processes are not believed; a key of any letters is asked for', async () => {
  house.child.kill('SIGTERM');
  await until('everything has ended', () => parts().length === 0 || null);
  // A living process of the account that the database runs under: PostgreSQL itself would take it for a server of its own.
  const { uid, gid } = statSync(path.join(data, 'postgres'));
  const stranger = spawn('sleep', ['300'], { stdio: 'ignore', uid, gid });
  const notes = `${stranger.pid}\n${data}\n0\n5432\n`;
  writeFileSync(path.join(data, 'running.json'), JSON.stringify({ pid: 1, address: url(), server: 1 }));
  for (const file of [path.join('postgres', 'postmaster.pid'), path.join('socket', '.s.PGSQL.5432.lock')]) {
    writeFileSync(path.join(data, file), notes);
    chownSync(path.join(data, file), uid, gid);
  }
  house = await startHouse({ BOUGH_KEY: 'Grünkohl 🌿' });
  expect([stranger.exitCode, stranger.signalCode]).toEqual([null, null]);
  stranger.kill('SIGKILL');
  expect(await shelf()).toBe(null);
  const authorization = `Basic ${Buffer.from('me:Grünkohl 🌿', 'utf8').toString('base64')}`;
  expect((await shelf({ authorization }))?.map((c) => c.name)).toContain('Deckhand');
});

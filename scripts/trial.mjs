/**
 * `npm run trial`: the house tried hard, the same for the same seed, with its figures printed. Kills against a
 * live house, spoilt files through every reader, many hands on one character.
 *
 *     npm run trial -- [--rounds 100] [--files 10000] [--clients 8] [--seed 1]
 */
import { spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, readdirSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { parseArgs } from 'node:util';
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
} from './lib.mjs';

const { values } = parseArgs({
  options: {
    rounds: { type: 'string', default: '100' },
    files: { type: 'string', default: '10000' },
    clients: { type: 'string', default: '8' },
    seed: { type: 'string', default: '1' },
  },
});
const [rounds, files, clients, seed] = [values.rounds, values.files, values.clients, values.seed].map(Number);

/** A file may take this long, milliseconds, and this much memory, bytes. */
const LONGEST = 10_000;
const MOST = 2 * 2 ** 30;

const pause = (ms) => new Promise((done) => setTimeout(done, ms));

let state = seed >>> 0;
/** The next number by chance, 0 to below 1. */
function chance() {
  state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
  return state / 2 ** 32;
}
const anyOf = (list) => list[Math.floor(chance() * list.length)];

/** Files that are spoilt: the demo cast in every format, and what other people made. */
function sources(cast) {
  const demo = readdirSync(cast)
    .filter((f) => /\.(glb|dae)$/.test(f) && !f.startsWith('deckhand'))
    .map((f) => path.join(cast, f));
  const models = '/usr/share/assimp/models';
  const walk = (folder) =>
    readdirSync(folder, { withFileTypes: true }).flatMap((e) =>
      e.isDirectory() ? walk(path.join(folder, e.name)) : [path.join(folder, e.name)],
    );
  const others = walk(models).filter(
    (f) => /\.(glb|gltf|dae|zae|obj|bvh)$/i.test(f) && readFileSync(f).length < 400_000,
  );
  return [...demo, ...others.sort()];
}

/** Spoilt files in a process of their own; one that hangs or dies is counted, and the next is gone on with. */
async function tryFiles(cast) {
  const names = sources(cast);
  const tally = { read: 0, refused: 0, crashed: 0, slow: 0, large: 0, longest: 0 };
  let at = 0;
  while (at < files) {
    const child = spawn(
      process.execPath,
      [path.join(root, 'dist', 'trial.mjs'), String(seed), String(at), String(files), ...names],
      { stdio: ['ignore', 'pipe', 'inherit'] },
    );
    const running = { file: at, since: Date.now(), rest: '' };
    child.stdout.on('data', (d) => {
      const lines = (running.rest + String(d)).split('\n');
      running.rest = lines.pop();
      for (const line of lines) {
        const [word, i, ms, ...outcome] = line.split(' ');
        if (word === 'begin') Object.assign(running, { file: Number(i), since: Date.now() });
        if (word !== 'end') continue;
        at = Number(i) + 1;
        const kind = outcome[0];
        tally[kind]++;
        if (kind === 'crashed') say(`  file ${i}: ${outcome.join(' ')}`);
        tally.longest = Math.max(tally.longest, Number(ms));
        if (Number(ms) > LONGEST) tally.slow++;
        if (at % 1000 === 0) say(`  ${at} files …`);
      }
    });
    const ended = new Promise((done) => child.once('exit', done));
    let isOver = false;
    void ended.then(() => (isOver = true));
    while (!isOver) {
      await Promise.race([ended, pause(200)]);
      const memory = memoryOf(child.pid);
      if (memory > MOST) {
        say(`  file ${running.file}: ${Math.round(memory / 2 ** 20)} MB`);
        tally.large++;
      } else if (Date.now() - running.since > LONGEST * 3) {
        say(`  file ${running.file}: no answer`);
        tally.slow++;
      } else {
        continue;
      }
      at = running.file + 1;
      child.kill('SIGKILL');
      await ended;
    }
    if (child.exitCode !== 0 && child.signalCode === null) {
      say(`  file ${running.file}: the process ended with ${child.exitCode}`);
      tally.crashed++;
      at = running.file + 1;
    }
  }
  return tally;
}

function memoryOf(pid) {
  try {
    return Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) * 1024;
  } catch {
    return 0;
  }
}

/** A house of the trial's own, and what is asked of it. */
class TrialHouse {
  constructor(data, port) {
    Object.assign(this, { data, port, url: `http://127.0.0.1:${port}`, child: null });
  }

  async start() {
    let said = '';
    const { DATABASE_URL: _url, ...env } = process.env;
    const child = spawn(process.execPath, [path.join(root, 'scripts', 'start.mjs')], {
      env: { ...env, PORT: String(this.port), BOUGH_DATA: this.data },
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (d) => (said += String(d)));
    this.child = child;
    for (let i = 0; !said.includes('Young Bough is at'); i++) {
      if (child.exitCode !== null || i > 1200) throw new Stop(`The house did not start again: ${said}`);
      await pause(100);
    }
  }

  async ask(method, address, body) {
    const answer = await fetch(`${this.url}${address}`, {
      method,
      headers: { 'content-type': 'application/json' },
      body: body && JSON.stringify(body),
      signal: AbortSignal.timeout(30_000),
    });
    return { status: answer.status, body: await answer.json() };
  }

  /** The same, asked until there is an answer that is none of trouble. */
  async insist(method, address, body) {
    for (let i = 0; i < 300; i++) {
      const answer = await this.ask(method, address, body).catch(() => null);
      if (answer && answer.status < 500) return answer;
      await pause(200);
    }
    throw new Stop(`The house does not answer ${method} ${address} any more.`);
  }

  /** Processes of this house, by what only they were called with. */
  pids(word) {
    return readdirSync('/proc')
      .filter((id) => /^\d+$/.test(id))
      .filter((id) => {
        try {
          return readFileSync(`/proc/${id}/cmdline`, 'utf8').split('\0').includes(word);
        } catch {
          return false;
        }
      })
      .map(Number);
  }

  async killOne() {
    const targets = {
      server: () => this.pids(String(this.port)),
      database: () => this.pids(path.join(this.data, 'postgres')).slice(0, 1),
      start: () => [this.child.pid],
    };
    const what = anyOf(Object.keys(targets));
    for (const pid of targets[what]()) {
      try {
        process.kill(pid, 'SIGKILL');
      } catch {
        /* it has just ended by itself */
      }
    }
    if (what !== 'start') return what;
    await pause(200);
    await this.start();
    return what;
  }

  async stop() {
    this.child.kill('SIGTERM');
    await new Promise((done) => {
      if (this.child.exitCode !== null) done();
      else this.child.once('exit', done);
    });
  }
}

/** A step on the head of a character, or back to the revision before; gives the revision that was acknowledged. */
async function step(house, id) {
  const { body: record } = await house.ask('GET', `/api/characters/${id}`);
  const head = record.revisions.find((r) => r.id === record.head);
  if (head.parent) {
    await house.ask('POST', `/api/characters/${id}/head`, { base: record.head, to: head.parent });
    return null;
  }
  const { status, body } = await house.ask('POST', `/api/characters/${id}/steps/remedy`, {
    base: record.head,
    remedy: 'rescale',
    params: { by: 'factor', factor: 1 + Math.round(chance() * 100) / 100 },
  });
  return status === 201 ? body.revision.id : null;
}

/** Kills in the middle of steps; every revision that was acknowledged must be there afterwards, and whole. */
async function tryKills(house, id) {
  const tally = { rounds: 0, acknowledged: 0, lost: 0 };
  const acknowledged = new Set();
  for (let round = 0; round < rounds; round++) {
    let isOver = false;
    const hands = [1, 2].map(async () => {
      while (!isOver) {
        const made = await step(house, id).catch(() => null);
        if (made) acknowledged.add(made);
      }
    });
    await pause(300 + chance() * 1500);
    await house.killOne();
    isOver = true;
    await Promise.all(hands);
    const { body: record } = await house.insist('GET', `/api/characters/${id}`);
    const there = new Set(record.revisions.map((r) => r.id));
    for (const made of acknowledged) {
      if (!there.has(made)) {
        tally.lost++;
        acknowledged.delete(made);
      }
    }
    const { status } = await house.insist('GET', `/api/revisions/${record.head}`);
    if (status !== 200) tally.lost++;
    tally.rounds++;
    if (tally.rounds % 10 === 0) say(`  ${tally.rounds} rounds, ${acknowledged.size} acknowledged …`);
  }
  tally.acknowledged = acknowledged.size;
  // Whole: every one of them can be opened with all of its arrays.
  for (const made of acknowledged) {
    const { status, body: stored } = await house.insist('GET', `/api/revisions/${made}`);
    const answer = await fetch(`${house.url}/api/arrays`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ hashes: [...new Set(stored.arrays)] }),
    });
    await answer.arrayBuffer();
    if (status !== 200 || !answer.ok) tally.lost++;
  }
  return tally;
}

/** Many hands on one character: every step is on the newest revision, or is told that it is not. */
async function tryClients(house, id) {
  const tally = { made: 0, told: 0, wrong: 0 };
  const { body: before } = await house.ask('GET', `/api/characters/${id}`);
  const hand = async () => {
    for (let i = 0; i < 10; i++) {
      const { body: record } = await house.ask('GET', `/api/characters/${id}`);
      const { status } = await house.ask('POST', `/api/characters/${id}/steps/remedy`, {
        base: record.head,
        remedy: 'rescale',
        params: { by: 'factor', factor: 1.01 },
      });
      if (status === 201) tally.made++;
      else if (status === 409) tally.told++;
      else tally.wrong++;
    }
  };
  await Promise.all(Array.from({ length: clients }, hand));
  const { body: after } = await house.ask('GET', `/api/characters/${id}`);
  const numbers = after.revisions.map((r) => r.number);
  const fresh = after.revisions.slice(before.revisions.length);
  const isLine = fresh.every((r, i) => i === 0 || r.parent === fresh[i - 1].id);
  if (!isLine || fresh.length !== tally.made || new Set(numbers).size !== numbers.length) tally.wrong++;
  return tally;
}

await main(async () => {
  checkNode();
  installPackages();
  await buildBundles();
  const cast = buildDemo();
  buildApp();
  if (!existsSync('/usr/share/assimp/models')) aptInstall(['assimp-testmodels'], 'the sample models');
  say(`Spoilt files (seed ${seed}) …`);
  const spoilt = files > 0 ? await tryFiles(cast) : null;
  if (spoilt) say(`  ${JSON.stringify(spoilt)}`);
  const data = mkdtempSync(path.join(os.tmpdir(), 'bough-trial-'));
  const house = new TrialHouse(data, await freePort());
  let kills = null;
  let hands = null;
  try {
    say('A live house …');
    await house.start();
    const { body } = await house.ask('GET', '/api/characters');
    const { id } = body.characters.find((c) => c.name === 'Capstan');
    hands = await tryClients(house, id);
    kills = await tryKills(house, id);
  } finally {
    await house.stop();
    rmSync(data, { recursive: true, force: true });
  }
  const lines = [
    spoilt &&
      `${files} spoilt files: ${spoilt.read} read, ${spoilt.refused} refused; ${spoilt.crashed} crashed, ${spoilt.slow} over ${LONGEST / 1000} s (the longest ${spoilt.longest} ms), ${spoilt.large} over 2 GB`,
    `${kills.rounds} rounds of kill -9: ${kills.acknowledged} revisions acknowledged, ${kills.lost} lost`,
    `${clients} clients on one character: ${hands.made} steps made, ${hands.told} told that a newer revision is there, ${hands.wrong} wrong`,
  ];
  process.stdout.write(`${lines.filter(Boolean).join('\n')}\n`);
  const bad = kills.lost + hands.wrong + (spoilt ? spoilt.crashed + spoilt.slow + spoilt.large : 0);
  return bad > 0 ? 1 : 0;
});

/** A house that is tried: started in a folder of its own, asked, and ended in ways that it did not ask for. */
import { spawn } from 'node:child_process';
import { readFileSync, readdirSync } from 'node:fs';
import path from 'node:path';
import { Stop, root } from './lib.mjs';

export const pause = (ms) => new Promise((done) => setTimeout(done, ms));

let state = 1;
export const seedChance = (seed) => {
  state = seed >>> 0;
};

/** The next number by chance, 0 to below 1; the same row for the same seed. */
export function chance() {
  state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
  return state / 2 ** 32;
}
export const anyOf = (list) => list[Math.floor(chance() * list.length)];

/** Memory of a process, bytes; 0 where it is no more. */
export function memoryOf(pid) {
  try {
    return Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) * 1024;
  } catch {
    return 0;
  }
}

/** The value below which that share of the numbers lies. */
export const quantile = (numbers, share) =>
  [...numbers].sort((a, b) => a - b)[Math.min(numbers.length - 1, Math.floor(numbers.length * share))] ?? 0;

/** A house of the trial's own, and what is asked of it. */
export class TrialHouse {
  constructor(data, port) {
    Object.assign(this, { data, port, url: `http://127.0.0.1:${port}`, child: null, workers: [] });
  }

  /** What is noted of the house as it runs: its processes and its database. */
  noted() {
    return JSON.parse(readFileSync(path.join(this.data, 'running.json'), 'utf8'));
  }

  /** Keeps so many workers at work beside the one that the house starts: one that ends is replaced. */
  keepWorkers(count) {
    const one = () => {
      const child = spawn(process.execPath, [path.join(root, 'dist', 'work.mjs'), this.data, 'trial'], {
        cwd: root,
        env: { ...process.env, DATABASE_URL: this.noted().database, NODE_ENV: 'production' },
        stdio: ['ignore', 'ignore', 'ignore'],
      });
      this.workers.push(child);
      child.once('exit', () => {
        this.workers.splice(this.workers.indexOf(child), 1);
        if (!this.isStopping) setTimeout(() => this.isStopping || one(), 500).unref();
      });
    };
    for (let i = 0; i < count; i++) one();
  }

  /** Asks the database itself. */
  async query(text, values = []) {
    const { Client } = await import('pg');
    const client = new Client({ connectionString: this.noted().database });
    await client.connect();
    try {
      return (await client.query(text, values)).rows;
    } finally {
      await client.end();
    }
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

  /** True of a worker that was called with the folder of this house. */
  isOurs(pid) {
    return this.pids(this.data).includes(pid);
  }

  /** Ends one of its processes, or all workers, by chance; `among`: which may be. */
  async killOne(among = ['server', 'database', 'start']) {
    const targets = {
      server: () => this.pids(String(this.port)),
      database: () => this.pids(path.join(this.data, 'postgres')).slice(0, 1),
      start: () => [this.child.pid],
      worker: () =>
        [this.pids(path.join(root, 'dist', 'work.mjs')).filter((id) => this.isOurs(id))].map(anyOf),
      workers: () => this.pids(path.join(root, 'dist', 'work.mjs')).filter((id) => this.isOurs(id)),
    };
    const what = anyOf(among);
    for (const pid of targets[what]().filter(Boolean)) {
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
    this.isStopping = true;
    for (const worker of this.workers) worker.kill('SIGTERM');
    this.child.kill('SIGTERM');
    await new Promise((done) => {
      if (this.child.exitCode !== null) done();
      else this.child.once('exit', done);
    });
  }
}

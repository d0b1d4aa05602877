/** What comes from outside and means no good: patterns made to keep others waiting, forged dockets, floods of printing. */
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { root } from './lib.mjs';
import { anyOf, chance, memoryOf, pause, quantile } from './trial-house.mjs';

/** Asks something small over and over until it is over; gives how long the slowest answer took, milliseconds. */
async function slowestWhile(house, work) {
  let isOver = false;
  let slowest = 0;
  const asking = (async () => {
    while (!isOver) {
      const began = performance.now();
      await house.ask('GET', '/api/keys');
      slowest = Math.max(slowest, performance.now() - began);
      await pause(20);
    }
  })();
  try {
    const came = await work();
    return { ...came, slowest: Math.round(slowest) };
  } finally {
    isOver = true;
    await asking;
  }
}

/** Sends a request whose answer comes line by line; gives the last line. */
async function lastLine(house, address, body) {
  const answer = await fetch(`${house.url}${address}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: body && JSON.stringify(body),
    signal: AbortSignal.timeout(120_000),
  });
  const lines = (await answer.text()).trim().split('\n');
  return JSON.parse(lines.at(-1));
}

const ATOMS = [
  'a',
  '.',
  '[a-z]',
  '\\w',
  '\\s',
  '[^x]',
  'x|y|z',
  '_',
  '',
  '\\p{L}',
  '(?:)',
  'é',
  '\\b',
  '^',
  '$',
];
const REPEATS = ['*', '+', '?', '{0,}', '{2}', '{1,50}', '{120}', '{0,1000}', '*?', '{1000}', '{99999}'];

/** A pattern by chance, of repeats in repeats and choices in choices. */
function pattern(depth = 0) {
  if (depth > 4 || chance() < 0.2) return anyOf(ATOMS) + (chance() < 0.5 ? anyOf(REPEATS) : '');
  const parts = Array.from({ length: 1 + Math.floor(chance() * 4) }, () => pattern(depth + 1));
  const inner = parts.join(anyOf(['', '|']));
  const group = anyOf(['(', '(?:', '(?=', '(?<n>']);
  return chance() < 0.7 ? `${group}${inner})${chance() < 0.7 ? anyOf(REPEATS) : ''}` : inner;
}

/** Known ones first: what keeps engines that go back, and those that count, busy longest. */
const KNOWN = [
  '(x|y|z)*abc(.{120})$',
  '(a+)+$',
  '(a|a)*$',
  '(.*)*$',
  '(a*)*b',
  '(\\w+\\s?)*$',
  '((a{0,50}){0,50}){0,50}',
  '(a?){500}a{500}',
  '(.{0,1000}){1000}',
  'a'.repeat(1_000_000),
  '('.repeat(5000) + ')'.repeat(5000),
  `[${'a-z'.repeat(300)}]`,
  '(?:a|b|ab)*c(?:.{60})x$',
  '(.*a){25}',
  '^(([a-z])+.)+[A-Z]([a-z])+$',
];

/** Patterns through a brief and an audit under it, while others ask. */
export async function tryPatterns(house, count) {
  const { body } = await house.ask('GET', '/api/briefs');
  const { brief } = body.briefs.find((b) => b.brief.id === 'handset');
  const { body: shelf } = await house.ask('GET', '/api/characters');
  const { head } = shelf.characters.find((c) => c.name === 'Capstan');
  return slowestWhile(house, async () => {
    const tally = { taken: 0, refused: 0, wrong: 0, saving: 0, auditing: 0 };
    let version = 0;
    for (let i = 0; i < count; i++) {
      const naming = { ...brief.naming };
      const text = KNOWN[i] ?? pattern();
      if (chance() < 0.3) naming.leftovers = text;
      else naming.pattern = text;
      const began = performance.now();
      const sent = {
        base: version,
        brief: { ...brief, id: 'patterns', title: 'Patterns', version: version + 1, naming },
      };
      const saved = await house.ask('PUT', '/api/briefs', sent);
      tally.saving = Math.max(tally.saving, Math.round(performance.now() - began));
      if (saved.status >= 500 || (saved.status >= 400 && !saved.body.message)) tally.wrong++;
      if (saved.status >= 400) {
        tally.refused++;
        continue;
      }
      tally.taken++;
      version = saved.body.brief.version;
      const audited = performance.now();
      const last = await lastLine(house, `/api/revisions/${head}/audit?brief=patterns@${version}`);
      tally.auditing = Math.max(tally.auditing, Math.round(performance.now() - audited));
      if (last.stage !== 'done') tally.wrong++;
    }
    return tally;
  });
}

/** Hands a character of the shelf over; gives the docket's id. */
async function handOver(house, name, note) {
  const { body } = await house.ask('GET', '/api/characters');
  const { id, head } = body.characters.find((c) => c.name === name);
  const last = await lastLine(house, `/api/characters/${id}/dockets`, {
    revision: head,
    by: 'the trial',
    note,
  });
  if (!last.id) throw new Error(`It was not handed over: ${JSON.stringify(last)}`);
  return last.id;
}

/** Forged dockets through the command that receivers hold files against them with. */
export async function tryForgeries(house, count, seed) {
  const docket = await handOver(house, 'Capstan', 'to be forged');
  const { body } = await house.ask('GET', '/api/keys');
  const key = body.keys.find((k) => !k.until).key;
  const folder = mkdtempSync(path.join(os.tmpdir(), 'bough-forged-'));
  try {
    const files = [];
    for (const part of ['docket', 'file']) {
      const answer = await fetch(`${house.url}/api/dockets/${docket}/${part}`);
      const [, name] = /filename="([^"]+)"/.exec(answer.headers.get('content-disposition')) ?? [];
      files.push(path.join(folder, `${part}-${name}`));
      writeFileSync(files.at(-1), new Uint8Array(await answer.arrayBuffer()));
    }
    const child = spawn(
      process.execPath,
      [path.join(root, 'dist', 'forge.mjs'), ...files, key, String(seed), String(count)],
      { stdio: ['ignore', 'pipe', 'inherit'] },
    );
    let told = '';
    child.stdout.on('data', (d) => (told += String(d)));
    await new Promise((done) => child.once('close', done));
    return JSON.parse(told);
  } finally {
    rmSync(folder, { recursive: true });
  }
}

/** Processes of Chromium that print, whoever began them, and the memory of all of them together, bytes. */
function printing() {
  const pids = readdirSync('/proc').filter((id) => {
    try {
      return /^\d+$/.test(id) && readFileSync(`/proc/${id}/cmdline`, 'utf8').includes('bough-print-');
    } catch {
      return false;
    }
  });
  return { count: pids.length, memory: pids.reduce((sum, id) => sum + memoryOf(id), 0) };
}

/** Many PDFs at once, half of them of people who leave, while others ask. */
export async function tryPrints(house, count) {
  const dockets = [];
  for (let i = 0; i < Math.ceil(count / 4); i++)
    dockets.push(await handOver(house, 'Capstan', `to print ${i}`));
  const tally = { asked: count, printed: 0, left: 0, failed: 0, processes: 0, memory: 0 };
  let isOver = false;
  const watching = (async () => {
    while (!isOver) {
      const { count: processes, memory } = printing();
      tally.processes = Math.max(tally.processes, processes);
      tally.memory = Math.max(tally.memory, Math.round(memory / 2 ** 20));
      await pause(100);
    }
  })();
  const times = [];
  const came = await slowestWhile(house, async () => {
    const asking = Array.from({ length: count }, async (_, i) => {
      const leaves = i % 2 === 1;
      const signal = AbortSignal.timeout(leaves ? 100 + Math.round(chance() * 3000) : 300_000);
      const began = performance.now();
      try {
        const answer = await fetch(`${house.url}/api/dockets/${anyOf(dockets)}/pdf`, { signal });
        const bytes = Buffer.from(await answer.arrayBuffer());
        if (answer.status === 200 && bytes.subarray(0, 5).toString() === '%PDF-') tally.printed++;
        else tally.failed++;
        times.push(performance.now() - began);
      } catch {
        if (leaves) tally.left++;
        else tally.failed++;
      }
    });
    await Promise.all(asking);
    return tally;
  });
  for (let i = 0; i < 100 && printing().count > 0; i++) await pause(100);
  isOver = true;
  await watching;
  const folders = readdirSync(os.tmpdir()).filter((f) => f.startsWith('bough-print-')).length;
  return { ...came, longest: Math.round(quantile(times, 1)), after: printing().count, folders };
}

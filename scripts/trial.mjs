/**
 * `npm run trial`: the house tried hard, the same for the same seed, with its figures printed. Small files that ask for
 * much, properties of the core over cases by chance, spoilt files through every reader and what was taken of them through every writer and back, patterns made to keep
 * others waiting, forged dockets, floods of printing, many hands on one character, kills against a live house, kills in the
 * middle of jobs, two hundred characters while eight people work, and ten minutes of the same.
 *
 *     npm run trial -- [--rounds 100] [--files 10000] [--clients 8] [--characters 200] [--minutes 10] [--seed 1]
 *                      [--patterns 300] [--forgeries 1000] [--prints 40] [--draws 3]
 *                      [--only bombs,properties,files,patterns,dockets,prints,hands,kills,jobs,crowd,soak]
 */
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, readdirSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { parseArgs } from 'node:util';
import {
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
import { TrialHouse, chance, memoryOf, pause, seedChance } from './trial-house.mjs';
import { tryForgeries, tryPatterns, tryPrints } from './trial-outside.mjs';
import { tryCrowd, tryJobKills, trySoak } from './trial-jobs.mjs';

const { values } = parseArgs({
  options: {
    rounds: { type: 'string', default: '100' },
    files: { type: 'string', default: '10000' },
    clients: { type: 'string', default: '8' },
    characters: { type: 'string', default: '200' },
    minutes: { type: 'string', default: '10' },
    patterns: { type: 'string', default: '300' },
    forgeries: { type: 'string', default: '1000' },
    prints: { type: 'string', default: '40' },
    draws: { type: 'string', default: '3' },
    seed: { type: 'string', default: '1' },
    only: { type: 'string', default: '' },
  },
});
const [characters, minutes] = [values.characters, values.minutes].map(Number);
const [rounds, files, clients, seed] = [values.rounds, values.files, values.clients, values.seed].map(Number);

seedChance(seed);

/** A file may take this long, milliseconds, and this much memory, bytes. */
const LONGEST = 10_000;
const MOST = 2 * 2 ** 30;

/** The page's requests may take this long at the 95th percentile while all else goes on, milliseconds. */
const SLOWEST = 300;

/** A pattern may take this long, milliseconds: its brief to be saved, and anybody else to be answered meanwhile. */
const LONGEST_PATTERN = 1000;

/** Printing may take so much memory at a time, bytes: one Chromium. */
const MOST_PRINTING = 2 ** 30;

/** Memory is level where the last third of the time has no more than this times that of the middle third. */
const LEVEL = 1.1;

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

/** Every property that the tests hold, over cases of other seeds than theirs. */
function tryProperties(cast) {
  const files = readdirSync(path.join(root, 'tests', 'core'))
    .map((f) => path.join('tests', 'core', f))
    .filter(
      (f) => f.endsWith('.test.ts') && readFileSync(path.join(root, f), 'utf8').includes("'fast-check'"),
    );
  const draws = Array.from({ length: Number(values.draws) }, () => Math.floor(chance() * 2 ** 31));
  const failed = draws.filter((draw) => {
    const done = spawnSync(path.join(root, 'node_modules', '.bin', 'jest'), files, {
      cwd: root,
      stdio: ['ignore', 'ignore', 'inherit'],
      env: { ...process.env, BOUGH_CAST: cast, BOUGH_SEED: String(draw), NODE_ENV: 'test' },
    });
    return done.status !== 0;
  });
  return { files: files.length, draws: draws.length, failed };
}

/** Spoilt files in a process of their own; one that hangs or dies is counted, and the next is gone on with. */
async function tryFiles(cast) {
  const names = sources(cast);
  const tally = { read: 0, refused: 0, crashed: 0, 'unlawful:': 0, slow: 0, large: 0, longest: 0 };
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
        if (kind === 'crashed' || kind === 'unlawful:') say(`  file ${i}: ${outcome.join(' ')}`);
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

/** One bomb in a process of its own; gives what it told, or that it had to be ended. */
async function tryBomb(at) {
  const child = spawn(process.execPath, [path.join(root, 'dist', 'bomb.mjs'), String(at)], {
    stdio: ['ignore', 'pipe', 'ignore'],
  });
  let told = '';
  child.stdout.on('data', (d) => (told += String(d)));
  const timer = setTimeout(() => child.kill('SIGKILL'), LONGEST * 12);
  await new Promise((done) => child.once('close', done));
  clearTimeout(timer);
  const lines = told.split('\n').filter((line) => line.endsWith('}'));
  if (lines.length === 0) return null;
  const law = child.exitCode === 0 ? {} : { law: 'writing and reading it again had to be ended' };
  return { ...JSON.parse(lines.at(-1)), ...law };
}

/** The standing set of small files that ask for much, one after the other. */
async function tryBombs() {
  const { stdout } = spawnSync(process.execPath, [path.join(root, 'dist', 'bomb.mjs')], { encoding: 'utf8' });
  const tally = { bombs: Number(stdout), read: 0, refused: 0, wrong: 0, unlawful: 0, slow: 0, large: 0 };
  const most = { seconds: 0, memory: 0 };
  for (let i = 0; i < tally.bombs; i++) {
    const b = await tryBomb(i);
    const isSlow = !b || b.seconds * 1000 > LONGEST;
    const isLarge = b && b.memory * 2 ** 20 > MOST;
    if (b) {
      tally[b.outcome === 'be read' ? 'read' : 'refused']++;
      most.seconds = Math.max(most.seconds, b.seconds);
      most.memory = Math.max(most.memory, b.memory);
    }
    if (isSlow) tally.slow++;
    if (isLarge) tally.large++;
    if (b?.isWrong) tally.wrong++;
    if (b?.law) tally.unlawful++;
    if (isSlow || isLarge || b.isWrong || b.law)
      say(
        `  ${b ? `${b.name}: ${b.seconds} s, ${b.memory} MB, ${b.outcome}, ${b.law ?? ''}` : `bomb ${i} had to be ended`}`,
      );
  }
  const line = `${tally.bombs} small files that ask for much: ${tally.read} read, ${tally.refused} refused; ${tally.slow} over ${LONGEST / 1000} s (the longest ${most.seconds} s), ${tally.large} over 2 GB (the largest ${most.memory} MB), ${tally.wrong} wrongly taken or refused, ${tally.unlawful} that could not be written and read again`;
  return { ...tally, line };
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

/** A house of the trial's own, for as long as the work takes; gives what came of it. */
async function withHouse(work) {
  const data = mkdtempSync(path.join(os.tmpdir(), 'bough-trial-'));
  const house = new TrialHouse(data, await freePort());
  try {
    await house.start();
    return await work(house);
  } finally {
    await house.stop();
    rmSync(data, { recursive: true, force: true });
  }
}

/** The character of the shelf that many hands are laid on. */
async function capstanOf(house) {
  const { body } = await house.ask('GET', '/api/characters');
  return body.characters.find((c) => c.name === 'Capstan').id;
}

/**
 * What is tried, in its order: each gives how much of it was wrong, and a line with its figures. With a `house` it is tried
 * on a live one of its own.
 */
const KINDS = {
  properties: {
    says: 'Properties over other cases …',
    run: (cast) => {
      const t = tryProperties(cast);
      const which = t.failed.length > 0 ? ` (seeds ${t.failed.join(', ')})` : '';
      return {
        bad: t.failed.length,
        line: `the properties of ${t.files} test files over ${t.draws} other draws of their cases: ${t.failed.length} with a failure${which}`,
      };
    },
  },
  bombs: {
    says: 'Small files that ask for much …',
    run: async () => {
      const t = await tryBombs();
      return { bad: t.wrong + t.unlawful + t.slow + t.large, line: t.line };
    },
  },
  files: {
    says: `Spoilt files (seed ${seed}) …`,
    run: async (cast) => {
      const t = await tryFiles(cast);
      return {
        bad: t.crashed + t['unlawful:'] + t.slow + t.large,
        line: `${files} spoilt files: ${t.read} read, written and read again, ${t.refused} refused; ${t.crashed} crashed, ${t['unlawful:']} could not be written and read again, ${t.slow} over ${LONGEST / 1000} s (the longest ${t.longest} ms), ${t.large} over 2 GB`,
      };
    },
  },
  patterns: {
    says: 'Patterns made to keep others waiting …',
    house: async (house) => {
      const t = await tryPatterns(house, Number(values.patterns));
      const slow = [t.saving, t.auditing, t.slowest].filter((ms) => ms > LONGEST_PATTERN).length;
      return {
        bad: t.wrong + slow,
        line: `${values.patterns} patterns: ${t.taken} taken, ${t.refused} refused with a sentence, ${t.wrong} wrong; the longest saving of a brief ${t.saving} ms, audit under it ${t.auditing} ms, answer to anybody else ${t.slowest} ms`,
      };
    },
  },
  dockets: {
    says: 'Forged dockets …',
    house: async (house) => {
      const t = await tryForgeries(house, Number(values.forgeries), seed);
      for (const way of t.ways) say(`  believed: ${way}`);
      return {
        bad: t.believed + t.doubted,
        line: `${t.forged} forged dockets: ${t.believed} believed, ${t.told} told to be none of the house’s, ${t.refused} refused as no docket; ${t.doubted} honest ones doubted`,
      };
    },
  },
  prints: {
    says: 'Floods of printing …',
    house: async (house) => {
      const t = await tryPrints(house, Number(values.prints));
      return {
        bad: t.failed + t.after + t.folders + (t.memory * 2 ** 20 > MOST_PRINTING ? 1 : 0),
        line: `${t.asked} PDFs asked for at once: ${t.printed} printed, ${t.left} left, ${t.failed} failed; at most ${t.processes} processes of Chromium with ${t.memory} MB, the longest answer ${t.longest} ms, to anybody else ${t.slowest} ms; ${t.after} processes and ${t.folders} folders left behind`,
      };
    },
  },
  hands: {
    says: 'Many hands on one character …',
    house: async (house) => {
      const t = await tryClients(house, await capstanOf(house));
      return {
        bad: t.wrong,
        line: `${clients} clients on one character: ${t.made} steps made, ${t.told} told that a newer revision is there, ${t.wrong} wrong`,
      };
    },
  },
  kills: {
    says: 'Kills in the middle of steps …',
    house: async (house) => {
      const t = await tryKills(house, await capstanOf(house));
      return {
        bad: t.lost,
        line: `${t.rounds} rounds of kill -9: ${t.acknowledged} revisions acknowledged, ${t.lost} lost`,
      };
    },
  },
  jobs: {
    says: 'Kills in the middle of jobs …',
    house: async (house, cast) => {
      const t = await tryJobKills(house, cast, rounds);
      for (const { kind, state, message } of t.notDone) say(`  ${kind}: ${state}, ${message}`);
      const kills = Object.entries(t.kills).map(([what, n]) => `${what} ${n}`);
      return {
        bad: t.lost + t.twice + t.notDone.length,
        line: `${t.rounds} rounds of kill -9 in the middle of jobs (${kills.join(', ')}): ${t.jobs} jobs acknowledged, ${t.lost} lost, ${t.twice} done twice, ${t.notDone.length} not done, ${t.setAside} set aside after three kills in a row and done when asked for again`,
      };
    },
  },
  crowd: {
    says: 'A crowd …',
    house: async (house, cast) => {
      const t = await tryCrowd(house, cast, characters, clients);
      return {
        bad: t.failed + t.undone + t.lost + (t.p95 > SLOWEST ? 1 : 0),
        line: `${characters} characters brought in, audited, moved and handed over by 4 workers in ${t.seconds} s while ${clients} people work: ${t.requests} requests of the page, p50 ${t.p50} ms, p95 ${t.p95} ms, p99 ${t.p99} ms; ${t.steps} steps, p50 ${t.stepP50} ms, p95 ${t.stepP95} ms, begun after p50 ${t.begunP50} ms, p95 ${t.begunP95} ms; ${t.failed} failed, ${t.undone} jobs not done, ${t.lost} steps lost`,
      };
    },
  },
  soak: {
    says: 'The same for long …',
    house: async (house, cast) => {
      const t = await trySoak(house, cast, minutes);
      const grew = ['server', 'worker'].filter((p) => t[p].last > t[p].middle * LEVEL);
      return {
        bad: t.failed + grew.length,
        line: `${t.minutes} minutes of the same: ${t.requests} requests, ${t.failed} failed; memory of the server ${t.server.middle} MB in the middle third, ${t.server.last} MB in the last; of the worker ${t.worker.middle} MB, ${t.worker.last} MB`,
      };
    },
  },
};

await main(async () => {
  checkNode();
  installPackages(true);
  await buildBundles();
  const cast = buildDemo();
  await buildApp();
  if (!existsSync('/usr/share/assimp/models')) aptInstall(['assimp-testmodels'], 'the sample models');
  if (!existsSync('/usr/bin/chromium')) aptInstall(['chromium'], 'Chromium');
  const lines = [];
  let bad = 0;
  for (const [name, kind] of Object.entries(KINDS)) {
    if (values.only && !values.only.split(',').includes(name)) continue;
    say(kind.says);
    const came = kind.house ? await withHouse((house) => kind.house(house, cast)) : await kind.run(cast);
    bad += came.bad;
    lines.push(came.line);
    say(`  ${came.line}`);
  }
  process.stdout.write(`${lines.join('\n')}\n`);
  return bad > 0 ? 1 : 0;
});

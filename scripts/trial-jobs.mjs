/**
 * Work that outlives its request, tried: many characters while people work, workers and all else killed in the middle, and
 * for how long it stays level.
 */
import { randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { say } from './lib.mjs';
import { anyOf, chance, memoryOf, pause, quantile } from './trial-house.mjs';

const ENDED = ['done', 'refused', 'cancelled', 'set aside'];

/** Where the weights go: there and back. */
const SKELETONS = [
  { id: 'vrm', title: 'VRM 1.0 humanoid' },
  { id: 'quay', title: 'Quay' },
];

const brought = (cast, name, file, job) => {
  const form = new FormData();
  form.set('job', job);
  form.set('brief', 'handset');
  form.set('files', new Blob([readFileSync(path.join(cast, file))]), `${name}.glb`);
  return form;
};

/** Sends a file until it is told that it was taken in; with one id it is taken in once. Gives the character. */
async function bring(house, cast, name, file) {
  const job = randomUUID();
  for (let i = 0; i < 300; i++) {
    try {
      const answer = await fetch(`${house.url}/api/characters`, {
        method: 'POST',
        body: brought(cast, name, file, job),
        signal: AbortSignal.timeout(120_000),
      });
      const lines = (await answer.text()).trim().split('\n');
      const last = JSON.parse(lines.at(-1));
      if (last.stage === 'done') return last.id;
    } catch {
      /* it was killed; the same is asked for again */
    }
    await pause(300);
  }
  throw new Error(`“${name}” was not taken in.`);
}

const partOf = (kind, { id, head, name }, input) => ({
  id: randomUUID(),
  kind,
  title: name,
  character: id,
  base: head,
  input,
});
const moveOf = (character, target) =>
  partOf('move', character, {
    target,
    limit: 4,
    weights: character.name.startsWith('Body') ? 'example' : 'rules',
  });
const handOverOf = (character) => partOf('hand over several', character, { by: 'the trial' });

/** Asks for jobs as one until that is acknowledged. */
async function ask(house, title, parts) {
  const id = randomUUID();
  const { status, body } = await house.insist('POST', '/api/jobs', { id, title, parts });
  if (status !== 201) throw new Error(`It was not asked for: ${JSON.stringify(body)}`);
  return { id, parts };
}

const recordOf = async (house, id) => (await house.insist('GET', `/api/characters/${id}`)).body;

/**
 * Kills in the middle of jobs. Every job that was acknowledged ends once in effect: a move is one revision more, a handing
 * over one docket, a file one character.
 */
export async function tryJobKills(house, cast, rounds) {
  const tally = { rounds: 0, jobs: 0, lost: 0, twice: 0, setAside: 0, kills: {} };
  house.keepWorkers(1);
  const figures = [];
  for (let i = 0; i < 8; i++) {
    const name = `Figure ${i}`;
    const id = await bring(house, cast, name, 'quay-skeleton.glb');
    figures.push({ id, name, moves: 0, handed: 0, open: [] });
  }
  const files = [];
  const asked = new Map();
  for (let round = 0; round < rounds; round++) {
    const states = new Map();
    for (const f of figures)
      for (const job of f.open) {
        const { body } = await house.insist('GET', `/api/jobs/${job}`);
        states.set(job, body.job.state);
      }
    for (const f of figures) f.open = f.open.filter((j) => !ENDED.includes(states.get(j)));
    const idle = figures.filter((f) => f.open.length === 0).slice(0, 4);
    const parts = [];
    for (const f of idle) {
      const record = await recordOf(house, f.id);
      const target = SKELETONS[f.moves % SKELETONS.length];
      const part =
        chance() < 0.7
          ? moveOf({ ...f, head: record.head }, target)
          : handOverOf({ ...f, head: record.head });
      if (part.kind === 'move') f.moves++;
      else f.handed++;
      f.open.push(part.id);
      parts.push(part);
      asked.set(part.id, part);
    }
    if (parts.length > 0) await ask(house, `round ${round}`, parts);
    tally.jobs += parts.length;
    const name = `File ${round}`;
    files.push(bring(house, cast, name, 'quay-skeleton.glb').then((id) => ({ name, id })));
    tally.jobs++;
    await pause(100 + chance() * 1200);
    const what = await house.killOne(['worker', 'worker', 'workers', 'server', 'database', 'start']);
    tally.kills[what] = (tally.kills[what] ?? 0) + 1;
    tally.rounds++;
    if (tally.rounds % 10 === 0) say(`  ${tally.rounds} rounds, ${tally.jobs} jobs …`);
  }
  const came = await Promise.all(files);
  for (const f of figures)
    for (const job of f.open)
      for (let i = 0; i < 600; i++) {
        const { body } = await house.insist('GET', `/api/jobs/${job}`);
        if (ENDED.includes(body.job.state)) break;
        await pause(200);
      }
  const repeated = await askAgain(house, asked);
  tally.setAside = repeated.size;
  const all = await house.query("select id, state, kind, message from jobs where kind <> 'together'");
  tally.notDone = all.filter((j) => j.state !== 'done' && !repeated.has(j.id));
  for (const f of figures) {
    const { revisions } = await recordOf(house, f.id);
    const [{ n }] = await house.query('select count(*)::int as n from dockets where character_id = $1', [
      f.id,
    ]);
    tally.lost += Math.max(0, f.moves + 1 - revisions.length) + Math.max(0, f.handed - n);
    tally.twice += Math.max(0, revisions.length - f.moves - 1) + Math.max(0, n - f.handed);
  }
  const { body } = await house.insist('GET', '/api/characters');
  for (const { name } of came) {
    const there = body.characters.filter((c) => c.name === name || c.name === `${name}.glb`).length;
    if (there === 0) tally.lost++;
    tally.twice += Math.max(0, there - 1);
  }
  return tally;
}

/**
 * What was killed three times in a row is set aside, and says that it is to be asked for again: it is, and has ended when
 * this has. Gives the ids of those that were set aside.
 */
async function askAgain(house, asked) {
  const rows = await house.query("select id from jobs where state = 'set aside'");
  const setAside = rows.map((j) => j.id).filter((id) => asked.has(id));
  for (const id of setAside) {
    const part = asked.get(id);
    const { head } = await recordOf(house, part.character);
    const again = await ask(house, 'again', [{ ...part, id: randomUUID(), base: head }]);
    await ended(house, again.id);
  }
  return new Set(setAside);
}

/** One at work: opens a character, looks at it, makes a step now and then. Tells how long each request took. */
async function person(house, ids, isOver, times) {
  const timed = async (kind, method, address, body) => {
    const began = performance.now();
    const answer = await house.ask(method, address, body);
    times.push({ kind, ms: performance.now() - began, ok: answer.status < 400 });
    return answer.body;
  };
  while (!isOver()) {
    const id = anyOf(ids);
    await timed('shelf', 'GET', '/api/characters');
    const record = await timed('record', 'GET', `/api/characters/${id}`);
    const stored = await timed('manifest', 'GET', `/api/revisions/${record.head}`);
    const began = performance.now();
    const arrays = await fetch(`${house.url}/api/arrays`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ hashes: [...new Set(stored.arrays)] }),
    });
    await arrays.arrayBuffer();
    times.push({ kind: 'arrays', ms: performance.now() - began, ok: arrays.ok });
    await timed('head', 'GET', `/api/characters/${id}/head`);
    await timed('jobs', 'GET', '/api/jobs');
    const step = { base: record.head, remedy: 'rescale', params: { by: 'factor', factor: 1.01 } };
    const made = await timed('step', 'POST', `/api/characters/${id}/steps/remedy`, step);
    if (made.revision) times.push({ kind: 'made', ms: 0, ok: true, id, revision: made.revision.id });
    await pause(1500 + chance() * 3000);
  }
}

/** How long jobs of the lane at hand waited to be begun, milliseconds. */
const waits = async (house, since) =>
  (
    await house.query(
      "select extract(epoch from started_at - created_at) * 1000 as ms from jobs where kind = 'remedy' and started_at is not null and created_at > $1",
      [since],
    )
  ).map((r) => Number(r.ms));

/** Many characters brought in, audited, moved and handed over by four workers, while people work. */
export async function tryCrowd(house, cast, count, people) {
  house.keepWorkers(3);
  await pause(2000);
  const since = new Date();
  const began = performance.now();
  const times = [];
  let isOver = false;
  const desks = [];
  for (let i = 0; i < people; i++) desks.push(await bring(house, cast, `Desk ${i}`, 'capstan.glb'));
  // Each has a character of their own: nobody's step is in another's way.
  const working = desks.map((id) => person(house, [id], () => isOver, times));
  const names = Array.from({ length: count }, (_, i) => (i % 20 === 0 ? `Body ${i}` : `Crew ${i}`));
  const left = [...names];
  const ids = new Map();
  const bringing = async () => {
    for (let name = left.shift(); name; name = left.shift()) {
      ids.set(
        name,
        await bring(house, cast, name, name.startsWith('Body') ? 'deckhand-clean.glb' : 'quay-skeleton.glb'),
      );
      if (ids.size % 50 === 0) say(`  ${ids.size} of ${count} are in …`);
    }
  };
  await Promise.all(Array.from({ length: 6 }, bringing));
  say('  moving them …');
  const figures = async () => {
    const { characters } = (await house.insist('GET', '/api/characters')).body;
    const byId = new Map(characters.map((c) => [c.id, c]));
    return names.map((n) => byId.get(ids.get(n)));
  };
  const moves = await ask(
    house,
    'all moved',
    (await figures()).map((f) => moveOf(f, SKELETONS[0])),
  );
  await ended(house, moves.id);
  say('  handing them over …');
  const handed = await ask(house, 'all handed over', (await figures()).map(handOverOf));
  await ended(house, handed.id);
  isOver = true;
  await Promise.all(working);
  const undone = (await house.query("select state, message from jobs where state <> 'done'")).length;
  let lost = 0;
  for (const { id, revision } of times.filter((t) => t.kind === 'made'))
    if (!(await recordOf(house, id)).revisions.some((r) => r.id === revision)) lost++;
  const asked = times.filter((t) => t.kind !== 'made' && t.kind !== 'step');
  const steps = times.filter((t) => t.kind === 'step');
  const ms = (list, share) =>
    Math.round(
      quantile(
        list.map((t) => t.ms ?? t),
        share,
      ),
    );
  const begun = await waits(house, since);
  return {
    seconds: Math.round((performance.now() - began) / 1000),
    requests: asked.length,
    p50: ms(asked, 0.5),
    p95: ms(asked, 0.95),
    p99: ms(asked, 0.99),
    steps: steps.length,
    stepP50: ms(steps, 0.5),
    stepP95: ms(steps, 0.95),
    begunP50: ms(begun, 0.5),
    begunP95: ms(begun, 0.95),
    failed: times.filter((t) => !t.ok).length,
    undone,
    lost,
  };
}

async function ended(house, id) {
  for (;;) {
    const { body } = await house.insist('GET', `/api/jobs/${id}`);
    if (body.job.endedAt) return;
    await pause(1000);
  }
}

/** The same small things over and over; how much memory server and worker have in the second and in the last third. */
export async function trySoak(house, cast, minutes) {
  const { server, worker } = house.noted();
  const until = Date.now() + minutes * 60_000;
  const memory = { server: [], worker: [] };
  const times = [];
  const desks = [];
  for (let i = 0; i < 3; i++) desks.push(await bring(house, cast, `Soak ${i}`, 'capstan.glb'));
  const isOver = () => Date.now() > until;
  const working = desks.map((id) => person(house, [id], isOver, times));
  const heap = async () => {
    while (!isOver()) {
      const id = await bring(house, cast, 'Passing', 'quay-skeleton.glb');
      const record = await recordOf(house, id);
      const { id: job } = await ask(house, 'passing', [
        moveOf({ id, name: 'Passing', head: record.head }, SKELETONS[0]),
      ]);
      await ended(house, job);
      await house.ask('DELETE', `/api/characters/${id}`);
    }
  };
  const watch = async () => {
    while (!isOver()) {
      memory.server.push(memoryOf(server));
      memory.worker.push(memoryOf(worker));
      await pause(5000);
    }
  };
  await Promise.all([...working, heap(), watch()]);
  const thirds = (list) => {
    const n = Math.floor(list.length / 3);
    const mb = (part) => Math.round(quantile(part, 0.5) / 2 ** 20);
    return { middle: mb(list.slice(n, 2 * n)), last: mb(list.slice(2 * n)) };
  };
  return {
    minutes,
    requests: times.length,
    failed: times.filter((t) => !t.ok).length,
    server: thirds(memory.server),
    worker: thirds(memory.worker),
  };
}

import path from 'node:path';
import { type Kysely, sql } from 'kysely';
import { NO_EFFECTS } from '@/core/contracts/effects';
import { findingsOf, saveAudit } from '@/server/audits';
import { bringBriefs } from '@/server/briefs';
import { loadCast } from '@/server/cast';
import { takeIn } from '@/jobs/take-in';
import {
  characterById,
  copyCharacter,
  createCharacter,
  listCharacters,
  removeCharacter,
} from '@/server/characters';
import { hashOf } from '@/server/blobs';
import { addDelivery, addRevision, moveHead, wireOf } from '@/server/revisions';
import { savedCrosswalk, saveCrosswalk } from '@/server/crosswalks';
import { type Database, openDatabase } from '@/server/database';
import { migrate } from '@/server/migrations';
import { Refused } from '@/server/refused';
import { toStored, fromStored } from '@/core/character/stored';
import type { Character } from '@/core/character/model';
import { unpack } from '@/core/character/bundle';
import { briefKey } from '@/core/house/brief';
import { briefById } from '@/core/house/briefs';
import { packPatches } from '@/core/house/edit';
import type { Refusal, TaskAnswer, TaskInput, TaskName } from '@/tasks/list';
import type { Wire } from '@/tasks/task';
import { addressOf } from '@/worker/task';
import { tube } from '../core/support/build';
import { castBytes, castPath, handBytes } from '../core/support/cast';
import { ownDatabase } from './support/database';
import { runJob } from './support/run-job';

jest.mock('piscina', () => ({ Piscina: class {} }));

const wants = briefById('handset')!;
const HANDSET = briefKey(wants);

let db: Kysely<Database>;
let drop: () => Promise<void>;
beforeAll(async () => {
  const own = await ownDatabase('bough_store');
  drop = own.drop;
  db = openDatabase(own.url);
  await migrate(db);
  await bringBriefs(db);
});
afterAll(async () => {
  await db.destroy();
  await drop();
});

const made = (character: Character, label: string) => {
  const { stored, bytes } = toStored(character);
  return {
    stored,
    bytes,
    picture: Uint8Array.from([0x89, label.length]),
    label,
    step: { kind: 'import' as const, files: [], notes: [] },
    effects: NO_EFFECTS,
  };
};
const blobs = async () =>
  Number(
    (
      await db
        .selectFrom('blobs')
        .select((expression) => expression.fn.countAll().as('n'))
        .executeTakeFirstOrThrow()
    ).n,
  );

it('a character of more arrays than a statement has room for is kept, opened and removed', async () => {
  const before = await blobs();
  const one = made(tube(), 'many');
  const bytes = new Map(one.bytes);
  // Each stands for an array of a small mesh; a statement has room for 32 767 of them.
  for (let i = 0; i < 40_000; i++) bytes.set(hashOf(Buffer.from(`many ${i}`)), Buffer.from(`many ${i}`));
  const many = { ...one, bytes, stored: { ...one.stored, arrays: [...bytes.keys()] } };
  const { id, revision } = await createCharacter(db, 'many', 'handset', many);
  const wire = await wireOf(db, revision);
  expect([...wire.bytes.keys()].sort()).toEqual([...bytes.keys()].sort());
  await removeCharacter(db, id);
  expect(await blobs()).toBe(before);
});

it('a revision comes back as it was saved, and shares the arrays that a step did not touch', async () => {
  const character = tube();
  const { id, revision } = await createCharacter(db, 'tube', 'handset', made(character, 'first'));
  const wire = await wireOf(db, revision);
  expect(fromStored(wire.stored, (hash) => wire.bytes.get(hash))).toEqual(character);
  const before = await blobs();
  await addRevision(db, id, revision, made({ ...character, name: 'renamed' }, 'a name only'));
  expect((await blobs()) - before).toBe(2); // a manifest and a picture, no array
  const head = async () => (await characterById(db, id)).revisions.at(-1)!;
  const { id: renamed, picture } = await head();
  await addRevision(db, id, renamed, {
    ...made({ ...character, name: 'again' }, 'looks the same'),
    picture: null,
  });
  expect((await head()).picture).toBe(picture);
  await removeCharacter(db, id);
});

it('blobs that are taken away while others are kept are never missed', async () => {
  // Every save finds the arrays of the character that is being removed, and needs them.
  for (let round = 0; round < 12; round++) {
    const old = await createCharacter(db, 'old', 'handset', made(tube(16), 'first'));
    const [, fresh, more] = await Promise.all([
      removeCharacter(db, old.id),
      createCharacter(db, 'fresh', 'handset', made(tube(16), 'first')),
      createCharacter(db, 'more', 'handset', made(tube(16), 'first')),
    ]);
    for (const { id, revision } of [fresh, more]) {
      const wire = await wireOf(db, revision);
      const { arrays } = wire.stored;
      const stored = await db.selectFrom('blobs').select('hash').where('hash', 'in', arrays).execute();
      expect(stored).toHaveLength(new Set(arrays).size);
      await removeCharacter(db, id);
    }
  }
});

it('a connection that is lost between two queries fails what held it, and nothing else', async () => {
  const other = async () => (await listCharacters(db)).length;
  const before = await other();
  const uncaught: unknown[] = [];
  const note = (error: unknown) => uncaught.push(error);
  process.on('uncaughtException', note);
  await expect(
    db.transaction().execute(async (trx) => {
      const { rows } = await sql<{ pid: number }>`select pg_backend_pid() as pid`.execute(trx);
      await sql`select pg_terminate_backend(${rows[0].pid})`.execute(db);
      await new Promise((done) => setTimeout(done, 200));
      await sql`select 1`.execute(trx);
    }),
  ).rejects.toThrow();
  process.off('uncaughtException', note);
  expect(uncaught).toEqual([]);
  expect(await other()).toBe(before);
});

describe('the demo cast', () => {
  const folder = path.dirname(castPath('deckhand.glb'));
  const shelf = async () =>
    (await db.selectFrom('characters').select('name').orderBy('name').execute()).map((c) => c.name);
  const remove = async (name: string) => {
    const found = db.selectFrom('characters').select('id').where('name', '=', name);
    await removeCharacter(db, (await found.executeTakeFirstOrThrow()).id);
  };
  it('broken off while it came goes on with who is missing; who was removed does not come back', async () => {
    // The house that this database is of has its cast; it is made as new.
    for (const name of await shelf()) await remove(name);
    await db.deleteFrom('done_once').execute();
    await loadCast(db, folder, takeIn);
    const all = await shelf();
    expect(all).toHaveLength(8);
    // As a start leaves it that was ended before the last two had come.
    await db.deleteFrom('done_once').execute();
    await remove(all[4]);
    await remove(all[5]);
    await loadCast(db, folder, takeIn);
    expect(await shelf()).toEqual(all);
    await remove(all[0]);
    await loadCast(db, folder, takeIn);
    expect(await shelf()).toEqual(all.slice(1));
  });
});

it('a step on an old revision is refused with both named, and writes nothing', async () => {
  const { id, revision } = await createCharacter(db, 'tube', 'handset', made(tube(), 'first'));
  const second = await addRevision(db, id, revision, made(tube(12), 'second'));
  const before = await blobs();
  const late = addRevision(db, id, revision, made(tube(20), 'too late'));
  await expect(late).rejects.toMatchObject({
    status: 409,
    body: { base: { id: revision, number: 1 }, head: { id: second.id, number: 2 } },
  });
  expect(await blobs()).toBe(before);
  expect((await characterById(db, id)).revisions.length).toBe(2);
  await removeCharacter(db, id);
});

it('of many steps at once on one revision exactly one is taken', async () => {
  const { id, revision } = await createCharacter(db, 'tube', 'handset', made(tube(), 'first'));
  const results = await Promise.allSettled(
    [8, 9, 10, 11, 12].map((segments) =>
      addRevision(db, id, revision, made(tube(segments), `step ${segments}`)),
    ),
  );
  expect(results.filter((result) => result.status === 'fulfilled').length).toBe(1);
  for (const result of results)
    if (result.status === 'rejected') expect((result.reason as Refused).status).toBe(409);
  expect((await characterById(db, id)).revisions.map((revision) => revision.number)).toEqual([1, 2]);
  await removeCharacter(db, id);
});

it('a revision whose blobs cannot be written leaves no row behind', async () => {
  const { id, revision } = await createCharacter(db, 'tube', 'handset', made(tube(), 'first'));
  const broken = { ...made(tube(14), 'broken'), bytes: new Map<string, Uint8Array>() };
  await expect(addRevision(db, id, revision, broken)).rejects.toThrow();
  const after = await characterById(db, id);
  expect([after.head, after.revisions.length]).toEqual([revision, 1]);
  await removeCharacter(db, id);
});

it('what was broken off while it was being saved leaves no row and no blob behind', async () => {
  const { id, revision } = await createCharacter(db, 'tube', 'handset', made(tube(), 'first'));
  const state = async () => [
    await characterById(db, id),
    (await listCharacters(db)).map((character) => character.id),
    await db.selectFrom('audits').select('revision_id').execute(),
    await blobs(),
  ];
  const before = await state();
  const gone = AbortSignal.abort();
  const found = {
    findings: Uint8Array.from([1, 2, 3]),
    counts: { stops: 0, worth: 0, note: 0 },
    told: [],
    isMoved: false,
  };
  for (const work of [
    () => createCharacter(db, 'late', 'handset', made(tube(21), 'late'), { signal: gone }),
    () => addRevision(db, id, revision, made(tube(22), 'late'), { signal: gone }),
    () => addDelivery(db, id, revision, made(tube(23), 'late'), { signal: gone }),
    () => saveAudit(db, revision, HANDSET, found, { signal: gone }),
  ])
    await expect(work).rejects.toMatchObject({
      status: 499,
      message: expect.stringMatching(/nothing was changed/),
    });
  expect(await state()).toEqual(before);
  await removeCharacter(db, id);
});

it('undo and redo move the head among a character’s own revisions only', async () => {
  const a = await createCharacter(db, 'a', 'handset', made(tube(), 'first'));
  const b = await createCharacter(db, 'b', 'handset', made(tube(), 'first'));
  const second = await addRevision(db, a.id, a.revision, made(tube(12), 'second'));
  await moveHead(db, a.id, second.id, a.revision);
  expect((await characterById(db, a.id)).head).toBe(a.revision);
  await expect(moveHead(db, a.id, a.revision, b.revision)).rejects.toMatchObject({ status: 404 });
  await expect(moveHead(db, a.id, second.id, a.revision)).rejects.toMatchObject({ status: 409 });
  await removeCharacter(db, a.id);
  await removeCharacter(db, b.id);
});

it('removing a character takes along what only it needed', async () => {
  const before = await blobs();
  const { id, revision } = await createCharacter(db, 'gone', 'handset', made(tube(31), 'only here'));
  await saveAudit(db, revision, HANDSET, {
    findings: Uint8Array.from([1, 2, 3]),
    counts: { stops: 0, worth: 0, note: 0 },
    told: [],
    isMoved: false,
  });
  expect(await findingsOf(db, revision, HANDSET)).toEqual(Uint8Array.from([1, 2, 3]));
  await removeCharacter(db, id);
  expect(await blobs()).toBe(before);
  await expect(characterById(db, id)).rejects.toMatchObject({ status: 404 });
});

it('saved under a new name nothing is stored twice, and each outlives the other', async () => {
  const character = tube();
  const { id, revision } = await createCharacter(db, 'tube', 'handset', {
    ...made(character, 'first'),
    brief: HANDSET,
    audited: {
      findings: Uint8Array.from([7, 7]),
      counts: { stops: 1, worth: 0, note: 0 },
      told: [],
      isMoved: false,
    },
  });
  const before = await blobs();
  const copy = await copyCharacter(db, revision, 'tube, another');
  expect(await blobs()).toBe(before);
  expect((await characterById(db, copy.id)).revisions[0]).toMatchObject({
    number: 1,
    step: { kind: 'copy', from: { character: 'tube', revision: 1 } },
    counts: { stops: 1 },
  });
  await removeCharacter(db, id);
  const wire = await wireOf(db, copy.revision);
  expect(fromStored(wire.stored, (hash) => wire.bytes.get(hash))).toEqual(character);
  expect(await findingsOf(db, copy.revision, HANDSET)).toEqual(Uint8Array.from([7, 7]));
  await removeCharacter(db, copy.id);
});

it('a new delivery begins a line of its own beside the one that is there, and only from the head', async () => {
  const { id, revision } = await createCharacter(db, 'tube', 'handset', made(tube(), 'first'));
  const second = await addRevision(db, id, revision, made(tube(12), 'second'));
  await expect(addDelivery(db, id, revision, made(tube(14), 'anew'))).rejects.toMatchObject({ status: 409 });
  const anew = await addDelivery(db, id, second.id, made(tube(14), 'anew'));
  const sheet = await characterById(db, id);
  expect(sheet.head).toBe(anew.id);
  expect(sheet.revisions.map((revision) => [revision.number, revision.parent])).toEqual([
    [1, null],
    [2, revision],
    [3, null],
  ]);
  await removeCharacter(db, id);
});

it('pins belong to their character and go with it', async () => {
  const { id } = await createCharacter(db, 'tube', 'handset', made(tube(), 'first'));
  await db
    .insertInto('pins')
    .values({
      character_id: id,
      label: 'arm',
      ends: JSON.stringify({ from: { kind: 'joint', node: 'lower' }, to: { kind: 'joint', node: 'upper' } }),
    })
    .execute();
  expect((await characterById(db, id)).pins).toMatchObject([
    { label: 'arm', from: { node: 'lower' }, to: { node: 'upper' } },
  ]);
  await removeCharacter(db, id);
  expect((await db.selectFrom('pins').select('id').where('character_id', '=', id).execute()).length).toBe(0);
});

it('an audit that came along with a step is there at once; one whose revision fails is not', async () => {
  const { id, revision } = await createCharacter(db, 'tube', 'handset', made(tube(), 'first'));
  const audited = {
    findings: Uint8Array.from([1]),
    counts: { stops: 0, worth: 2, note: 0 },
    told: [],
    isMoved: false,
  };
  const broken = {
    ...made(tube(18), 'broken'),
    bytes: new Map<string, Uint8Array>(),
    brief: HANDSET,
    audited,
  };
  await expect(addRevision(db, id, revision, broken)).rejects.toThrow();
  expect(await findingsOf(db, revision, HANDSET)).toBeNull();
  const next = await addRevision(db, id, revision, { ...made(tube(18), 'sound'), brief: HANDSET, audited });
  expect((await characterById(db, id)).revisions.find((revision) => revision.id === next.id)?.counts).toEqual(
    {
      stops: 0,
      worth: 2,
      note: 0,
    },
  );
  await removeCharacter(db, id);
});

it('a crosswalk is kept by the two fingerprints; the newest stays', async () => {
  const file = (rule: 'keep' | 'release') => ({
    kind: 'young-bough-crosswalk' as const,
    source: { title: 's', fingerprint: 'a'.repeat(32) },
    target: { title: 't', fingerprint: 'b'.repeat(32) },
    rules: [{ source: 'x', rule, target: null, confidence: 1, reasons: [], locked: false }],
  });
  await saveCrosswalk(db, file('keep'));
  await saveCrosswalk(db, file('release'));
  expect(await savedCrosswalk(db, 'a'.repeat(32), 'b'.repeat(32))).toEqual(file('release'));
  expect(await savedCrosswalk(db, 'b'.repeat(32), 'a'.repeat(32))).toBeNull();
});

it('migrating twice changes nothing', async () => {
  await migrate(db);
  expect(Array.isArray(await listCharacters(db))).toBe(true);
});

const wireFor = (character: Character): Wire => {
  const { stored, bytes } = toStored(character);
  return { address: addressOf(stored), stored, bytes };
};

/** What a task gives; its refusal is thrown. */
function done<N extends TaskName>(task: N, input: TaskInput<N>): TaskAnswer<N> {
  const answer = runJob({ task, input });
  if ('refused' in answer) throw new Error(answer.refused);
  return answer as TaskAnswer<N>;
}

describe('the worker', () => {
  it('imports a good file with its picture', () => {
    const imported = done('import', { files: [{ name: 'left.glb', bytes: handBytes('left') }] });
    expect([...imported.picture!.slice(1, 4)]).toEqual([80, 78, 71]);
    expect(imported.name).toBe('left');
  });
  it('surveys files that do not say their unit, adds them to a character, and does a recorded step again on a new delivery', () => {
    const text = (text: string) => new TextEncoder().encode(text);
    const files = [{ name: 'crate.obj', bytes: text('o crate\nv 0 0 0\nv 40 0 0\nv 40 60 10\nf 1 2 3\n') }];
    expect(done('survey', { files })).toMatchObject({
      format: 'Wavefront OBJ',
      stated: { unit: false, upAxis: false },
      size: [40, 60, 10],
      vertices: 3,
    });
    const wire = wireFor(tube());
    const added = done('add', { wire, files, options: { unitMetres: 0.01 }, brief: wants });
    const bytes = new Map([...wire.bytes, ...added.bytes]);
    const after = fromStored(added.stored, (hash) => bytes.get(hash));
    expect(after.nodes.map((node) => node.name)).toEqual(['lower', 'upper', 'tube', 'crate']);
    expect(Math.max(...after.meshes[1].attributes.POSITION.data)).toBeCloseTo(0.6, 6);
    expect(added.audited?.counts.stops).toBeGreaterThan(0);
    expect(added.effects).toMatchObject({ kind: 'changed', others: { largest: 0 } });
    const again = {
      brief: wants,
      remedy: 'rescale-prop',
      params: { node: 9, height: 1 },
      names: { node: { name: 'crate', nth: 0 } },
    };
    expect(runJob({ task: 'remedy', input: { wire, ...again } })).toEqual({
      refused: 'there is no node “crate” in the new delivery',
    });
    const next = { address: addressOf(added.stored), stored: added.stored, bytes };
    expect(done('remedy', { wire: next, ...again })).toMatchObject({
      names: { node: { name: 'crate', nth: 0 } },
      params: { node: 3, height: 1 },
    });
  });
  it('does what the hand did as one step, and again on another delivery, where what is not there is told', () => {
    const character = tube();
    const patches = packPatches([
      { remedy: 'move-joint', params: { bone: 1, place: [0.1, 0.6, 0] } },
      { remedy: 'move-joint', params: { bone: 0, place: [0, -0.1, 0] } },
    ]);
    const made = done('edit', { wire: wireFor(character), brief: wants, patches });
    expect(made.title).toBe('move a joint (2)');
    expect(made.effects).toMatchObject({
      kind: 'changed',
      outside: [],
      others: { largest: expect.any(Number) },
    });
    const other = {
      ...character,
      nodes: character.nodes.map((node, i) => (i === 0 ? { ...node, name: 'stem' } : node)),
    };
    const again = done('edit', {
      wire: wireFor(other),
      brief: wants,
      patches: made.patch,
      names: made.names,
    });
    expect(again.misfits).toEqual(['there is no node “lower” in the new delivery']);
    expect(again.title).toBe('move a joint');
    expect(
      runJob({ task: 'edit', input: { wire: wireFor(character), brief: wants, patches: new Uint8Array(9) } }),
    ).toMatchObject({
      refused: expect.stringMatching(/^The edit cannot be read/),
    });
  });
  it('keeps the answers of checks that a step does not concern, and asks the others anew', () => {
    const character = tube();
    const earlier = done('audit', { wire: wireFor(character), brief: wants });
    const input = { wire: wireFor(character), brief: wants, remedy: 'set-on-ground', params: {} };
    const fresh = done('remedy', input);
    const kept = done('remedy', { ...input, earlier: { brief: HANDSET, findings: earlier.findings } });
    expect(unpack(kept.audited!.findings.slice().buffer)).toEqual(
      unpack(fresh.audited!.findings.slice().buffer),
    );
  });
  it('writes every format, posed where asked, and says when there is no such clip', () => {
    const wire = wireFor(tube());
    for (const format of ['glb', 'dae', 'obj'] as const)
      expect(done('export', { wire, format, stem: 't' }).files[0].name).toBe(`t.${format}`);
    const posed = { wire, format: 'obj' as const, stem: 't', pose: { clip: 3, time: 0 } };
    expect(runJob({ task: 'export', input: posed })).toMatchObject({
      refused: expect.stringContaining('no such clip'),
    });
  });
  it('refuses what it cannot read or do, with the sentence', () => {
    const half = { name: 'x.glb', bytes: castBytes('deckhand.glb').slice(0, 5000) };
    expect((runJob({ task: 'import', input: { files: [half] } }) as Refusal).refused).toMatch(/^x\.glb: /);
    const input = { wire: wireFor(tube()), brief: wants };
    expect(done('remedy', { ...input, remedy: 'set-on-ground', params: {} }).effects).toMatchObject({
      nodes: ['lower'],
      others: { largest: expect.any(Number), meshes: 1 },
    });
    const refused = runJob({
      task: 'remedy',
      input: { ...input, remedy: 'limit-influences', params: { limit: 0 } },
    });
    expect((refused as Refusal).refused).toMatch(/limit/);
  });
  it('names from files are data in the report, never markup', () => {
    const character = tube();
    const evil = {
      ...character,
      nodes: character.nodes.map((node, i) =>
        i === 1 ? { ...node, name: '<img src=x onerror=alert(1)>' } : node,
      ),
    };
    const { html } = done('report', {
      wire: wireFor(evil),
      brief: wants,
      picture: null,
      waivers: [],
      moment: { today: '2026-01-01' },
      facts: { title: '<b>x</b>', revision: 1, date: '2026-01-01', steps: [], pins: [] },
      handed: null,
    });
    expect(html).toContain('&#60;img src=x');
    expect(html).not.toContain('<img');
    expect(html).not.toContain('<b>x</b>');
  });
});

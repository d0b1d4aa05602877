/** Findings that are waived, in the database: over audits, steps and deliveries, on the shelf, in the report. */
import type { Kysely } from 'kysely';
import { POST as trial } from '@/app/api/briefs/[id]/trial/route';
import { POST as deliver } from '@/app/api/characters/[id]/deliveries/route';
import { POST as moveHead } from '@/app/api/characters/[id]/head/route';
import { POST as waive, GET as waiverFile } from '@/app/api/characters/[id]/waivers/route';
import { POST as bring } from '@/app/api/characters/[id]/waivers/file/route';
import { POST as withdraw } from '@/app/api/characters/[id]/waivers/[waiver]/withdrawal/route';
import { POST as copy } from '@/app/api/characters/[id]/copies/route';
import { POST as remedy } from '@/app/api/characters/[id]/steps/remedy/route';
import { GET as report } from '@/app/api/revisions/[id]/report/route';
import { type Counts, countGravity } from '@/core/contracts/finding';
import { type Waiver, waiversFrom } from '@/core/contracts/waiver';
import { type Brief, briefKey } from '@/core/house/brief';
import { audit, checksInMotion } from '@/core/house/audit';
import { BRIEFS } from '@/core/house/briefs';
import { escapeHtml } from '@/core/rooms/docket/report';
import { toldOn } from '@/server/audits';
import { characterById, listCharacters } from '@/server/characters';
import type { Database } from '@/server/database';
import { standing } from '@/server/waivers';
import { castBytes, castCharacter } from '../core/support/cast';
import { answered, arriveAs, houseWithWorker, lastLine, on, sent, upload } from './support/asking';

jest.mock('piscina', () => jest.requireActual('./support/threads'));

const house = houseWithWorker('bough_waivers');
let db: Kysely<Database>;
beforeAll(() => {
  db = house();
});

const ferry: Brief = { ...BRIEFS[0], version: 1 };
const said = { reason: 'the lamp is meant to be small', by: 'R. Lindqvist' };

/** The Deckhand with its faults, its findings, and how it stands on the shelf. */
async function deckhand() {
  const { id, revision } = await arriveAs(db, 'deckhand.glb', ferry);
  const told = (await toldOn(db, revision, briefKey(ferry))) ?? [];
  return { id, revision, told, stops: told.filter((finding) => finding.gravity === 'stops') };
}
const entryOf = async (id: string) => (await listCharacters(db)).find((character) => character.id === id)!;
const headCounts = async (id: string) => {
  const { revisions, head } = await characterById(db, id);
  return revisions.find((revision) => revision.id === head)?.counts;
};
const waived = async (id: string, revision: string, keys: readonly string[], more = {}) =>
  answered(await on(waive, sent('POST', { revision, keys, ...said, ...more }), { id }));
const delivered = async (id: string, file: string, name = file) => {
  const { head } = await characterById(db, id);
  const line = await lastLine(
    await on(deliver, upload([[name, castBytes(`${file}`)]], { base: head }), { id }),
  );
  expect(line).toMatchObject({ stage: 'done' });
};

it('what is waived stops nothing any more, on the shelf, in the record and in the report, until it is withdrawn', async () => {
  const { id, revision, told, stops } = await deckhand();
  expect(stops.length).toBeGreaterThan(1);
  const { status, body } = await waived(
    id,
    revision,
    stops.map((stop) => stop.key),
  );
  expect(status).toBe(201);
  const entry = await entryOf(id);
  expect([entry.counts?.stops, entry.waived]).toEqual([0, stops.length]);
  expect(entry.counts?.worth).toBe(told.filter((finding) => finding.gravity === 'worth').length);
  expect((await headCounts(id))?.stops).toBe(0);
  const html = await (await on(report, sent('GET'), { id: revision })).text();
  // Nobody has waived what shows when it is moved; the report tries that as well.
  const moved = audit(castCharacter('deckhand.glb'), ferry, { checks: checksInMotion(ferry) });
  const inMotion = moved.filter((finding) => finding.gravity === 'stops');
  expect(inMotion.length).toBeGreaterThan(1);
  expect(html).toContain(`◆ ${inMotion.length} findings stop hand-off`);
  for (const { message } of inMotion) expect(html).toContain(escapeHtml(message));
  expect(html).toContain('<h2>In motion</h2>');
  expect(html).toContain(`${stops.length} waived`);
  expect(html.match(/<s>/g)).toHaveLength(stops.length);
  expect(html).toContain('R. Lindqvist');
  expect(html).toContain('the lamp is meant to be small');
  const back = await on(withdraw, sent('POST', { by: 'A lead' }), { id, waiver: body.waivers[0].id });
  expect((await answered(back)).body.waivers[0].withdrawn).toMatchObject({ by: 'A lead' });
  expect((await entryOf(id)).counts?.stops).toBe(stops.length);
  // The ledger keeps both.
  expect((await characterById(db, id)).waivers).toHaveLength(1);
});

it('what shows in motion can be waived too: it is tried again for it', async () => {
  const { id, revision } = await arriveAs(db, 'stoker.dae', ferry);
  const [found] = audit(castCharacter('stoker.dae'), ferry, {
    checks: checksInMotion(ferry).filter((check) => check.id === 'goes-through'),
  });
  const { status, body } = await waived(id, revision, [found.key]);
  expect([status, body.waivers[0].waiver.keys]).toEqual([201, [found.key]]);
  expect((await waived(id, revision, ['goes-through/bone/Nobody'])).status).toBe(409);
});

it('holds over steps and over new deliveries, and is needed no longer when the finding is gone', async () => {
  const { id, revision, stops } = await deckhand();
  await waived(
    id,
    revision,
    stops.map((stop) => stop.key),
  );
  const step = { base: revision, remedy: 'limit-influences', params: { limit: 4 } };
  const done = await answered(await on(remedy, sent('POST', step), { id }));
  expect(done.status).toBe(201);
  expect((await headCounts(id))?.stops).toBe(0);
  await delivered(id, 'deckhand.glb', 'deckhand_v2.glb');
  expect((await headCounts(id))?.stops).toBe(0);
  expect((await entryOf(id)).waived).toBeGreaterThan(0);
  await delivered(id, 'deckhand-clean.glb');
  const clean = await entryOf(id);
  expect([clean.counts?.stops, clean.waived]).toEqual([0, 0]);
  // What it was waived on is as it was.
  const back = { base: (await characterById(db, id)).head, to: revision };
  await on(moveHead, sent('POST', back), { id });
  expect((await entryOf(id)).waived).toBe(stops.length);
});

it('holds until its last revision, and no further', async () => {
  const { id, revision, stops } = await deckhand();
  await waived(id, revision, [stops[0].key], { untilRevision: 1 });
  expect((await headCounts(id))?.stops).toBe(stops.length - 1);
  await delivered(id, 'deckhand.glb');
  const { revisions } = await characterById(db, id);
  expect(revisions.map((revision) => revision.counts?.stops)).toEqual([stops.length - 1, stops.length]);
});

it('one that has grown since is open again', async () => {
  const { id, revision, stops } = await deckhand();
  await waived(id, revision, [stops[0].key]);
  const { waivers } = await characterById(db, id);
  const small: Waiver = { ...waivers[0].waiver, accepted: { [stops[0].key]: { count: -1 } } };
  await db
    .updateTable('waivers')
    .set({ waiver: JSON.stringify(small) })
    .where('id', '=', waivers[0].id)
    .execute();
  expect((await headCounts(id))?.stops).toBe(stops.length);
});

it('the same finding waived by four at once stands once', async () => {
  const { id, revision, stops } = await deckhand();
  const all = await Promise.all([1, 2, 3, 4].map(() => waived(id, revision, [stops[0].key])));
  expect(all.map((row) => row.status).sort()).toEqual([201, 409, 409, 409]);
  expect(all.find((row) => row.status === 409)?.body.message).toMatch(/^It is waived already, by /);
  expect((await characterById(db, id)).waivers).toHaveLength(1);
  // Together with one that is not waived, only that one is added.
  expect((await waived(id, revision, [stops[0].key, stops[1].key])).status).toBe(201);
  const { waivers } = await characterById(db, id);
  expect(waivers.map((waiver) => waiver.waiver.keys)).toEqual([[stops[0].key], [stops[1].key]]);
});

it('a character keeps no more of them than a page can take', async () => {
  const { id, revision, stops } = await deckhand();
  const row = {
    character_id: id,
    revision: 1,
    waiver: JSON.stringify({ keys: ['x'], ...said }),
    findings: '[]',
  };
  for (let i = 0; i < 10; i++)
    await db
      .insertInto('waivers')
      .values(Array.from({ length: 1000 }, () => row))
      .execute();
  expect(await waived(id, revision, [stops[0].key])).toMatchObject({
    status: 409,
    body: { message: expect.stringMatching(/10000 waivers at most.*Nothing was waived/) },
  });
});

it('goes out as the file that the command line takes, and comes along into a copy', async () => {
  const { id, revision, stops } = await deckhand();
  await waived(
    id,
    revision,
    stops.map((stop) => stop.key),
  );
  const file = await on(waiverFile, sent('GET'), { id });
  expect(file.headers.get('content-disposition')).toContain('waivers.json');
  const read = waiversFrom(await file.json());
  expect(read).toEqual(standing((await characterById(db, id)).waivers));
  const copied = await answered(await on(copy, sent('POST', { revision, name: 'another' }), { id }));
  expect((await entryOf(copied.body.id)).counts?.stops).toBe(0);
});

it('comes in from a file, as far as the character has its findings, and never twice', async () => {
  const [from, onto] = [await deckhand(), await deckhand()];
  await waived(
    from.id,
    from.revision,
    from.stops.map((stop) => stop.key),
  );
  const waivers = standing((await characterById(db, from.id)).waivers);
  const other: Waiver = { keys: ['of/another/character'], ...said };
  const past: Waiver = { ...waivers[0], until: '2020-01-01' };
  const bringing = async (revision: string) =>
    answered(
      await on(bring, sent('POST', { revision, waivers: [...waivers, other, past] }), { id: onto.id }),
    );
  const first = await bringing(onto.revision);
  expect(first).toMatchObject({ status: 201, body: { taken: 1, left: { known: 0, elsewhere: 1, over: 1 } } });
  expect((await entryOf(onto.id)).counts?.stops).toBe(0);
  const { waivers: stand } = await characterById(db, onto.id);
  expect(stand).toHaveLength(1);
  expect(stand[0]).toMatchObject({ waiver: waivers[0], revision: 1, withdrawn: null });
  expect(stand[0].findings.map((finding) => finding.key)).toEqual(waivers[0].keys);
  // As it is when somebody chooses the same file twice, and twice at once.
  const again = await Promise.all([bringing(onto.revision), bringing(onto.revision)]);
  for (const { body } of again)
    expect(body).toMatchObject({ taken: 0, left: { known: 1, elsewhere: 1, over: 1 } });
  expect((await characterById(db, onto.id)).waivers).toHaveLength(1);
  expect((await bringing(from.revision)).status).toBe(404);
  const wrong = sent('POST', { revision: onto.revision, waivers: [{ keys: [], ...said }] });
  expect((await answered(await on(bring, wrong, { id: onto.id }))).status).toBe(400);
});

it('as many as a file may hold come in, each with a reason of its own', async () => {
  const { id, revision, stops } = await deckhand();
  const waivers = Array.from({ length: 10_000 }, (_, i): Waiver => ({
    keys: [stops[i % stops.length].key],
    reason: `${said.reason}, ${i}`,
    by: said.by,
  }));
  const body = { revision, waivers };
  expect((await answered(await on(bring, sent('POST', body), { id }))).body.taken).toBe(waivers.length);
  expect((await answered(await on(bring, sent('POST', body), { id }))).body).toMatchObject({
    taken: 0,
    left: { known: waivers.length },
  });
  expect((await entryOf(id)).counts?.stops).toBe(0);
});

it('what is waived does not count where another version of the brief is tried', async () => {
  const { id, revision, stops, told } = await deckhand();
  await waived(
    id,
    revision,
    stops.map((stop) => stop.key),
  );
  const gentle: Brief = { ...ferry, checks: { ...ferry.checks, [stops[0].check]: 'note' } };
  const { body } = await answered(await on(trial, sent('POST', { brief: gentle }), { id: ferry.id }));
  const row = (body.rows as { id: string; now: Counts; then: Counts }[]).find((row) => row.id === id)!;
  const open = told.filter((finding) => finding.gravity !== 'stops');
  expect(row.now).toEqual(countGravity(open));
  expect(row.then).toEqual(countGravity(open));
});

it.each<[string, object, number, RegExp]>([
  ['a finding that is not there', { keys: ['no-such-check/character/x'] }, 409, /not there any more/],
  ['no reason', { reason: ' ' }, 400, /reason/],
  ['nobody', { by: '' }, 400, /by/],
  ['a day that has passed', { until: '2020-01-01' }, 400, /has passed/],
  ['a day that is none', { until: 'tomorrow' }, 400, /until/],
  ['a day that no calendar has', { until: '9999-02-31' }, 400, /until is no day of the calendar/],
])('refuses %s in one sentence, and waives nothing', async (_, more, status, words) => {
  const { id, revision, stops } = await deckhand();
  const refused = await waived(id, revision, [stops[0].key], more);
  expect(refused.status).toBe(status);
  expect(refused.body.message).toMatch(words);
  expect((await characterById(db, id)).waivers).toEqual([]);
});

it('refuses a revision of another character, and a waiver that is not there', async () => {
  const [a, b] = [await deckhand(), await deckhand()];
  expect((await waived(a.id, b.revision, [b.stops[0].key])).status).toBe(404);
  const nobody = '00000000-0000-4000-8000-000000000000';
  const gone = await on(withdraw, sent('POST', { by: 'x' }), { id: a.id, waiver: nobody });
  expect(gone.status).toBe(404);
});

/** Handing over: what is sealed, that it stays, and what it takes out again. */
import {
  chmodSync,
  existsSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { once } from 'node:events';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { unzipSync } from 'fflate';
import { type Kysely, sql } from 'kysely';
import { POST as handOver } from '@/app/api/characters/[id]/dockets/route';
import { POST as applyRemedy } from '@/app/api/characters/[id]/steps/remedy/route';
import { POST as waive } from '@/app/api/characters/[id]/waivers/route';
import { GET as handedMotion } from '@/app/api/characters/[id]/handed-motion/route';
import { GET as part } from '@/app/api/dockets/[id]/[part]/route';
import { GET as list } from '@/app/api/dockets/route';
import { GET as listKeys } from '@/app/api/keys/route';
import { POST as auditRevision } from '@/app/api/revisions/[id]/audit/route';
import { readCharacter } from '@/core/formats';
import { audit } from '@/core/house/audit';
import { type Brief, briefKey } from '@/core/house/brief';
import { BRIEFS } from '@/core/house/briefs';
import { type Docket, docketFrom, sealOf, signedText, verifyFile } from '@/core/house/docket';
import { isSignedBy } from '@/keys/ed25519';
import type { HandedMotion } from '@/core/contracts/handed-motion';
import { countGravity } from '@/core/contracts/finding';
import { compareContents, contentsOf } from '@/core/rooms/docket/contents';
import { itemsOf } from '@/core/rooms/docket/items';
import { toldOn } from '@/server/audits';
import { characterById, removeCharacter } from '@/server/characters';
import { printPdf } from '@/server/chromium';
import type { Database } from '@/server/database';
import { listDockets } from '@/server/dockets';
import { castCharacter } from '../core/support/cast';
import { twoPictures } from '../core/support/docket';
import { aborting, answered, arriveAs, houseWithWorker, lastLine, on, sent } from './support/asking';

jest.mock('piscina', () => jest.requireActual('./support/threads'));

const house = houseWithWorker('bough_dockets');
let db: Kysely<Database>;
beforeAll(() => {
  db = house();
});
afterAll(() => {
  delete process.env.BOUGH_CHROMIUM;
});

const ferry: Brief = { ...BRIEFS[0], version: 1 };
const handed = async (id: string, revision: string, more: object = {}) =>
  lastLine(await on(handOver, sent('POST', { revision, by: 'R. Lindqvist', ...more }), { id }));
const partOf = async (id: string, which: string) => {
  const response = await on(part, sent('GET'), { id, part: which });
  return { r: response, bytes: new Uint8Array(await response.arrayBuffer()) };
};
const motionOf = async (id: string) =>
  ((await (await on(handedMotion, sent('GET'), { id })).json()) as { motion: HandedMotion | null }).motion;
const docketOf = async (id: string): Promise<Docket> =>
  docketFrom(JSON.parse(new TextDecoder().decode((await partOf(id, 'docket')).bytes)));

it('what is handed over is written, read back and audited; docket, file and report belong together', async () => {
  const { id, revision } = await arriveAs(db, 'deckhand.glb', ferry);
  const told = (await toldOn(db, revision, briefKey(ferry))) ?? [];
  const stops = told.filter((finding) => finding.gravity === 'stops').map((finding) => finding.key);
  const words = { reason: 'as agreed', by: 'A lead' };
  await on(waive, sent('POST', { revision, keys: [stops[0]], ...words }), { id });
  const line = await handed(id, revision, { note: 'for the night build', receiver: 'handset' });
  expect(line).toMatchObject({ stage: 'done', name: 'deckhand.glb' });
  const docket = await docketOf(String(line.id));
  expect(sealOf(docket)).toBe(docket.seal);
  // Signed with the key that the house shows, which the report prints.
  const { keys } = (await (await on(listKeys, sent('GET'), {})).json()) as { keys: { key: string }[] };
  expect(docket.signature?.key).toBe(keys[0].key);
  expect(isSignedBy(keys[0].key, signedText(docket), docket.signature?.value ?? '')).toBe(true);
  expect(
    isSignedBy(
      keys[0].key,
      signedText({ ...docket, seal: docket.files[0].sha256 }),
      docket.signature?.value ?? '',
    ),
  ).toBe(false);
  const report = new TextDecoder().decode((await partOf(String(line.id), 'report')).bytes);
  expect(report).toContain(keys[0].key);
  expect(docket).toMatchObject({
    by: 'R. Lindqvist',
    note: 'for the night build',
    brief: { id: 'handset', version: 1 },
    character: { revision: 1 },
    leftOut: [],
    waived: [{ reason: 'as agreed', by: 'A lead' }],
    receiver: { title: expect.any(String) },
  });
  // What the docket says was found is what is found on its very file.
  const { bytes } = await partOf(String(line.id), 'file');
  const found = audit(readCharacter([{ name: 'deckhand-r1.glb', bytes }]), ferry, { isMoved: true });
  const open = found.filter((finding) => !docket.waived.some((waived) => waived.finding.key === finding.key));
  expect(docket.counts).toEqual(countGravity(open));
  expect(docket.findings.map((finding) => finding.key)).toEqual(open.map((finding) => finding.key));
  expect(verifyFile(docket, { name: 'x.glb', bytes }).same).toBe(docket.files[0].name);
  expect(docket.contents.length).toBeGreaterThan(50);
  expect(compareContents(docket.contents, contentsOf(readCharacter([{ name: 'x.glb', bytes }])))).toEqual([]);
  const bent = bytes.slice();
  bent[bytes.length >> 1] ^= 1;
  expect(verifyFile(docket, { name: 'x.glb', bytes: bent }).same).toBeNull();
  const html = new TextDecoder().decode((await partOf(String(line.id), 'report')).bytes);
  for (const words of [docket.files[0].sha256, 'for the night build', 'as agreed', 'version 1'])
    expect(html).toContain(words);
});

it('how it bends is sealed with it, and whatever is handed over later is held against that', async () => {
  const { id, revision } = await arriveAs(db, 'deckhand-clean.glb', ferry);
  expect(await motionOf(id)).toBeNull();
  const first = await handed(id, revision);
  const { motion } = await docketOf(String(first.id));
  expect(motion!.rows.length).toBeGreaterThan(200);
  expect(await motionOf(id)).toEqual(motion);

  // Softened at an elbow, and tried in motion: both revisions, each held against what went out.
  const bone = castCharacter('deckhand-clean.glb').nodes.findIndex(({ name }) => name === 'arm_lower_rt');
  const step = { base: revision, remedy: 'set-band', params: { bone, width: 0.2 } };
  expect((await answered(await on(applyRemedy, sent('POST', step), { id }))).status).toBe(201);
  const { head } = await characterById(db, id);
  const key = briefKey(ferry);
  for (const one of [revision, head])
    await lastLine(
      await on(
        auditRevision,
        new Request(`http://127.0.0.1/?brief=${ferry.id}&moved=true`, { method: 'POST' }),
        {
          id: one,
        },
      ),
    );
  const worseOn = async (one: string) =>
    (await toldOn(db, one, key))?.filter(({ check }) => check === 'bends-worse').map(({ key }) => key);
  expect(await worseOn(revision)).toEqual([]);
  expect(await worseOn(head)).toContain('bends-worse/bone/arm_lower_rt');

  // It goes out as it is, and the docket says so; from then on it is what others are held against.
  const second = await docketOf(String((await handed(id, head)).id));
  expect(second.findings.map(({ key }) => key)).toContain('bends-worse/bone/arm_lower_rt');
  expect(await motionOf(id)).toEqual(second.motion);
  for (const one of [revision, head]) expect(await toldOn(db, one, key)).toBeNull();
  const third = await docketOf(String((await handed(id, head)).id));
  expect(third.findings.filter(({ check }) => check === 'bends-worse')).toEqual([]);
});

it('what is left out on purpose is not in the file, and is listed', async () => {
  const { id, revision } = await arriveAs(db, 'deckhand.glb', ferry);
  const items = itemsOf(castCharacter('deckhand.glb'));
  const some = items.filter((item) => item.kind !== 'prop' && item.kind !== 'clip').map((item) => item.id);
  const line = await handed(id, revision, { items: some });
  const docket = await docketOf(String(line.id));
  expect(docket.leftOut.map((item) => item.name).sort()).toEqual([
    'hail the quay',
    'patrol loop',
    'storm lantern',
  ]);
  const { bytes } = await partOf(String(line.id), 'file');
  const back = readCharacter([{ name: 'x.glb', bytes }]);
  expect([back.clips.length, back.nodes.some((node) => node.name === 'storm lantern')]).toEqual([0, false]);
  expect(back.nodes.some((node) => node.name === 'oilskin coat')).toBe(true);
});

it('COLLADA goes out as well, with the same docket over it', async () => {
  const { id, revision } = await arriveAs(db, 'capstan.glb', ferry);
  const line = await handed(id, revision, { format: 'dae' });
  const docket = await docketOf(String(line.id));
  const { bytes } = await partOf(String(line.id), 'file');
  expect(docket.files[0].name).toMatch(/\.dae$/);
  expect(verifyFile(docket, { name: docket.files[0].name, bytes }).same).toBe(docket.files[0].name);
});

it('a format that wants several files goes out as a zip, which the docket knows like the files in it', async () => {
  const { id, revision } = await arriveAs(db, 'signs.glb', ferry, await twoPictures());
  const line = await handed(id, revision, { format: 'dae' });
  const docket = await docketOf(String(line.id));
  const { bytes, r: response } = await partOf(String(line.id), 'file');
  expect(response.headers.get('content-disposition')).toMatch(/-dae\.zip/);
  expect(docket.files.map((file) => file.name.replace(/^.*\./, '')).sort()).toEqual([
    'dae',
    'png',
    'png',
    'zip',
  ]);
  expect(verifyFile(docket, { name: 'x.zip', bytes }).same).toBe(docket.files[0].name);
  for (const [name, inside] of Object.entries(unzipSync(bytes)))
    expect(verifyFile(docket, { name, bytes: inside }).same).toBe(name);
});

it('a docket is never changed, and outlives its character', async () => {
  const { id, revision } = await arriveAs(db, 'capstan.glb', ferry);
  const line = await handed(id, revision);
  const docket = String(line.id);
  await expect(sql`update dockets set by = 'somebody else' where id = ${docket}`.execute(db)).rejects.toThrow(
    /never changed/,
  );
  await expect(sql`delete from dockets where id = ${docket}`.execute(db)).rejects.toThrow(/never changed/);
  const before = await docketOf(docket);
  await removeCharacter(db, id);
  expect(await docketOf(docket)).toEqual(before);
  expect((await partOf(docket, 'file')).r.status).toBe(200);
  expect((await listDockets(db, id)).map((docket) => docket.id)).toEqual([docket]);
});

it('the list tells all of them, the newest first, or those of one character', async () => {
  const { id, revision } = await arriveAs(db, 'capstan.glb', ferry);
  const [first, second] = [await handed(id, revision), await handed(id, revision, { note: 'again' })];
  const all = (await answered(await on(list, sent('GET')))).body.dockets;
  expect(all.length).toBeGreaterThan(2);
  expect(all[0]).toMatchObject({ id: second.id, note: 'again', brief: 'handset@1', by: 'R. Lindqvist' });
  const mine = (await answered(await on(list, sent('GET', undefined, `?character=${id}`)))).body.dockets;
  expect(mine.map((d: { id: string }) => d.id)).toEqual([second.id, first.id]);
});

it.each<[string, object, RegExp]>([
  ['nobody', { by: ' ' }, /by/],
  ['a format that cannot be audited as it is', { format: 'obj' }, /format/],
  ['a receiver that is none', { receiver: '{}' }, /receiver/],
])('refuses %s, and seals nothing', async (_, more, words) => {
  const { id, revision } = await arriveAs(db, 'capstan.glb', ferry);
  const row = await answered(await on(handOver, sent('POST', { revision, by: 'x', ...more }), { id }));
  expect(row.status).toBe(400);
  expect(row.body.message).toMatch(words);
  expect(await listDockets(db, id)).toEqual([]);
});

it('what cannot be done is one sentence in the last line: nothing chosen, a revision of somebody else', async () => {
  const a = await arriveAs(db, 'capstan.glb', ferry);
  const b = await arriveAs(db, 'capstan.glb', ferry);
  expect(await handed(a.id, a.revision, { items: ['mesh/nobody/0'] })).toMatchObject({
    stage: 'refused',
    message: 'Nothing was chosen to be handed over; choose something.',
  });
  expect(await handed(a.id, b.revision)).toEqual({
    message: 'That revision does not belong to this character; reload the page.',
  });
  expect(await listDockets(db, a.id)).toEqual([]);
});

const until = async (what: () => boolean) => {
  for (let i = 0; i < 10_000 && !what(); i++) await new Promise((done) => setTimeout(done, 20));
  expect(what()).toBe(true);
};

describe('the report as PDF', () => {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'bough-chromium-'));
  afterAll(() => rmSync(folder, { recursive: true }));
  const chromium = (script: string) => {
    const file = path.join(folder, 'chromium');
    writeFileSync(file, `#!/bin/sh\n${script}\n`);
    chmodSync(file, 0o755);
    process.env.BOUGH_CHROMIUM = file;
  };
  let docket = '';
  // What was printed once is kept: each test prints another report.
  let notes = 0;
  beforeEach(async () => {
    const { id, revision } = await arriveAs(db, 'capstan.glb', ferry);
    docket = String((await handed(id, revision, { note: `print ${notes++}` })).id);
  });
  /** The Chromium of this machine, with its number written down first. */
  const real = (numbers: string) => chromium(`echo $$ >> ${numbers}; exec /usr/bin/chromium "$@"`);
  const numbersIn = (file: string) => readFileSync(file, 'utf8').trim().split('\n');
  const left = () => readdirSync(os.tmpdir()).filter((file) => file.startsWith('bough-print-'));

  it('is what Chromium prints of the report that was sealed, once, and is there from then on', async () => {
    const [numbers, before] = [path.join(folder, 'once'), left()];
    real(numbers);
    const all = await Promise.all(Array.from({ length: 6 }, () => partOf(docket, 'pdf')));
    process.env.BOUGH_CHROMIUM = path.join(folder, 'nowhere');
    all.push(await partOf(docket, 'pdf'));
    for (const { r: response, bytes } of all) {
      expect([response.status, response.headers.get('content-type')]).toEqual([200, 'application/pdf']);
      expect(response.headers.get('content-disposition')).toMatch(/report\.pdf/);
      expect(Buffer.from(bytes).equals(Buffer.from(all[0].bytes))).toBe(true);
    }
    expect(Buffer.from(all[0].bytes).subarray(0, 5).toString()).toBe('%PDF-');
    expect(numbersIn(numbers)).toHaveLength(1);
    // Nothing of the printing stays behind.
    expect(left()).toEqual(before);
  });
  it('shows what the page carries, runs none of its scripts and asks nobody', async () => {
    let asked = 0;
    const server = createServer((_, row) => row.end(String(asked++))).listen(0, '127.0.0.1');
    await once(server, 'listening');
    const there = `http://127.0.0.1:${(server.address() as AddressInfo).port}/`;
    const secret = path.join(folder, 'secret.html');
    writeFileSync(secret, '<p style="break-after: page">1</p>'.repeat(9));
    const page = `<html><head><link rel="stylesheet" href="${there}"></head><body>
      <img src="${there}"><iframe src="${there}"></iframe><iframe src="file://${secret}"></iframe>
      ${'<p style="break-after: page">a page</p>'.repeat(4)}<p>and a fifth</p>
      <script>document.body.textContent = 'one page'; fetch(${JSON.stringify(there)})</script>
      <meta http-equiv="refresh" content="0;url=${there}"></body></html>`;
    process.env.BOUGH_CHROMIUM = '/usr/bin/chromium';
    const pdf = await printPdf(new TextEncoder().encode(page), 60);
    server.close();
    expect(
      Buffer.from(pdf)
        .toString('latin1')
        .match(/\/Type \/Page\b/g),
    ).toHaveLength(5);
    expect(asked).toBe(0);
  });
  it('ends with whoever asked for it, with all processes that it has begun', async () => {
    const numbers = path.join(folder, 'numbers');
    real(numbers);
    const gone = new AbortController();
    const request = new Proxy(sent('GET'), aborting(gone.signal));
    const asking = on(part, request, { id: docket, part: 'pdf' });
    await until(() => existsSync(numbers) && numbersIn(numbers).length === 1);
    gone.abort();
    expect(await answered(await asking)).toMatchObject({ status: 499 });
    // All that Chromium begins is of its group.
    const group = numbersIn(numbers)[0];
    const isLeft = (pid: string) => {
      const file = `/proc/${pid}/stat`;
      if (!/^\d+$/.test(pid) || !existsSync(file)) return false;
      const [state, , ofGroup] = readFileSync(file, 'utf8').replace(/.*\) /, '').split(' ');
      return state !== 'Z' && ofGroup === group;
    };
    await until(() => !readdirSync('/proc').some(isLeft));
    await until(() => !left().some((file) => file.startsWith(`bough-print-${process.pid}-`)));
  });
  it('a page that never ends printing is given up in time', async () => {
    chromium('sleep 300');
    await expect(printPdf(new TextEncoder().encode('<p>a'), 2)).rejects.toMatchObject({ status: 502 });
    expect(left().filter((file) => file.startsWith(`bough-print-${process.pid}-`))).toEqual([]);
  });
  it('where there is no Chromium, or it fails, is told in one sentence', async () => {
    process.env.BOUGH_CHROMIUM = path.join(folder, 'nowhere');
    const none = await answered(await on(part, sent('GET'), { id: docket, part: 'pdf' }));
    expect(none).toMatchObject({ status: 501, body: { message: expect.stringContaining('no Chromium') } });
    chromium('exit 3');
    const failed = await answered(await on(part, sent('GET'), { id: docket, part: 'pdf' }));
    expect(failed).toMatchObject({
      status: 502,
      body: { message: expect.stringContaining('could not print') },
    });
  });
  it('of a docket that is not there: 404; of a part that is none: 400', async () => {
    const nobody = '00000000-0000-4000-8000-000000000000';
    expect((await on(part, sent('GET'), { id: nobody, part: 'pdf' })).status).toBe(404);
    expect((await on(part, sent('GET'), { id: docket, part: 'secret' })).status).toBe(400);
  });
});

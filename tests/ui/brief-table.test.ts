/** A brief on the table: changed, held against characters, saved, taken back; what the server answers late or refuses. */
import type { Brief } from '@/core/house/brief';
import { PLAIN_FIGURE } from '@/core/house/plain-briefs';
import { changeAt, changeRule, idFor, openBrief, saveAsNew, standBeside, takeBack } from '@/ui/briefs/draft';
import { askTrial, removeThis, saveDraft, useTable } from '@/ui/briefs/draft';
import { useBriefStore } from '@/ui/state/briefs';

const MINE: Brief = { ...PLAIN_FIGURE, id: 'mine', title: 'Mine', version: 3 };
const [beside, otherBeside, HEAD_A, HEAD_B] = [1, 2, 3, 4].map(
  (n) => `00000000-0000-4000-8000-00000000000${n}`,
);
const entry = (id: string, name: string, head: string | null, brief: string) => ({
  id,
  name,
  head,
  brief,
  updatedAt: '2026-11-27',
});

/** What was asked of the server, and what it says. */
let asked: { way: string; body: { brief?: Brief; base?: number } }[] = [];
let origin: 'own' | 'house' = 'own';
let shelf = [entry(beside, 'Ada', HEAD_A, 'handset'), entry(otherBeside, 'Bo', HEAD_B, 'mine')];
let refusal: string | null = null;
/** Answers about a revision wait until this is settled. */
let slow: Promise<void> | null = null;

async function answer(url: string, init: RequestInit = {}): Promise<Response> {
  const way = `${init.method ?? 'GET'} ${url}`;
  const body = init.body ? JSON.parse(String(init.body)) : {};
  asked.push({ way, body });
  if (way.startsWith('GET /api/characters')) return Response.json({ characters: shelf, briefs: {} });
  if (way === 'GET /api/briefs') return Response.json({ briefs: [{ brief: MINE, origin, users: [] }] });
  if (way === 'GET /api/briefs/mine')
    return Response.json({
      origin,
      versions: [3, 2].map((version) => ({ brief: { ...MINE, version }, at: 'x' })),
    });
  if (refusal) return Response.json({ message: refusal }, { status: 409 });
  if (url.endsWith('/standing')) {
    await slow;
    return Response.json({ measured: { of: url.split('/')[3] }, findings: [] });
  }
  if (url.endsWith('/trial')) {
    const counts = { stops: 0, worth: 0, note: 0 };
    return Response.json({
      rows: [{ id: otherBeside, name: 'Bo', now: counts, then: { ...counts, stops: 2 } }],
    });
  }
  if (init.method === 'PUT') return Response.json({ brief: { ...body.brief, version: body.base + 1 } });
  if (init.method === 'DELETE') return Response.json({ removed: true });
  return Response.json({ message: `nobody answers ${way}` }, { status: 404 });
}

const table = () => useTable.getState();
const ways = () => asked.map((a) => a.way);
/** As long as the hand must rest before anything is asked, and a little more. */
const rest = () => new Promise((resolve) => setTimeout(resolve, 420));
const given = { fetch: globalThis.fetch, localStorage: globalThis.localStorage };
const kept = new Map<string, string>();

beforeEach(() => {
  globalThis.fetch = answer as typeof fetch;
  kept.clear();
  Object.defineProperty(globalThis, 'localStorage', {
    configurable: true,
    value: {
      getItem: (key: string) => kept.get(key) ?? null,
      setItem: (key: string, v: string) => kept.set(key, v),
      removeItem: (key: string) => kept.delete(key),
    },
  });
  asked = [];
  origin = 'own';
  refusal = null;
  slow = null;
  shelf = [entry(beside, 'Ada', HEAD_A, 'handset'), entry(otherBeside, 'Bo', HEAD_B, 'mine')];
});
afterAll(() => {
  globalThis.fetch = given.fetch;
  Object.defineProperty(globalThis, 'localStorage', { configurable: true, value: given.localStorage });
});

it('lies there with its versions, and beside it a character that is held against it', async () => {
  await openBrief('mine', '');
  expect(table()).toMatchObject({
    saved: MINE,
    draft: MINE,
    origin: 'own',
    beside: otherBeside,
    isBusy: false,
  });
  expect(table().versions.map((version) => version.brief.version)).toEqual([3, 2]);
  await rest();
  expect(table().standing).toMatchObject({ measured: { of: HEAD_B } });
  // The one that was asked for stands there, whoever else is held against it.
  await openBrief('mine', beside);
  expect(table().beside).toBe(beside);
  // One without a revision cannot; any other that has one can.
  shelf = [entry(otherBeside, 'Bo', null, 'mine'), entry(beside, 'Ada', HEAD_A, 'handset')];
  await openBrief('mine', '');
  expect(table().beside).toBe(beside);
});

it('a change is asked about once the hand rests, and only the last one', async () => {
  await openBrief('mine', '');
  await rest();
  asked = [];
  changeAt('height.value', 1.7);
  changeAt('height.value', 1.8);
  changeAt('height.value', 1.9);
  await rest();
  expect(ways()).toEqual([`POST /api/revisions/${HEAD_B}/standing`]);
  expect(asked[0].body.brief).toMatchObject({ height: { value: 1.9 } });
  expect(table().saved).toBe(table().versions[0].brief);
});

it('an answer about a character that stands there no more is dropped', async () => {
  await openBrief('mine', '');
  let let_go = () => {};
  slow = new Promise((resolve) => (let_go = resolve));
  await rest();
  standBeside(beside);
  slow = null;
  await rest();
  expect(table().standing).toMatchObject({ measured: { of: HEAD_A } });
  let_go();
  await rest();
  expect(table().standing).toMatchObject({ measured: { of: HEAD_A } });
});

it('changes outlive the page until they are saved or taken back, for the version that they were made of', async () => {
  await openBrief('mine', '');
  changeRule('quads', 'off');
  await openBrief('mine', '');
  expect(table().draft?.checks).toMatchObject({ quads: 'off' });
  expect(table().said).toMatch(/not saved yet/);
  changeRule('quads', '');
  expect(table().draft?.checks ?? {}).not.toHaveProperty('quads');
  takeBack();
  expect(table().draft).toBe(table().saved);
  expect(kept.size).toBe(0);
  // A draft of an older version is none of this one.
  kept.set('brief mine', JSON.stringify({ ...MINE, version: 2, title: 'Older' }));
  await openBrief('mine', '');
  expect(table().draft?.title).toBe('Mine');
  kept.set('brief mine', '{');
  await openBrief('mine', '');
  expect(table().draft?.title).toBe('Mine');
  // One that came with the house is not changed here.
  kept.set('brief mine', JSON.stringify({ ...MINE, title: 'Bent' }));
  origin = 'house';
  await openBrief('mine', '');
  expect(table().draft?.title).toBe('Mine');
});

it('is saved as the next version of the one that it was made of; what the server refuses changes nothing', async () => {
  await openBrief('mine', '');
  changeAt('title', 'Mine, taller');
  refusal = 'Version 4 of this brief has come since.';
  expect(await saveDraft()).toBe(false);
  expect(table()).toMatchObject({ error: refusal, isBusy: false, saved: { version: 3 } });
  expect(table().draft?.title).toBe('Mine, taller');
  expect(kept.has('brief mine')).toBe(true);
  refusal = null;
  expect(await saveDraft()).toBe(true);
  const put = asked.findLast((a) => a.way === 'PUT /api/briefs');
  expect(put?.body).toMatchObject({ base: 3, brief: { title: 'Mine, taller' } });
  expect(table()).toMatchObject({ error: null, saved: { version: 4, title: 'Mine, taller' } });
  expect(table().draft).toBe(table().saved);
  expect(table().versions.map((version) => version.brief.version)).toEqual([4, 3, 2]);
  expect(table().said).toMatch(/^Saved as version 4\./);
  expect(kept.size).toBe(0);
  expect(useBriefStore.getState().entries).toHaveLength(1);
});

it('tells who would stand differently, until something else is changed', async () => {
  await openBrief('mine', '');
  changeAt('limits.influences', 1);
  expect(await askTrial()).toBe(true);
  expect(table().trial).toMatchObject([{ name: 'Bo', now: { stops: 0 }, then: { stops: 2 } }]);
  expect(asked.findLast((a) => a.way.endsWith('/trial'))?.body.brief).toMatchObject({
    limits: { influences: 1 },
  });
  changeAt('limits.influences', 2);
  expect(table().trial).toBeNull();
});

it('is made anew under a title, and removed; what fails is told and gives nothing', async () => {
  await openBrief('mine', '');
  expect(await saveAsNew(MINE, 'Ünder Öars, two!')).toBe('under-oars-two');
  expect(asked.findLast((a) => a.way === 'PUT /api/briefs')?.body).toMatchObject({
    base: 0,
    brief: { id: 'under-oars-two', title: 'Ünder Öars, two!' },
  });
  refusal = 'Two characters are held against it.';
  expect(await saveAsNew(MINE, 'Again')).toBeNull();
  expect(await removeThis()).toBe(false);
  expect(table().error).toBe(refusal);
  refusal = null;
  expect(await removeThis()).toBe(true);
  expect(ways()).toContain('DELETE /api/briefs/mine');
});

it('an id is made of any title, within what a path can hold', () => {
  for (const title of ['Night Ferry', '  ', '漢字', 'A'.repeat(300), '--x--', 'Größe 7½'])
    expect(idFor(title)).toMatch(/^[a-z0-9]([a-z0-9-]{0,58}[a-z0-9])?$/);
  expect(idFor('Ünder Öars')).toBe('under-oars');
  expect(idFor('漢字')).not.toBe(idFor('漢語'));
  expect(idFor('…')).toBe('brief');
});

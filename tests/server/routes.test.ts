/** The routes as the page calls them, on a database of their own; the worker's jobs run in this thread. */
import { randomUUID } from 'node:crypto';
import { unzipSync } from 'fflate';
import { sql } from 'kysely';
import { pack, unpack } from '@/core/character/bundle';
import { readCharacter } from '@/core/formats';
import { GET as shelf, POST as takeIn } from '@/app/api/characters/route';
import { DELETE as remove, GET as open, PATCH as change } from '@/app/api/characters/[id]/route';
import { POST as copies } from '@/app/api/characters/[id]/copies/route';
import { POST as handOver } from '@/app/api/characters/[id]/dockets/route';
import { POST as deliveryOn } from '@/app/api/characters/[id]/deliveries/[revision]/route';
import { POST as deliveries } from '@/app/api/characters/[id]/deliveries/route';
import { POST as addFiles } from '@/app/api/characters/[id]/files/route';
import { POST as head } from '@/app/api/characters/[id]/head/route';
import { POST as keepPose } from '@/app/api/characters/[id]/poses/route';
import { DELETE as dropPose } from '@/app/api/characters/[id]/poses/[pose]/route';
import { POST as pin } from '@/app/api/characters/[id]/pins/route';
import { DELETE as unpin, PATCH as namePin } from '@/app/api/characters/[id]/pins/[pin]/route';
import { POST as remedyStep } from '@/app/api/characters/[id]/steps/remedy/route';
import { POST as remapStep } from '@/app/api/characters/[id]/steps/remap/route';
import { POST as editStep } from '@/app/api/characters/[id]/steps/edit/route';
import { GET as findings, POST as audit } from '@/app/api/revisions/[id]/audit/route';
import { writeGlb } from '@/core/formats/gltf/write';
import { GET as file } from '@/app/api/revisions/[id]/file/route';
import { GET as report } from '@/app/api/revisions/[id]/report/route';
import { GET as manifest, PATCH as words } from '@/app/api/revisions/[id]/route';
import { POST as arrays } from '@/app/api/arrays/route';
import { GET as blob } from '@/app/api/blobs/[hash]/route';
import { GET as crosswalk, PUT as saveCrosswalk } from '@/app/api/crosswalks/route';
import { POST as survey } from '@/app/api/survey/route';
import { DELETE as cancelJob } from '@/app/api/jobs/[id]/route';
import { dropFiles } from '@/jobs/ask';
import { stopHearing } from '@/jobs/listen';
import { ALL_KINDS } from '@/jobs/kinds';
import { prepareQueue } from '@/jobs/queue';
import { Worker } from '@/jobs/worker';
import { listCharacters } from '@/server/characters';
import { database } from '@/server/database';
import { type Context, answer } from '@/server/http';
import { notesHeader } from '@/server/file-names';
import { bringBriefs } from '@/server/briefs';
import { migrate } from '@/server/migrations';
import type { Step } from '@/core/contracts/step';
import { skeletonOf } from '@/core/anatomy/skeleton';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { suggest } from '@/core/anatomy/suggest';
import { countGravity } from '@/core/contracts/finding';
import { audit as runAudit } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import { packPatches } from '@/core/house/edit';
import { isKeyInMotion } from '@/core/house/registry';
import { crosswalkToFile } from '@/core/rooms/crosswalk/file';
import { castBytes, castCharacter } from '../core/support/cast';
import { aborting } from './support/asking';
import { ownDatabase } from './support/database';

// What the pool would do on a thread of its own; a signal that is broken off before the job begins is heeded
// as there.
const mockAfter: { act: ((task: string) => Promise<void>) | null } = { act: null };
const mockBefore: { act: ((task: string) => Promise<void>) | null } = { act: null };
jest.mock('piscina', () => ({
  Piscina: class {
    async run(job: { task: string }, { signal }: { signal: AbortSignal }) {
      await new Promise((resolve) => setTimeout(resolve, 5));
      await mockBefore.act?.(job.task);
      if (signal.aborted) throw new Error('aborted');
      const answer = (jest.requireActual('./support/run-job') as { runJob: (j: unknown) => unknown }).runJob(
        job,
      );
      await mockAfter.act?.(job.task);
      return answer;
    }
  },
}));

let drop: () => Promise<void>;
let worker: Worker;
beforeAll(async () => {
  const own = await ownDatabase('bough_routes');
  process.env.DATABASE_URL = own.url;
  drop = own.drop;
  await migrate(database());
  await bringBriefs(database());
  await prepareQueue(database());
  worker = new Worker(database(), own.url, ALL_KINDS);
  await worker.start();
});
afterEach(() => {
  mockBefore.act = null;
  mockAfter.act = null;
});
afterAll(async () => {
  stopHearing();
  await worker.stop();
  await database().destroy();
  await drop();
});

type Handler = (request: Request, context: Context) => Promise<Response>;
const nowhere = '00000000-0000-4000-8000-000000000000';
const at = (path: string) => `http://127.0.0.1:4810${path}`;
const sent = (method: string, body: unknown, path = '/') =>
  new Request(at(path), {
    method,
    body: JSON.stringify(body),
    headers: { 'content-type': 'application/json', origin: 'http://127.0.0.1:4810', host: '127.0.0.1:4810' },
  });
const on = (handler: Handler, request: Request, params: Record<string, string>) =>
  handler(request, { params: Promise.resolve(params) });
const told = async (response: Response) =>
  (await response.text())
    .trim()
    .split('\n')
    .map((word) => JSON.parse(word) as Record<string, any>);
const refusal = async (response: Response) => ({
  status: response.status,
  message: ((await response.json()) as { message: string }).message,
});

function upload(
  files: readonly [string, Uint8Array | string][],
  fields: Record<string, string> = {},
): Request {
  const form = new FormData();
  for (const [key, field] of Object.entries(fields)) form.set(key, field);
  for (const [name, bytes] of files) form.append('files', new Blob([bytes as never]), name);
  return new Request(at('/'), { method: 'POST', body: form });
}

interface Sheet {
  id: string;
  name: string;
  brief: string;
  head: string;
  revisions: {
    id: string;
    number: number;
    label: string;
    step: Step;
    picture: string;
    counts: { stops: number } | null;
    parent: string | null;
    note: string;
  }[];
  pins: { id: string; from: object; to: object }[];
  poses: object[];
}

async function arrived(
  files: readonly [string, Uint8Array | string][],
  fields: Record<string, string> = {},
): Promise<Sheet> {
  const lines = await told(await takeIn(upload(files, fields)));
  expect(lines[lines.length - 1]).toMatchObject({ stage: 'done', share: 1 });
  return sheetOf(lines[lines.length - 1].id as string);
}
/** What ended jobs were sent with is taken away now and then; here at once. */
const settled = async () => {
  const ended = await database().selectFrom('jobs').select('id').where('ended_at', 'is not', null).execute();
  await dropFiles(
    database(),
    ended.map((j) => j.id),
  );
};
const sheetOf = async (id: string) => (await on(open, new Request(at('/')), { id })).json() as Promise<Sheet>;

const CRATE =
  'o crate\nv 0 0 0\nv 40 0 0\nv 40 60 0\nv 0 60 0\nv 0 0 30\nv 40 0 30\nv 40 60 30\nv 0 60 30\nf 1 4 3 2\nf 5 6 7 8\nf 1 2 6 5\nf 3 4 8 7\nf 1 5 8 4\nf 2 3 7 6\n';

describe('taking in', () => {
  it('tells how far it is, and the character stands on the shelf with what was found', async () => {
    const lines = await told(
      await takeIn(upload([['crate.obj', CRATE]], { unit: '0.01', brief: 'deck-gear' })),
    );
    expect(lines.map((line) => line.share)).toEqual(
      lines.map((line) => line.share).sort((a: number, b: number) => a - b),
    );
    expect(lines.map((line) => line.stage)).toEqual(expect.arrayContaining(['received', 'done']));
    const list = (await (await on(shelf, new Request(at('/')), {})).json()) as {
      characters: { id: string; name: string; counts: object; brief: string }[];
    };
    expect(list.characters.find((character) => character.id === lines[lines.length - 1].id)).toMatchObject({
      name: 'crate',
      brief: 'deck-gear',
      counts: lines[lines.length - 1].counts,
    });
  });
  it('what cannot be read is one sentence with its file, and nothing is saved', async () => {
    const before = await database().selectFrom('characters').select('id').execute();
    const lines = await told(
      await takeIn(upload([['broken.glb', castBytes('deckhand.glb').slice(0, 4000)]])),
    );
    expect(lines[lines.length - 1]).toMatchObject({
      stage: 'refused',
      message: expect.stringMatching(/^broken\.glb: /),
    });
    expect(await database().selectFrom('characters').select('id').execute()).toEqual(before);
  });
  const kept = async () => [
    await database().selectFrom('characters').select('id').orderBy('id').execute(),
    await database().selectFrom('blobs').select('hash').orderBy('hash').execute(),
  ];
  it.each(['before it is asked for', 'while it is read', 'when it has been read'])(
    'cancelled %s, nothing is saved',
    async (when) => {
      await settled();
      const before = await kept();
      const job = randomUUID();
      const stop = async () => {
        const answer = await on(cancelJob, sent('DELETE', undefined), { id: job });
        expect(await answer.json()).toEqual({ state: 'cancelled' });
      };
      if (when === 'before it is asked for') await stop();
      if (when === 'while it is read')
        mockBefore.act = (task) => (task === 'import' ? stop() : Promise.resolve());
      if (when === 'when it has been read')
        mockAfter.act = (task) => (task === 'import' ? stop() : Promise.resolve());
      const lines = await told(
        await takeIn(upload([['late.obj', CRATE.replace('crate', when).replace('60', '61')]], { job })),
      );
      expect(lines[lines.length - 1]).toMatchObject({
        stage: 'refused',
        message: expect.stringMatching(/cancelled/),
      });
      await settled();
      expect(await kept()).toEqual(before);
    },
  );
  it('where whoever asked has gone it is taken in all the same, once, however often it is asked for', async () => {
    const before = (await kept())[0].length;
    const job = randomUUID();
    const gone = new AbortController();
    const request = () => upload([['alone.obj', CRATE.replace('crate', 'alone')]], { job });
    const response = await takeIn(new Proxy(request(), aborting(gone.signal)));
    mockBefore.act = async () => gone.abort();
    const lines = await told(response);
    expect(lines[lines.length - 1].message).toMatch(/the work goes on/);
    mockBefore.act = null;
    const again = await told(await takeIn(request()));
    expect(again[again.length - 1]).toMatchObject({ stage: 'done', name: 'alone' });
    expect((await kept())[0].length).toBe(before + 1);
  });
  it('where whoever asked has gone before anything was asked for, nothing is', async () => {
    const before = await kept();
    const lines = await told(
      await takeIn(
        new Proxy(upload([['never.obj', CRATE.replace('60', '62')]]), aborting(AbortSignal.abort())),
      ),
    );
    expect(lines[lines.length - 1]).toMatchObject({
      stage: 'refused',
      message: expect.stringMatching(/broken off/),
    });
    expect(await kept()).toEqual(before);
  });
  it.each<[string, () => Request, number, RegExp]>([
    ['no files', () => upload([]), 400, /No file was chosen/],
    ['no form', () => sent('POST', {}), 400, /no files/],
    [
      'a brief that is not there',
      () => upload([['c.obj', CRATE]], { brief: 'nobody' }),
      404,
      /There is no brief “nobody” in the house/,
    ],
    ['a unit of nothing', () => upload([['c.obj', CRATE]], { unit: '0' }), 400, /positive/],
    ['an axis that is none', () => upload([['c.obj', CRATE]], { up: 'w' }), 400, /must be one of/],
  ])('%s is refused', async (_, request, status, message) =>
    expect(await refusal(await takeIn(request()))).toEqual({
      status,
      message: expect.stringMatching(message),
    }),
  );
  it('files are looked into without being kept', async () => {
    const blobs = await database().selectFrom('blobs').select('hash').execute();
    expect(await (await survey(upload([['crate.obj', CRATE]]))).json()).toMatchObject({
      size: [40, 60, 30],
      stated: { unit: false, upAxis: false },
      vertices: 8,
    });
    expect((await database().selectFrom('blobs').select('hash').execute()).length).toBe(blobs.length);
  });
});

describe('a character', () => {
  it('is renamed, given another brief, and removed with all that was its own', async () => {
    const { id } = await arrived([['crate.obj', CRATE]], { unit: '0.01' });
    expect(
      await (await on(change, sent('PATCH', { name: '  Tool chest ', brief: 'deck-gear' }), { id })).json(),
    ).toMatchObject({ name: 'Tool chest', brief: 'deck-gear' });
    expect(await refusal(await on(change, sent('PATCH', { brief: 'nobody' }), { id }))).toMatchObject({
      status: 404,
    });
    expect(await refusal(await on(change, sent('PATCH', { name: '   ' }), { id }))).toMatchObject({
      status: 400,
    });
    expect(await (await on(remove, new Request(at('/'), { method: 'DELETE' }), { id })).json()).toEqual({
      removed: true,
    });
    expect(await refusal(await on(open, new Request(at('/')), { id }))).toMatchObject({
      status: 404,
      message: expect.stringContaining('go back to the shelf'),
    });
  });
  it.each<[string, () => Promise<Response>, number]>([
    ['opened by no number', () => on(open, new Request(at('/')), { id: 'x; drop table characters' }), 400],
    ['opened, and not there', () => on(open, new Request(at('/')), { id: nowhere }), 404],
    ['changed, and not there', () => on(change, sent('PATCH', { name: 'x' }), { id: nowhere }), 404],
    [
      'a step, and not there',
      () => on(remedyStep, sent('POST', { base: nowhere, remedy: 'centre' }), { id: nowhere }),
      404,
    ],
    ['no JSON', () => on(head, new Request(at('/'), { method: 'POST', body: '{' }), { id: nowhere }), 400],
    ...['null', '[]', '"x"', '7', ''].map((body): [string, () => Promise<Response>, number] => [
      `a body of ${body || 'nothing'}`,
      () => on(head, new Request(at('/'), { method: 'POST', body }), { id: nowhere }),
      400,
    ]),
    ['an object for a name', () => on(change, sent('PATCH', { name: { a: 1 } }), { id: nowhere }), 400],
    ['a NUL in a name', () => on(change, sent('PATCH', { name: 'a\0b' }), { id: nowhere }), 400],
    ['half a letter in a note', () => on(words, sent('PATCH', { note: 'a\ud83d' }), { id: nowhere }), 400],
    [
      'a NUL deep in parameters',
      () =>
        on(remedyStep, sent('POST', { base: nowhere, remedy: 'x', params: { a: [{ 'b\0': 1 }] } }), {
          id: nowhere,
        }),
      400,
    ],
    ['a revision that is not there', () => on(manifest, new Request(at('/')), { id: nowhere }), 404],
    [
      'its findings',
      () => on(audit, new Request(at('/?brief=handset'), { method: 'POST' }), { id: nowhere }),
      404,
    ],
    ['its file', () => on(file, new Request(at('/')), { id: nowhere }), 404],
    ['its report', () => on(report, new Request(at('/')), { id: nowhere }), 404],
    ['words on it', () => on(words, sent('PATCH', { note: 'x' }), { id: nowhere }), 404],
    ['no words at all', () => on(words, sent('PATCH', {}), { id: nowhere }), 400],
    ['a copy of it', () => on(copies, sent('POST', { revision: nowhere, name: 'x' }), { id: nowhere }), 404],
    ['an array that is not there', () => on(arrays, sent('POST', { hashes: ['0'.repeat(64)] }), {}), 404],
    ['an address that is none', () => on(blob, new Request(at('/')), { hash: '../etc/passwd' }), 400],
    ['a picture that is not there', () => on(blob, new Request(at('/')), { hash: 'f'.repeat(64) }), 404],
    ['a crosswalk of no two skeletons', () => on(crosswalk, new Request(at('/?source=x&target=y')), {}), 400],
    ['a crosswalk that is none', () => on(saveCrosswalk, sent('PUT', { source: 'x' }), {}), 400],
  ])('%s: one sentence', async (_, ask, status) => {
    const row = await refusal(await ask());
    expect(row.status).toBe(status);
    expect(row.message).toMatch(/^[A-Z].*\.$/);
  });
});

describe('steps', () => {
  it('a remedy makes a revision that says what changed; the old one is refused as a base, and undo leads back', async () => {
    const sheet = await arrived([['crate.obj', CRATE]], { unit: '0.01' });
    const step = (base: string, remedy: string, params: object) =>
      on(remedyStep, sent('POST', { base, remedy, params }), { id: sheet.id });
    const made = await step(sheet.head, 'rescale', { by: 'factor', factor: 2 });
    expect(made.status).toBe(201);
    expect(await made.json()).toMatchObject({
      revision: { number: 2 },
      effects: { scale: 2, meshes: ['crate'], others: { largest: expect.any(Number), meshes: 1 } },
    });
    const late = await step(sheet.head, 'rescale', { by: 'factor', factor: 3 });
    expect(late.status).toBe(409);
    expect(await late.json()).toMatchObject({
      message: expect.stringMatching(/revision 1, and revision 2/),
      base: { number: 1 },
      head: { number: 2 },
    });
    const now = await sheetOf(sheet.id);
    expect(await refusal(await step(now.head, 'nothing-known', {}))).toEqual({
      status: 400,
      message: 'There is no remedy “nothing-known”.',
    });
    expect(await refusal(await step(now.head, 'rescale', { by: 'factor', factor: -1 }))).toMatchObject({
      status: 422,
    });
    expect(
      await (await on(head, sent('POST', { base: now.head, to: sheet.head }), { id: sheet.id })).json(),
    ).toMatchObject({ head: sheet.head });
    expect(
      await refusal(await on(head, sent('POST', { base: now.head, to: sheet.head }), { id: sheet.id })),
    ).toMatchObject({ status: 409 });
    expect((await sheetOf(sheet.id)).revisions.length).toBe(2);
  });
  it('pins hold on to their node though several share its name, or none has one', async () => {
    const sheet = await arrived([['crate.obj', CRATE]], { unit: '0.01' });
    const end = (node: string, vertex: number, nth?: number) => ({
      kind: 'vertex',
      node,
      vertex,
      ...(nth ? { nth } : {}),
    });
    const response = await on(pin, sent('POST', { from: end('crate', 0), to: end('', 2, 1) }), {
      id: sheet.id,
    });
    expect(response.status).toBe(201);
    const { pins } = (await response.json()) as Sheet;
    expect(pins).toMatchObject([{ label: '', from: end('crate', 0), to: end('', 2, 1) }]);
    expect(
      await refusal(
        await on(pin, sent('POST', { from: end('crate', -1), to: end('crate', 1) }), { id: sheet.id }),
      ),
    ).toMatchObject({ status: 400 });
    expect(
      await refusal(
        await on(pin, sent('POST', { from: { kind: 'vertex', node: 'crate' }, to: end('crate', 1) }), {
          id: sheet.id,
        }),
      ),
    ).toMatchObject({ status: 400 });
    const named = (label: unknown, which: string) =>
      on(namePin, sent('PATCH', { label }, `/?pin=${which}`), { id: sheet.id });
    expect(await (await named('  edge of the lid ', pins[0].id)).json()).toMatchObject({
      pins: [{ label: 'edge of the lid' }],
    });
    expect(await refusal(await named('x'.repeat(200), pins[0].id))).toMatchObject({ status: 400 });
    expect(await refusal(await named('x', nowhere))).toMatchObject({
      status: 404,
      message: expect.stringContaining('not pinned any more'),
    });
    expect(
      await (
        await on(unpin, new Request(at(`/?pin=${pins[0].id}`), { method: 'DELETE' }), { id: sheet.id })
      ).json(),
    ).toMatchObject({ pins: [] });
  });
  it('a pose is kept by name, replaced by one of the same name, and let go', async () => {
    const sheet = await arrived([['crate.glb', castBytes('capstan.glb')]]);
    const turn = { name: 'barrel', nth: 0, turn: [0, 0, 0.6, 0.8] };
    const keep = (body: object) => on(keepPose, sent('POST', body), { id: sheet.id });
    const first = await keep({ name: ' wave ', turns: [turn], moment: null });
    expect(first.status).toBe(201);
    expect((await first.json()).poses).toMatchObject([{ name: 'wave', turns: [turn], moment: null }]);
    const moment = { clip: 'walk it round', time: 0.5 };
    const { poses } = await (await keep({ name: 'wave', turns: [], moment })).json();
    expect(poses).toMatchObject([{ name: 'wave', turns: [], moment }]);
    for (const wrong of [
      { name: '', turns: [turn], moment: null },
      { name: 'long', turns: [{ ...turn, turn: [0, 0, 2, 0] }], moment: null },
      { name: 'short', turns: [{ ...turn, turn: [0, 1] }], moment: null },
    ])
      expect(await refusal(await keep(wrong))).toMatchObject({ status: 400 });
    const gone = new Request(at(`/?pose=${poses[0].id}`), { method: 'DELETE' });
    expect(await (await on(dropPose, gone, { id: sheet.id })).json()).toMatchObject({ poses: [] });
  });
  it('a revision is saved under a new name; one of another character is not', async () => {
    const a = await arrived([['crate.obj', CRATE]], { unit: '0.01' });
    const b = await arrived([['crate.obj', CRATE]], { unit: '0.1' });
    const pose = { name: 'as delivered', turns: [], moment: { clip: 'none', time: 0 } };
    await on(keepPose, sent('POST', pose), { id: a.id });
    const made = (await (
      await on(copies, sent('POST', { revision: a.head, name: 'Copy' }), { id: a.id })
    ).json()) as { id: string };
    const copy = await sheetOf(made.id);
    expect(copy.revisions).toMatchObject([
      { number: 1, step: { kind: 'copy', from: { character: 'crate', revision: 1 } } },
    ]);
    // What is kept with a character goes along, and stays with the first one.
    expect(copy.poses).toMatchObject([pose]);
    expect((await sheetOf(a.id)).poses).toMatchObject([pose]);
    expect(
      await refusal(await on(copies, sent('POST', { revision: a.head, name: 'Copy' }), { id: b.id })),
    ).toMatchObject({ status: 404 });
  });
  it('words are written on a revision, and what it holds stays', async () => {
    const sheet = await arrived([['crate.obj', CRATE]], { unit: '0.01' });
    const before = await (await on(manifest, new Request(at('/')), { id: sheet.head })).text();
    expect(
      await (
        await on(words, sent('PATCH', { label: ' first look ', note: 'ask for <b>the lid</b>' }), {
          id: sheet.head,
        })
      ).json(),
    ).toEqual({ saved: true });
    expect((await sheetOf(sheet.id)).revisions[0]).toMatchObject({
      label: 'first look',
      note: 'ask for <b>the lid</b>',
    });
    expect(await (await on(manifest, new Request(at('/')), { id: sheet.head })).text()).toBe(before);
  });
});

describe('audits', () => {
  it('the one of the arrival is there; one under another brief is made when asked for, told line by line, and kept', async () => {
    const sheet = await arrived([['crate.obj', CRATE]], { unit: '0.01', brief: 'handset' });
    const under = (brief: string, method = 'GET') => new Request(at(`/?brief=${brief}`), { method });
    expect((await on(findings, under('handset'), { id: sheet.head })).status).toBe(200);
    expect((await on(findings, under('deck-gear'), { id: sheet.head })).status).toBe(204);
    expect(await refusal(await on(findings, under('nobody'), { id: sheet.head }))).toMatchObject({
      status: 404,
    });
    const lines = await told(await on(audit, under('deck-gear', 'POST'), { id: sheet.head }));
    expect(lines[lines.length - 1]).toMatchObject({ stage: 'done', counts: { stops: expect.any(Number) } });
    const kept = unpack(await (await on(findings, under('deck-gear'), { id: sheet.head })).arrayBuffer()) as {
      check: string;
      gravity: string;
    }[];
    expect(kept.filter((f) => f.gravity === 'stops').length).toBe(lines[lines.length - 1].counts.stops);
    expect(kept.map((f) => f.check)).toContain('height');
  });
  it('tried in motion, what shows then is among what is kept, and the shelf tells of whom that is so', async () => {
    const brief = briefById('handset')!;
    const character = castCharacter('deckhand.glb');
    const sheet = await arrived([['deckhand.glb', castBytes('deckhand.glb')]], { brief: 'handset' });
    const entry = async () => (await listCharacters(database())).find(({ id }) => id === sheet.id);
    expect(await entry()).toMatchObject({ moved: false, counts: countGravity(runAudit(character, brief)) });
    const asked = new Request(at('/?brief=handset&moved=true'), { method: 'POST' });
    const lines = await told(await on(audit, asked, { id: sheet.head }));
    const all = runAudit(character, brief, { isMoved: true });
    expect(all.some(({ key }) => isKeyInMotion(key))).toBe(true);
    expect(lines[lines.length - 1]).toMatchObject({ stage: 'done', counts: countGravity(all) });
    expect(await entry()).toMatchObject({ moved: true, counts: countGravity(all) });
    // The step after it was not tried: nothing of what it does in motion is known.
    const body = { base: sheet.head, remedy: 'set-on-ground', params: {} };
    expect((await on(remedyStep, sent('POST', body), { id: sheet.id })).status).toBe(201);
    expect(await entry()).toMatchObject({ moved: false });
  });
  it('cancelled, nothing is kept; where the page has gone it is kept all the same', async () => {
    const sheet = await arrived([['crate.obj', CRATE]], { unit: '0.01', brief: 'handset' });
    const job = randomUUID();
    const known = async () =>
      (await on(findings, new Request(at('/?brief=desktop')), { id: sheet.head })).status === 200;
    mockAfter.act = async () => {
      await on(cancelJob, sent('DELETE', undefined), { id: job });
    };
    const asked = (query: string) =>
      on(audit, new Request(at(`/?brief=desktop${query}`), { method: 'POST' }), { id: sheet.head });
    const lines = await told(await asked(`&job=${job}`));
    expect(lines[lines.length - 1]).toMatchObject({
      stage: 'refused',
      message: expect.stringMatching(/cancelled/),
    });
    expect(await known()).toBe(false);
    mockAfter.act = null;
    await (await asked('')).body!.cancel();
    for (let i = 0; i < 100 && !(await known()); i++) await new Promise((resolve) => setTimeout(resolve, 50));
    expect(await known()).toBe(true);
  });
});

/** By the rules alone: what is asked is not how near it comes. */
const PLAINLY = { mode: 'target', lengths: 'kept', weights: 'rules' };

describe('other steps', () => {
  it('what the hand did is kept as one step, with its bundle, its audit and its effects', async () => {
    const sheet = await arrived([['crate.obj', CRATE]], { unit: '0.01' });
    const patches = packPatches([
      { remedy: 'place-part', params: { node: 0, place: [1, 0, 0], turn: [0, 0, 0, 1] } },
    ]);
    const edit = (body: Uint8Array) =>
      on(
        editStep,
        new Request(at(`/?base=${sheet.head}`), { method: 'POST', body: body as Uint8Array<ArrayBuffer> }),
        { id: sheet.id },
      );
    const refused = await edit(Uint8Array.of(1, 2, 3));
    expect(await refusal(refused)).toMatchObject({
      status: 422,
      message: expect.stringMatching(/^The edit/),
    });
    const made = await edit(patches);
    expect(made.status).toBe(201);
    expect(await made.json()).toMatchObject({
      revision: { number: 2 },
      effects: { kind: 'changed', nodes: ['crate'], largestMove: 1, outside: [] },
      counts: expect.any(Object),
    });
    const now = await sheetOf(sheet.id);
    expect(now.revisions[1]).toMatchObject({
      label: 'place a part',
      step: { kind: 'edit', names: [{ node: { name: 'crate', nth: 0 } }] },
      counts: expect.any(Object),
    });
    const lines = await told(
      await on(deliveries, upload([['crate.obj', CRATE]], { base: now.head, unit: '0.01' }), {
        id: sheet.id,
      }),
    );
    expect(lines[lines.length - 1].rows).toEqual([{ label: 'place a part', outcome: 'done' }]);
  });
  it('a remap is kept with its audit and what it did, and its crosswalk is offered again', async () => {
    const bytes = castBytes('deckhand-clean.glb');
    const sheet = await arrived([['clean.glb', bytes]]);
    const character = readCharacter([{ name: 'clean.glb', bytes }]);
    const source = skeletonOf(character);
    const file = crosswalkToFile(suggest(source, QUAY), source, QUAY);
    const target = { id: 'quay', title: QUAY.title };
    const made = await on(remapStep, sent('POST', { base: sheet.head, limit: 4, target, crosswalk: file }), {
      id: sheet.id,
    });
    expect(made.status).toBe(201);
    expect(await made.json()).toMatchObject({
      effects: { kind: 'remapped', vertices: { changed: 0 }, deviation: { max: expect.any(Number) } },
      counts: { stops: 0 },
    });
    expect((await sheetOf(sheet.id)).revisions[1].counts).toMatchObject({ stops: 0 });
    // Of what was sent only what is a crosswalk is kept, with the step as by itself.
    expect((await sheetOf(sheet.id)).revisions[1].step).toMatchObject({ kind: 'remap', crosswalk: file });
    const { fingerprint } = file.source;
    const saved = await on(
      crosswalk,
      new Request(at(`/?source=${fingerprint}&target=${file.target.fingerprint}`)),
      {},
    );
    expect(await saved.json()).toEqual({ file, others: [] });
  });
  it('a remap without a crosswalk takes up what is saved for the skeleton, as it is told how, and the report tells it', async () => {
    const bytes = castBytes('deckhand-clean.glb');
    const sheet = await arrived([['clean.glb', bytes]]);
    const target = { id: 'quay', title: QUAY.title };
    const how = { mode: 'target', lengths: 'kept', weights: 'example' };
    const ask = (more: object) =>
      on(remapStep, sent('POST', { base: sheet.head, limit: 4, target, ...more }), { id: sheet.id });
    expect((await ask({ how: { ...how, mode: 'sideways' } })).status).toBe(400);
    const made = await ask({ how });
    expect(made.status).toBe(201);
    const { walk, effects } = (await made.json()) as { walk: object; effects: object };
    expect(walk).toMatchObject({ from: expect.not.stringMatching(/^(given|suggested)$/), bones: 91 });
    expect(effects).toMatchObject({ kind: 'remapped', price: { rms: expect.any(Number) } });
    const { head, revisions } = await sheetOf(sheet.id);
    expect(revisions[1].step).toMatchObject({ kind: 'remap', how, price: { max: expect.any(Number) } });
    const page = await (await on(report, new Request(at('/?receiver=handset')), { id: head })).text();
    expect(page).toContain('Crosswalk, onto Quay skeleton');
    expect(page).toContain('On arrival: A handset');
    expect(page).toContain('The skeleton itself costs');
    const none = await on(report, new Request(at('/?receiver=nobody')), { id: head });
    expect([none.status, ((await none.json()) as { message: string }).message]).toEqual([
      400,
      expect.stringContaining('not the settings of a receiver'),
    ]);
  });
  it('a remap whose crosswalk cannot be kept is not there either', async () => {
    const bytes = castBytes('deckhand-clean.glb');
    const sheet = await arrived([['clean.glb', bytes]]);
    const source = skeletonOf(readCharacter([{ name: 'clean.glb', bytes }]));
    const file = crosswalkToFile(suggest(source, QUAY), source, QUAY);
    await sql`alter table crosswalks rename to crosswalks_away`.execute(database());
    const quiet = jest.spyOn(process.stderr, 'write').mockReturnValue(true);
    try {
      const target = { id: 'quay', title: QUAY.title };
      const made = await on(
        remapStep,
        sent('POST', { base: sheet.head, limit: 4, target, crosswalk: file, how: PLAINLY }),
        {
          id: sheet.id,
        },
      );
      expect(await refusal(made)).toMatchObject({
        status: 500,
        message: expect.stringContaining('it is set aside'),
      });
    } finally {
      quiet.mockRestore();
      await sql`alter table crosswalks_away rename to crosswalks`.execute(database());
    }
    expect(await sheetOf(sheet.id)).toMatchObject({ head: sheet.head, revisions: [{ number: 1 }] });
  });
});

describe('when it is cancelled before it has come', () => {
  it.each<[string, Handler, (base: string, job?: string) => Request]>([
    [
      'adding files',
      addFiles,
      (base, job) => upload([['hatch.obj', CRATE]], { base, unit: '0.01', ...(job && { job }) }),
    ],
    [
      'a new delivery',
      deliveries,
      (base, job) => upload([['crate.obj', CRATE]], { base, unit: '0.01', ...(job && { job }) }),
    ],
    ['handing over', handOver, (base, job) => sent('POST', { revision: base, by: 'R. Lindqvist', job })],
  ])('%s leaves everything as it was', async (_, route, request) => {
    const sheet = await arrived([['crate.obj', CRATE]], { unit: '0.01' });
    await settled();
    const rows = async () => [
      await sheetOf(sheet.id),
      await database().selectFrom('dockets').select('id').execute(),
      await database().selectFrom('blobs').select('hash').orderBy('hash').execute(),
    ];
    const before = await rows();
    const job = randomUUID();
    await on(cancelJob, sent('DELETE', undefined), { id: job });
    const lines = await told(await on(route, request(sheet.head, job), { id: sheet.id }));
    expect(lines[lines.length - 1]).toEqual({
      stage: 'refused',
      share: 1,
      message: 'The work was cancelled; nothing was changed.',
    });
    expect(await rows()).toEqual(before);
    // The same where nobody cancels.
    const done = await told(await on(route, request(sheet.head), { id: sheet.id }));
    expect(done[done.length - 1]).toMatchObject({ stage: 'done' });
    expect(await rows()).not.toEqual(before);
  });
});

describe('requests that are out of all measure', () => {
  it('nested without end, or with a version that no brief has, they are refused in a sentence', async () => {
    const text = `{"base":"${nowhere}","remedy":"centre","params":{"a":${'['.repeat(100_000)}${']'.repeat(100_000)}}}`;
    const request = new Request(at('/'), {
      method: 'POST',
      body: text,
      headers: { 'content-type': 'application/json' },
    });
    expect(await refusal(await on(remedyStep, request, { id: nowhere }))).toEqual({
      status: 400,
      message: expect.stringMatching(/nested deeper than 100 levels/),
    });
    const asked = new Request(at('/?brief=handset@99999999999'));
    expect(await refusal(await on(findings, asked, { id: nowhere }))).toMatchObject({ status: 400 });
  });
});

describe('when the database has trouble', () => {
  it.each<[string, object, RegExp]>([
    ['has no room', { code: '53100' }, /disk of the house is full; nothing was changed\. Make room/],
    ['ends', { code: '57P01' }, /does not answer just now; nothing was changed\. Try again/],
    ['is not there', { code: 'ENOENT', syscall: 'connect' }, /does not answer just now/],
    ['is lost', { message: 'Connection terminated unexpectedly' }, /does not answer just now/],
    [
      'breaks off',
      { message: 'Client has encountered a connection error and is not queryable' },
      /does not answer just now/,
    ],
  ])('that it %s is told in a sentence', async (_, about, message) => {
    const fails = () => Promise.reject(Object.assign(new Error('x'), about));
    const answered = await answer(new Request(at('/')), fails);
    expect(answered.status).toBe(503);
    expect(((await answered.json()) as { message: string }).message).toMatch(message);
  });
  it('any other failure says nothing of its inside', async () => {
    const quiet = jest.spyOn(process.stderr, 'write').mockReturnValue(true);
    const answered = await answer(new Request(at('/')), () => Promise.reject(new Error('secret')));
    quiet.mockRestore();
    expect([answered.status, await answered.text()]).toEqual([500, expect.not.stringContaining('secret')]);
  });
});

describe('notes in a header', () => {
  it('of more than it can carry as many as fit, and how many there are besides', () => {
    const notes = Array.from({ length: 4000 }, (_, i) => `Note ${i}: “größer”.`);
    const header = notesHeader(notes);
    expect(header.length).toBeLessThanOrEqual(6000);
    const told = JSON.parse(decodeURIComponent(header)) as string[];
    expect(told.slice(0, -1)).toEqual(notes.slice(0, told.length - 1));
    expect(told.at(-1)).toBe(`and ${4000 - told.length + 1} more notes.`);
    expect(JSON.parse(decodeURIComponent(notesHeader(notes.slice(0, 3))))).toEqual(notes.slice(0, 3));
    expect(notesHeader(['x'.repeat(100_000)]).length).toBeLessThan(6000);
  });
});

describe('a new delivery', () => {
  const step = async (id: string, remedy: string, params: object) => {
    const response = await on(remedyStep, sent('POST', { base: (await sheetOf(id)).head, remedy, params }), {
      id,
    });
    expect(response.status).toBe(201);
  };
  const hatch = CRATE.replace('o crate', 'o hatch');
  /** A crate with a hatch added in inches, the crate set right and the hatch made 1 m long. */
  async function worked(): Promise<Sheet> {
    const sheet = await arrived([['crate.obj', CRATE.replaceAll('v 40 60', 'v 40 70')]], { unit: '0.01' });
    const lines = await told(
      await on(addFiles, upload([['hatch.obj', hatch]], { base: sheet.head, unit: '0.0254' }), {
        id: sheet.id,
      }),
    );
    expect(lines[lines.length - 1]).toMatchObject({ stage: 'done', name: 'hatch', revision: { number: 2 } });
    await step(sheet.id, 'rescale-prop', { node: 1, height: 1 });
    await step(sheet.id, 'rescale', { by: 'factor', factor: 2 });
    return sheetOf(sheet.id);
  }
  it('gets every step again, the added files too, read as they were', async () => {
    const sheet = await worked();
    const lines = await told(
      await on(deliveries, upload([['crate.obj', CRATE]], { base: sheet.head, unit: '0.01' }), {
        id: sheet.id,
      }),
    );
    expect(lines[lines.length - 1]).toMatchObject({
      stage: 'done',
      from: 4,
      rows: [{ label: 'added hatch', outcome: 'done' }, { outcome: 'done' }, { outcome: 'done' }],
    });
    const now = await sheetOf(sheet.id);
    expect(now.revisions.map((revision) => revision.parent === null)).toEqual([
      true,
      false,
      false,
      false,
      true,
      false,
      false,
      false,
    ]);
    const obj = new Uint8Array(
      await (await on(file, new Request(at('/?format=glb')), { id: now.head })).arrayBuffer(),
    );
    const out = readCharacter([{ name: 'out.glb', bytes: obj }]);
    const long = (name: string) =>
      Math.max(...out.meshes[out.nodes.find((node) => node.name === name)!.mesh].attributes.POSITION.data) *
      out.nodes.find((node) => node.name === name)!.scale[0];
    expect(long('crate')).toBeCloseTo(0.6 * 2, 5);
    expect(long('hatch')).toBeCloseTo(2, 5);
  });
  it('keeps sets: those that came with the file are found again, those made here are made again, what is lost is told', async () => {
    const crate = readCharacter([{ name: 'crate.obj', bytes: new TextEncoder().encode(CRATE) }], undefined, {
      unitMetres: 0.01,
    });
    const withLid = {
      ...crate,
      sets: [{ name: 'lid', bones: [], vertices: [], polygons: [{ node: 0, ids: Uint32Array.of(0) }] }],
    };
    const sheet = await arrived([['crate.glb', writeGlb(withLid).bytes]]);
    await step(sheet.id, 'keep-set', { name: 'corner', vertices: [{ node: 0, ids: [0, 1] }] });
    const { head } = await sheetOf(sheet.id);
    const setsNow = async () => {
      const bytes = await (
        await on(file, new Request(at('/?format=glb')), { id: (await sheetOf(sheet.id)).head })
      ).arrayBuffer();
      const { sets } = readCharacter([{ name: 'out.glb', bytes: new Uint8Array(bytes) }]);
      return sets.map(({ name, vertices, polygons }) => [name, vertices.length, polygons.length]);
    };
    expect(await setsNow()).toEqual([
      ['lid', 0, 1],
      ['corner', 1, 0],
    ]);
    // The supplier’s next file knows nothing of sets.
    const bare = upload([['crate.glb', writeGlb(crate).bytes]], { base: head });
    const lines = await told(await on(deliveries, bare, { id: sheet.id }));
    expect(lines[lines.length - 1]).toMatchObject({ stage: 'done', rows: [{ outcome: 'done' }] });
    expect(await setsNow()).toEqual([
      ['lid', 0, 1],
      ['corner', 1, 0],
    ]);
    // One that lies elsewhere has nothing where it lay.
    const far = CRATE.replaceAll(
      /^v (\S+) (\S+) (\S+)/gm,
      (_, x, y, z) => `v ${x} ${Number(y) * 3 + 900} ${z}\nv ${x} ${y} 5000`,
    );
    const other = upload([['crate.obj', far]], { base: (await sheetOf(sheet.id)).head, unit: '0.01' });
    const again = await told(await on(deliveries, other, { id: sheet.id }));
    expect(again[again.length - 1].notes.join()).toMatch(/of the 1 things in the set “lid” are not found/);
    expect(again[again.length - 1].rows[0].outcome).toMatch(/in part|does not fit/);
  });
  it('tells what was not needed from what does not fit', async () => {
    const sheet = await arrived(
      [['crate.obj', CRATE.replaceAll(/^v (\S+) (\S+)/gm, (_, x, y) => `v ${x} ${Number(y) + 5}`)]],
      { unit: '0.01' },
    );
    await step(sheet.id, 'set-on-ground', {});
    await step(sheet.id, 'rescale-prop', { node: 0, factor: 2 });
    const now = await sheetOf(sheet.id);
    const lines = await told(
      await on(
        deliveries,
        upload([['chest.obj', CRATE.replace('o crate', 'o chest')]], { base: now.head, unit: '0.01' }),
        { id: sheet.id },
      ),
    );
    expect(lines[lines.length - 1].rows).toEqual([
      {
        label: 'set on the ground',
        outcome: 'not needed',
        why: expect.stringContaining('on the ground already'),
      },
      {
        label: expect.any(String),
        outcome: 'does not fit',
        why: 'there is no node “crate” in the new delivery',
      },
    ]);
  });
  it('broken off, it stands aside and says how far it was; gone on with, it is whole', async () => {
    const sheet = await worked();
    const job = randomUUID();
    const fields = { base: sheet.head, unit: '0.01', job };
    mockBefore.act = async (task) => {
      if (task === 'add') await on(cancelJob, sent('DELETE', undefined), { id: job });
    };
    const broken = await told(await on(deliveries, upload([['crate.obj', CRATE]], fields), { id: sheet.id }));
    expect(broken[broken.length - 1]).toMatchObject({
      stage: 'refused',
      message: expect.stringMatching(/cancelled/),
    });
    mockBefore.act = null;
    const deliveryOf = async () => {
      const { step } = (await sheetOf(sheet.id)).revisions.find((revision) => revision.number === 5)!;
      return step as { rows: object[]; again: string[] };
    };
    for (let before = -1, node = 0; before !== node || (await sheetOf(sheet.id)).head !== sheet.head;) {
      before = node;
      await new Promise((resolve) => setTimeout(resolve, 300));
      node = (await sheetOf(sheet.id)).revisions.length;
    }
    const aside = await sheetOf(sheet.id);
    expect(aside.head).toBe(sheet.head);
    expect(aside.revisions.length).toBeLessThan(8);
    const { rows, again } = await deliveryOf();
    expect(again).toHaveLength(3);
    expect(rows.length).toBe(aside.revisions.length - 5);
    const first = aside.revisions.find((revision) => revision.number === 5)!.id;
    const goOn = () =>
      on(deliveryOn, sent('POST', {}), {
        id: sheet.id,
        revision: first,
      });
    const lines = await told(await goOn());
    expect(lines[lines.length - 1]).toMatchObject({ stage: 'done' });
    const whole = await sheetOf(sheet.id);
    expect((await deliveryOf()).rows).toHaveLength(3);
    expect(whole.revisions.length).toBe(8);
    expect(whole.head).toBe(whole.revisions[7].id);
    // There is nothing left to go on with.
    expect(await refusal(await goOn())).toEqual({
      status: 404,
      message: expect.stringContaining('nothing left'),
    });
  });
  it('is refused where the line is another character’s, and where the head has moved nothing is added', async () => {
    const a = await worked();
    const b = await arrived([['crate.obj', CRATE]], { unit: '0.01' });
    expect(
      await refusal(await on(deliveries, upload([['crate.obj', CRATE]], { base: b.head }), { id: a.id })),
    ).toMatchObject({ status: 404 });
    const lines = await told(
      await on(addFiles, upload([['hatch.obj', hatch]], { base: a.revisions[0].id, unit: '1' }), {
        id: a.id,
      }),
    );
    expect(lines[lines.length - 1]).toMatchObject({
      stage: 'refused',
      message: expect.stringMatching(/revision 1, and revision 4/),
    });
    expect((await sheetOf(a.id)).revisions.length).toBe(4);
  });
  it('the kept files go with the character that needed them', async () => {
    const sheet = await worked();
    const { files } = sheet.revisions[1].step as { files: { sha256: string }[] };
    // Other tests keep the same file; each revision that needs it holds on to it.
    const held = async () =>
      (
        await database()
          .selectFrom('revision_blobs')
          .select('revision_id')
          .where('hash', '=', files[0].sha256)
          .execute()
      ).length;
    const before = await held();
    await on(remove, new Request(at('/'), { method: 'DELETE' }), { id: sheet.id });
    expect(await held()).toBe(before - 1);
  });
});

describe('what goes out', () => {
  it('is named after the character and its revision, whatever the name holds, in every format', async () => {
    const sheet = await arrived([['crate.obj', CRATE]], { unit: '0.01' });
    await on(change, sent('PATCH', { name: 'Ferry "crate"\r\nX-Evil: 1 / ünï' }), { id: sheet.id });
    for (const [format, ending] of [
      ['glb', 'glb'],
      ['dae', 'dae'],
      ['obj', 'zip'],
    ] as const) {
      const response = await on(file, new Request(at(`/?format=${format}`)), { id: sheet.head });
      expect(response.headers.get('content-disposition')).toMatch(
        new RegExp(`^attachment; filename="ferry-crate-x-evil-1-n--r1(-obj)?\\.(${ending}|obj)"$`),
      );
      expect(response.headers.get('x-content-type-options')).toBe('nosniff');
      const bytes = new Uint8Array(await response.arrayBuffer());
      const files =
        bytes[0] === 0x50 && bytes[1] === 0x4b
          ? Object.entries(unzipSync(bytes)).map(([name, value]) => ({ name, bytes: value }))
          : [{ name: `x.${format}`, bytes }];
      expect(readCharacter(files).meshes[0].polygonOffsets.length).toBe(7);
    }
    expect(await refusal(await on(file, new Request(at('/?format=exe')), { id: sheet.head }))).toMatchObject({
      status: 400,
    });
    expect(
      await refusal(await on(file, new Request(at('/?format=obj&clip=4')), { id: sheet.head })),
    ).toMatchObject({ status: 422, message: expect.stringContaining('no such clip') });
  });
  it('the report runs nothing, and holds pins and notes as text', async () => {
    const sheet = await arrived([['crate.obj', CRATE]], { unit: '0.01' });
    await on(words, sent('PATCH', { note: '<script>alert(1)</script>' }), { id: sheet.head });
    await on(
      pin,
      sent('POST', {
        label: '<i>edge</i>',
        from: { kind: 'vertex', node: 'crate', vertex: 0 },
        to: { kind: 'vertex', node: 'crate', vertex: 1 },
      }),
      { id: sheet.id },
    );
    const response = await on(report, new Request(at('/?download')), { id: sheet.head });
    expect(response.headers.get('content-security-policy')).toMatch(/^default-src 'none'/);
    expect(response.headers.get('content-disposition')).toBe('attachment; filename="crate-r1-report.html"');
    const html = await response.text();
    expect(html).not.toMatch(/<script|<i>edge/);
    expect(html).toMatch(/&(lt|#60);script/);
    expect(html).toContain('Pinned measure: &#60;i&#62;edge&#60;/i&#62;</td><td class="n">0.6 m</td>');
  });
  it('arrays and pictures come by their address', async () => {
    const sheet = await arrived([['crate.obj', CRATE]], { unit: '0.01' });
    const stored = (await (await on(manifest, new Request(at('/')), { id: sheet.head })).json()) as {
      arrays: string[];
    };
    const found = unpack(
      await (await on(arrays, sent('POST', { hashes: stored.arrays }), {})).arrayBuffer(),
    ) as Record<string, Uint8Array>;
    expect(Object.keys(found).sort()).toEqual([...new Set(stored.arrays)].sort());
    expect(pack(found).byteLength).toBeGreaterThan(0);
    const picture = await on(blob, new Request(at('/')), { hash: sheet.revisions[0].picture });
    expect([picture.headers.get('content-type'), picture.headers.get('cache-control')]).toEqual([
      'image/png',
      'private, max-age=31536000, immutable',
    ]);
  });
});

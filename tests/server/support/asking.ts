/** A house with a database of its own, and asking its routes as the page does. */
import type { Kysely } from 'kysely';
import { type Brief, briefKey } from '@/core/house/brief';
import { stopHearing } from '@/jobs/listen';
import { ALL_KINDS } from '@/jobs/kinds';
import { prepareQueue } from '@/jobs/queue';
import { Worker } from '@/jobs/worker';
import { createCharacter } from '@/server/characters';
import { bringBriefs } from '@/server/briefs';
import { type Database, database } from '@/server/database';
import type { Context } from '@/server/http';
import { migrate } from '@/server/migrations';
import { castBytes } from '../../core/support/cast';
import { ownDatabase } from './database';
import { runJob } from './run-job';

const HERE = 'http://127.0.0.1:4810';

/**
 * Sets up a database for the tests of a file, with the briefs of the house and a worker that takes what routes ask for.
 * Gives it once the tests run.
 */
export function houseWithWorker(name: string): () => Kysely<Database> {
  const house = houseWithBriefs(name);
  let worker: Worker;
  beforeAll(async () => {
    await prepareQueue(house());
    worker = new Worker(house(), process.env.DATABASE_URL as string, ALL_KINDS);
    await worker.start();
  });
  // Before the database goes.
  endings.push(() => worker.stop());
  return house;
}

/** What ends before the database of a file does. */
const endings: (() => Promise<void>)[] = [];

/** Sets up a database for the tests of a file, with the briefs of the house. Gives it once the tests run. */
export function houseWithBriefs(name: string): () => Kysely<Database> {
  let drop: () => Promise<void>;
  let db: Kysely<Database>;
  beforeAll(async () => {
    const own = await ownDatabase(name);
    process.env.DATABASE_URL = own.url;
    drop = own.drop;
    db = database();
    await migrate(db);
    await bringBriefs(db);
  });
  afterAll(async () => {
    stopHearing();
    for (const end of endings.splice(0)) await end();
    await db.destroy();
    await drop();
  });
  return () => db;
}

/** A request whose signal is the given one, as the server makes it from the line that it came over. */
export const aborting = (signal: AbortSignal): ProxyHandler<Request> => ({
  get: (request, name) => {
    if (name === 'signal') return signal;
    const value: unknown = Reflect.get(request, name, request);
    return typeof value === 'function' ? value.bind(request) : value;
  },
});

export const sent = (method: string, body?: unknown, query = ''): Request =>
  new Request(`${HERE}/${query}`, {
    method,
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    headers: { 'content-type': 'application/json', origin: HERE, host: '127.0.0.1:4810' },
  });

/** Files sent as a form. */
export function upload(
  files: readonly (readonly [string, Uint8Array | string])[],
  fields: Readonly<Record<string, string>> = {},
): Request {
  const form = new FormData();
  for (const [key, field] of Object.entries(fields)) form.set(key, field);
  for (const [name, bytes] of files) form.append('files', new Blob([bytes as never]), name);
  return new Request(`${HERE}/`, { method: 'POST', body: form });
}

export const on = (
  handler: (request: Request, context: Context) => Promise<Response>,
  request: Request,
  params: Readonly<Record<string, string>> = {},
): Promise<Response> => handler(request, { params: Promise.resolve(params) });

export const answered = async (response: Response) => ({
  status: response.status,
  body: await response.json(),
});

/** The last line of an answer that tells its progress line by line. */
export async function lastLine(response: Response): Promise<Record<string, unknown>> {
  const lines = (await response.text()).trim().split('\n');
  return JSON.parse(lines[lines.length - 1]);
}

/** A file, one of the cast where no bytes are given, arrived under a brief. */
export async function arriveAs(
  db: Kysely<Database>,
  file: string,
  brief: Brief,
  bytes: Uint8Array = castBytes(file),
): Promise<{ id: string; revision: string }> {
  const files = [{ name: file, bytes }];
  const made = runJob<'import'>({ task: 'import', input: { files, brief } });
  if ('refused' in made) throw new Error(made.refused);
  const step = { kind: 'import' as const, files: [], notes: [] };
  return createCharacter(db, file, brief.id, { ...made, brief: briefKey(brief), label: 'first', step });
}

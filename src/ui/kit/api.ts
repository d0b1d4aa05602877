import { LRUCache } from 'lru-cache';
import type { AnyObjectSchema, AnySchema, InferType } from 'yup';
import { unpack } from '@/core/character/bundle';
import { type StoredCharacter, fromStored } from '@/core/character/stored';
import type { Character } from '@/core/character/model';
import type { Finding } from '@/core/contracts/finding';
import { type ProgressLine, type Survey, progressLine, surveyAnswer, surveyPath } from '@/routes/arrivals';
import { cancelJob } from '@/routes/jobs';
import { arraysPath, auditPath, readRevision } from '@/routes/revisions';
import { type Route, addressOf, bodyOf, hasBody } from '@/routes/route';

/** A refusal by the server, with its sentence. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly body: Record<string, unknown> = {},
  ) {
    super(message);
  }
}

/** The sentence of whatever was thrown. */
export const messageOf = (error: unknown): string => (error instanceof Error ? error.message : String(error));

const UNREACHED = 'The server does not answer; check that it runs, then try again. Nothing was lost.';

async function ask(path: string, init: RequestInit): Promise<Response> {
  try {
    return await fetch(path, init);
  } catch (error) {
    if (init.signal?.aborted) throw error;
    throw new ApiError(UNREACHED, 0);
  }
}

async function refusalOf(response: Response, advice = 'try again'): Promise<ApiError> {
  const body = (await response.json().catch(() => ({}))) as Record<string, unknown>;
  const told = typeof body.message === 'string' ? body.message : null;
  return new ApiError(
    told ?? `The server answered with ${response.status}; ${advice}.`,
    response.status,
    body,
  );
}

/** Letters of a request that is kept alive: all that are under way at once may have 64 KiB (Fetch, §4.6). */
const MOST_KEPT_ALIVE = 8_000;

/** Asks a route of the house; request and answer are checked against its schemas. Throws {@link ApiError}. */
export async function call<Q extends AnyObjectSchema, A extends AnySchema>(
  route: Route<Q, A>,
  request: InferType<Q>,
  signal?: AbortSignal,
): Promise<InferType<A>> {
  const body = hasBody(route.method)
    ? JSON.stringify(bodyOf(route, request as Record<string, unknown>))
    : undefined;
  const response = await ask(addressOf(route, request as Record<string, unknown>), {
    method: route.method,
    signal,
    ...(body !== undefined && {
      body,
      headers: { 'content-type': 'application/json' },
      // What was asked for is done, also where the page is closed or made anew right after.
      keepalive: body.length < MOST_KEPT_ALIVE,
    }),
  });
  if (!response.ok) throw await refusalOf(response);
  return route.answer.validateSync(await response.json()) as InferType<A>;
}

/** Sends bytes to a route whose other fields stand in its path and query. */
export async function sendBytes<Q extends AnyObjectSchema, A extends AnySchema>(
  route: Route<Q, A>,
  request: InferType<Q>,
  body: Uint8Array,
): Promise<InferType<A>> {
  const path = addressOf({ method: 'GET', path: route.path }, request as Record<string, unknown>);
  const response = await ask(path, { method: route.method, body: body as Uint8Array<ArrayBuffer> });
  if (!response.ok) throw await refusalOf(response);
  return route.answer.validateSync(await response.json()) as InferType<A>;
}

/** The bytes of an answer; `onShare` is told how much of them has come, where the answer says its length. */
async function bytes(
  path: string,
  init: RequestInit,
  onShare?: (share: number) => void,
): Promise<ArrayBuffer> {
  const response = await ask(path, init);
  if (!response.ok) throw await refusalOf(response);
  const length = Number(response.headers.get('content-length') ?? 0);
  if (!onShare || !length || !response.body) return response.arrayBuffer();
  const out = new Uint8Array(length);
  const reader = response.body.getReader();
  let at = 0;
  for (;;) {
    const { value, done } = await reader.read();
    if (done) return out.buffer;
    if (at + value.length > length)
      throw new ApiError('The server sent more than it announced; reload the page.', 0);
    out.set(value, at);
    at += value.length;
    onShare(at / length);
  }
}

/**
 * Arrays that this page holds already, by content address: a revision that shares them is shown without
 * sending them again. What has not been asked for longest goes, so that a day of many characters does not
 * fill the memory.
 */
const held = new LRUCache<string, Uint8Array>({
  maxSize: 1 << 29,
  sizeCalculation: (b) => Math.max(1, b.byteLength),
});

/** How many arrays are asked for in one request. */
const ARRAYS_AT_ONCE = 10_000;

/** The manifest that was asked for ahead, until it is taken. */
let expected: { readonly revision: string; readonly manifest: Promise<StoredCharacter> } | null = null;

/** Asks for a revision that will be shown as soon as more is known of it. */
export function expectRevision(revision: string): void {
  const manifest: Promise<StoredCharacter> = call(readRevision, { id: revision });
  manifest.catch(() => {});
  expected = { revision, manifest };
}

function manifestOf(revision: string, signal?: AbortSignal): Promise<StoredCharacter> {
  const asked = expected?.revision === revision ? expected.manifest : null;
  expected = null;
  return asked ?? call(readRevision, { id: revision }, signal);
}

/** A revision with all its arrays; those that are at hand are not sent again. `fetched`: how many were. */
export async function fetchCharacter(
  revision: string,
  onShare?: (share: number) => void,
  signal?: AbortSignal,
): Promise<{ character: Character; fetched: number }> {
  const stored = await manifestOf(revision, signal);
  // Of this revision all are at hand, however large it is and whatever has to go meanwhile.
  const here = new Map<string, Uint8Array>();
  for (const array of stored.arrays) {
    const b = held.get(array);
    if (b) here.set(array, b);
  }
  const wanted = [...new Set(stored.arrays)].filter((array) => !here.has(array));
  for (let at = 0; at < wanted.length; at += ARRAYS_AT_ONCE) {
    const hashes = wanted.slice(at, at + ARRAYS_AT_ONCE);
    const init = {
      method: 'POST',
      body: JSON.stringify({ hashes }),
      headers: { 'content-type': 'application/json' },
      signal,
    };
    const onPart = onShare && ((share: number) => onShare((at + share * hashes.length) / wanted.length));
    const found = unpack(await bytes(arraysPath, init, onPart)) as Record<string, Uint8Array>;
    for (const [hash, value] of Object.entries(found)) {
      here.set(hash, value);
      held.set(hash, value);
    }
  }
  return { character: fromStored(stored, (hash) => here.get(hash)), fetched: wanted.length };
}

/**
 * Reads an answer that tells of its progress. The last line is given back; a refusal is thrown, and `broken`
 * where the answer ends before its end.
 */
async function readProgress(
  response: Response,
  onLine: (line: ProgressLine) => void,
  broken: string,
): Promise<ProgressLine> {
  if (!response.ok || !response.body) throw await refusalOf(response);
  const reader = response.body.pipeThrough(new TextDecoderStream()).getReader();
  let text = '';
  let last: ProgressLine = { stage: 'sending', share: 0 };
  for (;;) {
    const { value, done } = await reader.read();
    if (done) break;
    text += value;
    const lines = text.split('\n');
    text = lines.pop() ?? '';
    for (const line of lines) {
      last = progressLine.validateSync(JSON.parse(line));
      onLine(last);
    }
  }
  if (last.stage === 'refused') throw new ApiError(last.message ?? broken, 422);
  if (last.stage !== 'done') throw new ApiError(broken, 0);
  return last;
}

/** What is told of work that was cancelled when it had been done already. */
const TOO_LATE = 'It was done before it could be cancelled.';

/** Thrown where somebody cancelled; `isTooLate`: it was done already. */
export class Cancelled extends ApiError {
  constructor(readonly isTooLate: boolean) {
    super(isTooLate ? TOO_LATE : 'Cancelled; nothing was changed.', 499);
  }
}

/**
 * Work that a worker of the house does. It goes on where the line to it breaks; it is cancelled where the signal says
 * so, wherever it is. `send` is given the id that it is asked for under.
 */
async function cancellable(
  signal: AbortSignal,
  send: (job: string) => Promise<ProgressLine>,
): Promise<ProgressLine> {
  const job = crypto.randomUUID();
  let stopping: Promise<boolean> | undefined;
  const stop = () => {
    stopping = call(cancelJob, { id: job }).then(({ state }) => state === 'done');
    stopping.catch(() => {});
  };
  signal.addEventListener('abort', stop);
  try {
    signal.throwIfAborted();
    return await send(job);
  } catch (error) {
    throw stopping ? new Cancelled(await stopping) : error;
  } finally {
    signal.removeEventListener('abort', stop);
  }
}

/** Sends files and reads the answer line by line. */
export function sendFiles(
  path: string,
  files: readonly File[],
  fields: Readonly<Record<string, string>>,
  onLine: (line: ProgressLine) => void,
  signal: AbortSignal,
): Promise<ProgressLine> {
  return cancellable(signal, async (job) => {
    const response = await ask(path, { method: 'POST', body: formOf(files, { ...fields, job }), signal });
    return readProgress(
      response,
      onLine,
      'The connection broke off while the files were taken in; look whether they are there, and drop them again if not.',
    );
  });
}

/** A file of the house, and what the house calls it. Throws {@link ApiError}. */
export async function fetchFile(path: string): Promise<{ blob: Blob; name?: string }> {
  const response = await ask(path, { method: 'GET' });
  if (!response.ok) throw await refusalOf(response);
  const name = /filename="([^"]+)"/.exec(response.headers.get('content-disposition') ?? '')?.[1];
  return { blob: await response.blob(), name };
}

/** Asks for work that tells of its progress; reads the answer line by line. */
export function askWork(
  path: string,
  body: object,
  onLine: (line: ProgressLine) => void,
  signal: AbortSignal,
  broken: string,
): Promise<ProgressLine> {
  return cancellable(signal, async (job) => {
    const headers = { 'content-type': 'application/json' };
    const sent = JSON.stringify({ ...body, job });
    const response = await ask(path, { method: 'POST', body: sent, headers, signal });
    return readProgress(response, onLine, broken);
  });
}

function formOf(files: readonly File[], fields: Readonly<Record<string, string>> = {}): FormData {
  const form = new FormData();
  for (const [key, field] of Object.entries(fields)) if (field !== '') form.set(key, field);
  for (const file of files) form.append('files', file, file.name);
  return form;
}

/**
 * The findings of a revision under a brief; where they are not known yet they are made, told line by line.
 */
export async function fetchFindings(
  revision: string,
  brief: string,
  onLine: (line: ProgressLine) => void,
  signal: AbortSignal,
): Promise<Finding[]> {
  const path = addressOf({ method: 'GET', path: auditPath }, { id: revision, brief });
  const known = await bytes(path, { signal });
  if (known.byteLength > 0) return unpack(known) as Finding[];
  onLine({ stage: 'auditing', share: 0 });
  await cancellable(signal, async (job) => {
    const response = await ask(`${path}&job=${job}`, { method: 'POST', signal });
    return readProgress(
      response,
      onLine,
      'The connection broke off before the audit was done; reload the page.',
    );
  });
  return unpack(await bytes(path, { signal })) as Finding[];
}

/** Has a revision tried in motion under a brief by the house, told line by line; what is found is kept there. */
export const tryInHouse = (
  revision: string,
  brief: string,
  onLine: (line: ProgressLine) => void,
  signal: AbortSignal,
): Promise<ProgressLine> =>
  cancellable(signal, async (job) => {
    const path = addressOf({ method: 'GET', path: auditPath }, { id: revision, brief, moved: 'true' });
    const response = await ask(`${path}&job=${job}`, { method: 'POST', signal });
    return readProgress(response, onLine, 'The connection broke off before it was tried; reload the page.');
  });

/**
 * What files say of their unit and axes; null where they say all. Formats that always say it are not asked.
 */
export async function surveyFiles(files: readonly File[], signal: AbortSignal): Promise<Survey | null> {
  if (!files.some((file) => /\.(obj|bvh|dae|zae|zip)$/i.test(file.name))) return null;
  const response = await ask(surveyPath, { method: 'POST', body: formOf(files), signal });
  if (!response.ok) throw await refusalOf(response, 'drop the files again');
  const survey = surveyAnswer.validateSync(await response.json());
  return survey.stated.unit && survey.stated.upAxis ? null : survey;
}

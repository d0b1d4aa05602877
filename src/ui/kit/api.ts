import { LRUCache } from 'lru-cache';
import { unpack } from '@/core/character/bundle';
import { type StoredCharacter, fromStored } from '@/core/character/stored';
import type { Character } from '@/core/character/model';
import { type Finding } from '@/core/contracts/finding';

/** A refusal by the server, with its sentence. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly body: Record<string, unknown>,
  ) {
    super(message);
  }
}

export async function api<T>(
  path: string,
  options: { method?: string; body?: unknown; signal?: AbortSignal } = {},
): Promise<T> {
  let response: Response;
  try {
    response = await fetch(path, {
      method: options.method ?? 'GET',
      signal: options.signal,
      ...(options.body === undefined
        ? {}
        : { body: JSON.stringify(options.body), headers: { 'content-type': 'application/json' } }),
    });
  } catch (error) {
    if (options.signal?.aborted) throw error;
    throw new ApiError(
      'The server does not answer; check that it runs, then try again. Nothing was lost.',
      0,
      {},
    );
  }
  const body = (await response.json().catch(() => ({}))) as Record<string, unknown>;
  if (!response.ok)
    throw new ApiError(
      typeof body.message === 'string'
        ? body.message
        : `The server answered with ${response.status}; try again.`,
      response.status,
      body,
    );
  return body as T;
}

/** The bytes of an answer; `onShare` is told how much of them has come, where the answer says its length. */
async function bytes(
  path: string,
  init?: RequestInit,
  onShare?: (share: number) => void,
): Promise<ArrayBuffer> {
  const response = await fetch(path, init);
  if (!response.ok) {
    const body = (await response.json().catch(() => ({}))) as { message?: string };
    throw new ApiError(
      body.message ?? `The server answered with ${response.status}; try again.`,
      response.status,
      body,
    );
  }
  const length = Number(response.headers.get('content-length') ?? 0);
  if (!onShare || !length || !response.body) return response.arrayBuffer();
  const out = new Uint8Array(length);
  const reader = response.body.getReader();
  for (let at = 0; ;) {
    const { value, done } = await reader.read();
    if (done) return out.buffer;
    if (at + value.length > length)
      throw new ApiError('The server sent more than it announced; reload the page.', 0, {});
    out.set(value, at);
    at += value.length;
    onShare(at / length);
  }
}

/**
 * Arrays that this page holds already, by content address: a revision that shares them is shown without sending them again. What has
 * not been asked for longest goes, so that a day of many characters does not fill the memory.
 */
const held = new LRUCache<string, Uint8Array>({
  maxSize: 1 << 29,
  sizeCalculation: (b) => Math.max(1, b.byteLength),
});

export async function fetchCharacter(
  revision: string,
  onShare?: (share: number) => void,
  signal?: AbortSignal,
): Promise<{ character: Character; fetched: number }> {
  const stored = await api<StoredCharacter>(`/api/revisions/${revision}`, { signal });
  // Of this revision all are at hand, however large it is and whatever has to go meanwhile.
  const here = new Map<string, Uint8Array>();
  for (const h of stored.arrays) {
    const b = held.get(h);
    if (b) here.set(h, b);
  }
  const wanted = [...new Set(stored.arrays)].filter((h) => !here.has(h));
  if (wanted.length > 0) {
    const found = unpack(
      await bytes(
        '/api/arrays',
        {
          method: 'POST',
          body: JSON.stringify({ hashes: wanted }),
          headers: { 'content-type': 'application/json' },
          signal,
        },
        onShare,
      ),
    ) as Record<string, Uint8Array>;
    for (const [hash, b] of Object.entries(found)) {
      here.set(hash, b);
      held.set(hash, b);
    }
  }
  return { character: fromStored(stored, (h) => here.get(h)), fetched: wanted.length };
}

/** A line of an answer that tells of its progress. */
export interface ToldLine {
  stage: string;
  share: number;
  message?: string;
  id?: string;
  name?: string;
  notes?: string[];
  rows?: { label: string; outcome: string; why?: string }[];
  from?: number;
}

/** Reads an answer that tells of its progress. The last line is given back; a refusal is thrown, and `broken` where the answer ends before its end. */
async function told(response: Response, onLine: (line: ToldLine) => void, broken: string): Promise<ToldLine> {
  if (!response.ok || !response.body)
    throw new ApiError(
      ((await response.json().catch(() => ({}))) as { message?: string }).message ??
        `The server answered with ${response.status}; try again.`,
      response.status,
      {},
    );
  const reader = response.body.pipeThrough(new TextDecoderStream()).getReader();
  let text = '';
  let last: ToldLine = { stage: 'sending', share: 0 };
  for (;;) {
    const { value, done } = await reader.read();
    if (done) break;
    text += value;
    const lines = text.split('\n');
    text = lines.pop() ?? '';
    for (const line of lines) {
      last = JSON.parse(line) as ToldLine;
      onLine(last);
    }
  }
  if (last.stage === 'refused') throw new ApiError(last.message ?? broken, 422, {});
  if (last.stage !== 'done') throw new ApiError(broken, 0, {});
  return last;
}

/** Sends files and reads the answer line by line. */
export async function sendFiles(
  path: string,
  files: readonly File[],
  fields: Record<string, string>,
  onLine: (line: ToldLine) => void,
  signal: AbortSignal,
): Promise<ToldLine> {
  const form = new FormData();
  for (const [k, v] of Object.entries(fields)) if (v !== '') form.set(k, v);
  for (const f of files) form.append('files', f, f.name);
  return told(
    await fetch(path, { method: 'POST', body: form, signal }),
    onLine,
    'The connection broke off before the files were taken in; drop them again.',
  );
}

/** The findings of a revision under a brief; where they are not known yet they are made, told line by line. */
export async function fetchFindings(
  revision: string,
  brief: string,
  onLine: (line: ToldLine) => void,
  signal: AbortSignal,
): Promise<Finding[]> {
  const path = `/api/revisions/${revision}/audit?brief=${brief}`;
  const known = await bytes(path, { signal });
  if (known.byteLength > 0) return unpack(known) as Finding[];
  onLine({ stage: 'auditing', share: 0 });
  await told(
    await fetch(path, { method: 'POST', signal }),
    onLine,
    'The connection broke off before the audit was done; reload the page.',
  );
  return unpack(await bytes(path, { signal })) as Finding[];
}

export interface Surveyed {
  name: string;
  format: string;
  unitMetres: number;
  upAxis: 'x' | 'y' | 'z';
  stated: { unit: boolean; upAxis: boolean };
  size: [number, number, number];
  bones: number;
  vertices: number;
  clips: number;
}

/** What files say of their unit and axes. Formats that always say it are not asked. */
export async function surveyFiles(files: readonly File[], signal: AbortSignal): Promise<Surveyed | null> {
  if (!files.some((f) => /\.(obj|bvh|dae|zae|zip)$/i.test(f.name))) return null;
  const form = new FormData();
  for (const f of files) form.append('files', f, f.name);
  const response = await fetch('/api/survey', { method: 'POST', body: form, signal });
  const body = (await response.json().catch(() => ({}))) as Surveyed & { message?: string };
  if (!response.ok)
    throw new ApiError(
      body.message ?? `The server answered with ${response.status}; drop the files again.`,
      response.status,
      {},
    );
  return body.stated.unit && body.stated.upAxis ? null : body;
}

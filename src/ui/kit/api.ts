import { unpack } from '@/core/character/bundle';
import { type StoredCharacter, fromStored } from '@/core/character/stored';
import type { Character } from '@/core/character/model';
import type { Finding } from '@/core/audit/types';

/** A refusal by the server, with its sentence. */
export class ApiError extends Error {
  constructor(message: string, readonly status: number, readonly body: Record<string, unknown>) { super(message); }
}

export async function api<T>(path: string, options: { method?: string; body?: unknown; signal?: AbortSignal } = {}): Promise<T> {
  let response: Response;
  try {
    response = await fetch(path, { method: options.method ?? 'GET', signal: options.signal, ...(options.body === undefined ? {} : { body: JSON.stringify(options.body), headers: { 'content-type': 'application/json' } }) });
  } catch (error) {
    if (options.signal?.aborted) throw error;
    throw new ApiError('The server does not answer; check that it runs, then try again. Nothing was lost.', 0, {});
  }
  const body = await response.json().catch(() => ({})) as Record<string, unknown>;
  if (!response.ok) throw new ApiError(typeof body.message === 'string' ? body.message : `The server answered with ${response.status}; try again.`, response.status, body);
  return body as T;
}

async function bytes(path: string, init?: RequestInit): Promise<ArrayBuffer> {
  const response = await fetch(path, init);
  if (!response.ok) {
    const body = await response.json().catch(() => ({})) as { message?: string };
    throw new ApiError(body.message ?? `The server answered with ${response.status}; try again.`, response.status, body);
  }
  return response.arrayBuffer();
}

/** Arrays that this page holds already, by content address: a revision that shares them is shown without sending them again. */
const held = new Map<string, Uint8Array>();

export async function fetchCharacter(revision: string): Promise<{ character: Character; fetched: number }> {
  const stored = await api<StoredCharacter>(`/api/revisions/${revision}`);
  const wanted = [...new Set(stored.arrays)].filter((h) => !held.has(h));
  if (wanted.length > 0) {
    const found = unpack(await bytes('/api/arrays', { method: 'POST', body: JSON.stringify({ hashes: wanted }), headers: { 'content-type': 'application/json' } })) as Record<string, Uint8Array>;
    for (const [hash, b] of Object.entries(found)) held.set(hash, b);
  }
  return { character: fromStored(stored, (h) => held.get(h)), fetched: wanted.length };
}

export async function fetchFindings(revision: string, brief: string, signal?: AbortSignal): Promise<Finding[]> {
  return unpack(await bytes(`/api/revisions/${revision}/audit?brief=${brief}`, { signal })) as Finding[];
}

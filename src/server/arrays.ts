/**
 * Arrays of characters in memory that threads share: read from the database once, and sent to no thread that
 * could read them here.
 */
import { LRUCache } from 'lru-cache';
import { type Db, getBlobs } from './blobs';

const held = globalThis as unknown as { boughArrays?: LRUCache<string, Uint8Array> };

/** How long arrays are kept that nobody asks for, milliseconds. */
const KEPT = 2 * 60_000;

/** What was not asked for longest goes; the bound is a setting for machines that have little memory. */
function shared(): LRUCache<string, Uint8Array> {
  if (!held.boughArrays) {
    const arrays = new LRUCache<string, Uint8Array>({
      maxSize: Number(process.env.BOUGH_ARRAYS_MB ?? 512) * 1024 * 1024,
      sizeCalculation: (b) => Math.max(1, b.byteLength),
      ttl: KEPT,
      updateAgeOnGet: true,
    });
    held.boughArrays = arrays;
    setInterval(() => arrays.purgeStale(), KEPT / 4).unref();
  }
  return held.boughArrays;
}

/** The arrays at the given addresses, each in shared memory; one that is not stored is left out. */
export async function sharedArrays(db: Db, hashes: readonly string[]): Promise<Map<string, Uint8Array>> {
  const cache = shared();
  const out = new Map<string, Uint8Array>();
  const missing: string[] = [];
  for (const hash of new Set(hashes)) {
    const known = cache.get(hash);
    if (known) out.set(hash, known);
    else missing.push(hash);
  }
  for (const [hash, bytes] of await getBlobs(db, missing)) {
    const copy = shareBytes(bytes);
    cache.set(hash, copy);
    out.set(hash, copy);
  }
  return out;
}

/** Keeps arrays that were just made, so that the next step finds them here. */
export function keepArrays(made: ReadonlyMap<string, Uint8Array>): void {
  const cache = shared();
  for (const [hash, bytes] of made) if (!cache.has(hash)) cache.set(hash, shareBytes(bytes));
}

function shareBytes(bytes: Uint8Array): Uint8Array {
  const copy = new Uint8Array(new SharedArrayBuffer(bytes.length));
  copy.set(bytes);
  return copy;
}

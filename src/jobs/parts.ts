/**
 * Bytes that a job is sent with, in parts: the database hands a value out as text of twice its length, and no text may be
 * longer than half a gigabyte.
 */
import { type Db, getBlob, hashOf } from '../server/blobs';

/** The most bytes of a part. */
const PART = 64 * 2 ** 20;

/** Bytes cut into parts that the database can hand out; at least one. */
export function partsOf(bytes: Uint8Array, most = PART): Uint8Array[] {
  const parts: Uint8Array[] = [];
  for (let at = 0; at === 0 || at < bytes.length; at += most) parts.push(bytes.subarray(at, at + most));
  return parts;
}

/** The addresses of parts, in order. */
export const addressesOf = (parts: readonly Uint8Array[]): string[] => parts.map(hashOf);

/** The bytes that were cut into the parts at these addresses, in memory of their own; null where one is not kept. */
export async function wholeOf(db: Db, addresses: readonly string[]): Promise<Uint8Array | null> {
  const parts: Uint8Array[] = [];
  for (const address of addresses) {
    const part = await getBlob(db, address);
    if (!part) return null;
    parts.push(part);
  }
  const whole = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}

/** The worker thread's door: runs a job and hands its bytes over instead of copying them. */
import { readlinkSync } from 'node:fs';
import os from 'node:os';
import { move, transferableSymbol, valueSymbol, workerData } from 'piscina';
import type { ThreadTask } from '../tasks/list';
import { runJob } from './tasks';

giveWay(Number((workerData as { niceness?: number } | null)?.niceness ?? 0));

/** Has this thread alone give way to others, where the system tells its threads apart by number. */
function giveWay(niceness: number): void {
  if (niceness <= 0) return;
  try {
    os.setPriority(Number(readlinkSync('/proc/thread-self').split('/').at(-1)), niceness);
  } catch {
    // It works as well without, only less quietly.
  }
}

/** Buffers of a result that nothing on this side needs any more. Shared memory stays where it is. */
function buffersOf(x: unknown, found: Set<ArrayBuffer>): Set<ArrayBuffer> {
  if (ArrayBuffer.isView(x)) {
    if (x.buffer instanceof ArrayBuffer) found.add(x.buffer);
  } else if (x instanceof Map) {
    for (const value of x.values()) buffersOf(value, found);
  } else if (Array.isArray(x)) {
    for (const value of x) buffersOf(value, found);
  } else if (x && typeof x === 'object') {
    for (const value of Object.values(x)) buffersOf(value, found);
  }
  return found;
}

export default function run(job: ThreadTask): unknown {
  const value = runJob(job);
  return move({
    get [transferableSymbol]() {
      return [...buffersOf(value, new Set())];
    },
    get [valueSymbol]() {
      return value;
    },
  } as never);
}

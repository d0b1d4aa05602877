import { type Remote, wrap } from 'comlink';
import type { DeskWorker } from '../worker/desk.worker';

let worker: Remote<DeskWorker> | null = null;
let thread: Worker | null = null;

/** The page's worker; made at first use, on the page only. */
export function deskWorker(): Remote<DeskWorker> {
  if (!worker) {
    thread = new Worker(new URL('../worker/desk.worker.ts', import.meta.url), { type: 'module' });
    worker = wrap<DeskWorker>(thread);
  }
  return worker;
}

export function endWorker(): void {
  thread?.terminate();
  thread = null;
  worker = null;
}

import { type Remote, wrap } from 'comlink';
import type { Character } from '@/core/character/model';
import type { DeskWorker } from '../worker/desk.worker';
import type { SolveWorker } from '../worker/solve.worker';

interface Running<T> {
  readonly thread: Worker;
  readonly remote: Remote<T>;
}

let following: Running<DeskWorker> | null = null;
let solving: Running<SolveWorker> | null = null;
let taken: Character | null = null;

function run<T>(thread: Worker): Running<T> {
  return { thread, remote: wrap<T>(thread) };
}

/** The page's worker for what follows the hand; made at first use, on the page only. */
export function deskWorker(): Remote<DeskWorker> {
  following ??= run(new Worker(new URL('../worker/desk.worker.ts', import.meta.url), { type: 'module' }));
  return following.remote;
}

/**
 * The page's worker for what computes for seconds, with a character laid before it. It gets the character when it is asked
 * about it for the first time; what is asked goes behind it in the same line.
 */
export function solveWorker(character: Character): Remote<SolveWorker> {
  solving ??= run(new Worker(new URL('../worker/solve.worker.ts', import.meta.url), { type: 'module' }));
  if (taken !== character) void solving.remote.take(character);
  taken = character;
  return solving.remote;
}

export function endWorkers(): void {
  following?.thread.terminate();
  solving?.thread.terminate();
  following = null;
  solving = null;
  taken = null;
}

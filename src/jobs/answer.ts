/** How a route answers with what a worker makes: line by line, and of which files. */
import { randomUUID } from 'node:crypto';
import type { ProgressLine } from '../routes/arrivals';
import { type Arriving, streamProgress } from '../server/arrivals';
import { database } from '../server/database';
import type { Wanted } from './ask';
import type { KindName } from './kinds';
import { addressesOf, partsOf } from './parts';
import { askAndWait } from './wait';

/** A job that a route asks for; its id is the one that the page made, where it made one. */
export const wantedBy = (
  kind: KindName,
  job: string | undefined,
  rest: Omit<Wanted, 'id' | 'kind'>,
): Wanted => ({ id: job ?? randomUUID(), kind, ...rest });

/**
 * Asks for a job and tells of it line by line (NDJSON); the last line is what came of it, or the one sentence that says why
 * nothing did. It goes on where the page is closed; it is ended by cancelling it.
 */
export const streamJob = (request: Request, failure: string, wanted: Wanted): Response =>
  streamProgress(request, failure, (say, signal) =>
    askAndWait<Omit<ProgressLine, 'stage' | 'share'>>(database(), wanted, { signal, onProgress: say }),
  );

/** What a job is told of files that came with a request: how they are listed, and where their parts lie. */
export function filesAsked({ files, options, listed }: Arriving<unknown>) {
  const parts = files.map((file) => partsOf(file.bytes));
  const told = listed.map((file, i) => ({ ...file, parts: addressesOf(parts[i]) }));
  return { files: parts.flat(), input: { files: told, read: options } };
}

/** What routes share that take files in: the form, and the stream of progress. */
import { type AnyObjectSchema, type InferType } from 'yup';
import type { StepFile } from '../core/contracts/step';
import type { ReadOptions } from '../core/formats';
import type { InputFile } from '../core/formats/errors';
import type { CharacterRecord } from '../routes/characters';
import { type ProgressLine, arrivalFields } from '../routes/arrivals';
import { hashOf } from './blobs';
import { characterById } from './characters';
import { database, databaseTrouble } from './database';
import { type Context, checkRequest } from './http';
import { type Progress } from './pool';
import { Refused } from './refused';

/** A body that is coming in: its fields and its files. */
export interface Arriving<F> {
  readonly fields: F;
  readonly files: InputFile[];
  readonly options: ReadOptions;
  readonly listed: StepFile[];
}

/** The files of a multipart request, and the fields that go along with them. Throws {@link Refused}. */
export async function readArrival<S extends AnyObjectSchema>(
  schema: S,
  request: Request,
  params: Readonly<Record<string, string>> = {},
): Promise<Arriving<InferType<S>>> {
  const form = await formOf(request);
  const named = [...form.getAll('files')].filter((value): value is File => value instanceof File);
  const files = await Promise.all(
    named.map(async (file) => ({ name: file.name, bytes: new Uint8Array(await file.arrayBuffer()) })),
  );
  if (files.length === 0)
    throw new Refused(
      'No file was chosen; drop a .glb, .dae, .zae, .obj or .bvh, or a .gltf with its files.',
      400,
    );
  const texts = [...form.entries()].filter(([, value]) => typeof value === 'string');
  const fields = checkRequest(schema, { ...Object.fromEntries(texts), ...params });
  const { unit, up } = fields as { unit?: number; up?: 'x' | 'y' | 'z' };
  return {
    fields,
    files,
    options: { ...(unit ? { unitMetres: unit } : {}), ...(up ? { upAxis: up } : {}) },
    listed: files.map((file) => ({ name: file.name, bytes: file.bytes.length, sha256: hashOf(file.bytes) })),
  };
}

async function formOf(request: Request): Promise<FormData> {
  try {
    return await request.formData();
  } catch {
    throw new Refused('The request holds no files; drop them again.', 400);
  }
}

/** Files that go onto a character: with the character and the revision that they were sent for. */
export async function readArrivalFor(request: Request, { params }: Context) {
  const arriving = await readArrival(arrivalFields, request, await params);
  const character: CharacterRecord = await characterById(database(), arriving.fields.id);
  return { ...arriving, base: arriving.fields.base, character };
}

export type Say = (line: Progress) => void;

/**
 * Runs work whose progress is told line by line (NDJSON); the last line is what it gives, or the one sentence
 * that says why not. The work's signal tells that whoever asked has gone, be it before the first line was sent
 * (an answer that nobody takes is never cancelled) or after.
 */
export function streamProgress(
  request: Request,
  failure: string,
  work: (say: Say, signal: AbortSignal) => Promise<Omit<ProgressLine, 'stage' | 'share'>>,
): Response {
  const cancel = new AbortController();
  const signal = AbortSignal.any([request.signal, cancel.signal]);
  const stream = new ReadableStream<Uint8Array>({
    async start(controller) {
      const line = (x: object) => {
        try {
          controller.enqueue(new TextEncoder().encode(`${JSON.stringify(x)}\n`));
        } catch {
          /* the page has gone; the work goes on */
        }
      };
      try {
        line({ stage: 'received', share: 0.05 });
        line({ stage: 'done', share: 1, ...(await work(line, signal)) });
      } catch (error) {
        const trouble = databaseTrouble(error);
        const message = error instanceof Refused ? error.message : (trouble ?? failure);
        line({ stage: 'refused', share: 1, message });
        if (!(error instanceof Refused) && !trouble)
          process.stderr.write(`${error instanceof Error ? error.stack : String(error)}\n`);
      }
      try {
        controller.close();
      } catch {
        /* closed by the page */
      }
    },
    cancel() {
      cancel.abort();
    },
  });
  return new Response(stream, {
    headers: { 'content-type': 'application/x-ndjson', 'cache-control': 'no-store' },
  });
}

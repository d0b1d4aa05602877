/** What routes share that take files in: the form, the stream of progress, the first audit. */
import { type InferType, number, object, string } from 'yup';
import type { StepFile } from '../core/contracts/step';
import type { ReadOptions } from '../core/formats';
import type { InputFile } from '../core/formats/errors';
import { hashOf } from './blobs';
import { characterById } from './characters';
import { database } from './database';
import { checked, uuid } from './http';
import { type Progress, Refused } from './pool';

const MOST = Number(process.env.BOUGH_UPLOAD_BYTES ?? 1 << 30);

const fields = object({
  unit: number()
    .positive()
    .transform((v, raw) => (raw === null || raw === '' ? undefined : v)),
  up: string<'x' | 'y' | 'z'>()
    .oneOf(['x', 'y', 'z'])
    .transform((v) => v || undefined),
});

export interface Arriving {
  readonly form: FormData;
  readonly files: InputFile[];
  readonly options: ReadOptions;
  readonly listed: StepFile[];
}

/** The files of a multipart request, and what it says of their unit and axes. Throws {@link Refused}. */
export async function filesOf(request: Request): Promise<Arriving> {
  if (Number(request.headers.get('content-length') ?? 0) > MOST)
    throw new Refused(
      `The files are larger than ${MOST} bytes together; split them, or raise BOUGH_UPLOAD_BYTES.`,
      413,
    );
  let form: FormData;
  try {
    form = await request.formData();
  } catch {
    throw new Refused('The request holds no files; drop them again.', 400);
  }
  const files = await Promise.all(
    form
      .getAll('files')
      .filter((f): f is File => f instanceof File)
      .map(async (f) => ({ name: f.name, bytes: new Uint8Array(await f.arrayBuffer()) })),
  );
  if (files.length === 0)
    throw new Refused(
      'No file was chosen; drop a .glb, .dae, .zae, .obj or .bvh, or a .gltf with its files.',
      400,
    );
  const { unit, up } = fields.validateSync(
    { unit: form.get('unit'), up: form.get('up') },
    { stripUnknown: true },
  ) as InferType<typeof fields>;
  return {
    form,
    files,
    options: { ...(unit ? { unitMetres: unit } : {}), ...(up ? { upAxis: up } : {}) },
    listed: files.map((f) => ({ name: f.name, bytes: f.bytes.length, sha256: hashOf(f.bytes) })),
  };
}

/** The same for files that go onto a character: with the character and the revision that they were sent for. */
export async function arrivingAt(request: Request, params: { id: string }) {
  const arriving = await filesOf(request);
  const { id, base } = checked(object({ id: uuid(), base: uuid() }), {
    ...params,
    base: arriving.form.get('base'),
  });
  return { ...arriving, base, character: await characterById(database(), id) };
}

export type Say = (line: Progress) => void;

/** Runs work whose progress is told line by line (NDJSON); the last line is what it gives, or the one sentence that says why not. */
export function told(
  failure: string,
  work: (say: Say, signal: AbortSignal) => Promise<Record<string, unknown>>,
): Response {
  const cancel = new AbortController();
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
        line({ stage: 'done', share: 1, ...(await work(line, cancel.signal)) });
      } catch (error) {
        line({ stage: 'refused', share: 1, message: error instanceof Refused ? error.message : failure });
        if (!(error instanceof Refused))
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

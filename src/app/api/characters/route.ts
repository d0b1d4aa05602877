import { BRIEFS } from '@/core/audit/briefs';
import { createCharacter, listCharacters, saveAudit, wireOf } from '@/server/characters';
import { database } from '@/server/database';
import { hashOf } from '@/server/blobs';
import { answer } from '@/server/http';
import { Refused, onThread } from '@/server/pool';

export const dynamic = 'force-dynamic';

/** The shelf. */
export async function GET(request: Request) {
  return answer(request, async () => ({ characters: await listCharacters(database()) }));
}

const MOST = Number(process.env.BOUGH_UPLOAD_BYTES ?? 1 << 30);

/** Takes in one character from one or several files. Answers line by line (NDJSON) with progress, then the new character or the one sentence that says why not. */
export async function POST(request: Request) {
  return answer(request, async () => {
    if (Number(request.headers.get('content-length') ?? 0) > MOST) throw new Refused(`The files are larger than ${MOST} bytes together; split them, or raise BOUGH_UPLOAD_BYTES.`, 413);
    const form = await request.formData().catch(() => { throw new Refused('The files did not arrive whole; drop them again.', 400); });
    const brief = String(form.get('brief') ?? 'handset');
    if (!BRIEFS.some((b) => b.id === brief)) throw new Refused(`There is no brief “${brief}”.`, 400);
    const files = await Promise.all(form.getAll('files').filter((f): f is File => f instanceof File).map(async (f) => ({ name: f.name, bytes: new Uint8Array(await f.arrayBuffer()) })));
    if (files.length === 0) throw new Refused('No file was chosen; drop a .glb, or a .gltf with its files.', 400);
    const cancel = new AbortController();
    const stream = new ReadableStream<Uint8Array>({
      async start(controller) {
        const line = (x: object) => { try { controller.enqueue(new TextEncoder().encode(`${JSON.stringify(x)}\n`)); } catch { /* the page has gone; the work goes on */ } };
        try {
          line({ stage: 'received', share: 0.05 });
          const made = await onThread({ task: 'import', files }, { onProgress: (p) => line(p), signal: cancel.signal });
          line({ stage: 'saving', share: 0.75 });
          const db = database();
          const { id, revision } = await createCharacter(db, made.name, brief, {
            ...made, label: 'as delivered', step: { kind: 'import', files: files.map((f) => ({ name: f.name, bytes: f.bytes.length, sha256: hashOf(f.bytes) })), notes: [...made.notes] },
          });
          line({ stage: 'auditing', share: 0.85 });
          const audited = await onThread({ task: 'audit', wire: await wireOf(db, revision), brief });
          await saveAudit(db, revision, brief, audited.findings, audited.counts);
          line({ stage: 'done', share: 1, id, name: made.name, notes: made.notes, counts: audited.counts });
        } catch (error) {
          line({ stage: 'refused', share: 1, message: error instanceof Refused ? error.message : 'The file could not be taken in; nothing was saved. Try again, and report it if it stays.' });
          if (!(error instanceof Refused)) process.stderr.write(`${error instanceof Error ? error.stack : String(error)}\n`);
        }
        try { controller.close(); } catch { /* closed by the page */ }
      },
      cancel() { cancel.abort(); },
    });
    return new Response(stream, { headers: { 'content-type': 'application/x-ndjson', 'cache-control': 'no-store' } });
  });
}

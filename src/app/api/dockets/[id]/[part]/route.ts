import { cancel } from '@/jobs/ask';
import { wantedBy } from '@/jobs/answer';
import { askAndWait } from '@/jobs/wait';
import { docketPartRequest } from '@/routes/dockets';
import { database } from '@/server/database';
import { getBlob } from '@/server/blobs';
import { docketPart } from '@/server/dockets';
import { type Context, REPORT_POLICY, answer, attachment, binary, readRequest } from '@/server/http';
import { printOf } from '@/server/print';
import { Refused } from '@/server/refused';

/** What a docket keeps: its file, the docket, the report as a page, the report as PDF. */
export const GET = (request: Request, context: Context) =>
  answer(request, async () => {
    const { id, part } = await readRequest(docketPartRequest, request, context);
    const { bytes, name, type } = await docketPart(database(), id, part === 'pdf' ? 'report' : part);
    if (part === 'pdf') {
      const pdf = (await printOf(database(), bytes)) ?? (await printed(id, name, request.signal));
      return binary(pdf, 'application/pdf', attachment(name.replace(/html$/, 'pdf')));
    }
    if (part === 'report') return binary(bytes, type, REPORT_POLICY);
    return binary(bytes, type, attachment(name));
  });

/** Has a worker print it; where whoever asked has gone, nobody wants it any more. */
async function printed(docket: string, name: string, signal: AbortSignal): Promise<Uint8Array> {
  const db = database();
  const wanted = wantedBy('print', undefined, {
    title: `printing ${name}`,
    input: { docket },
    character: null,
    base: null,
  });
  try {
    const { pdf } = await askAndWait<{ pdf: string }>(db, wanted, { signal });
    const bytes = await getBlob(db, pdf);
    if (!bytes) throw new Refused('The print is not there any more; ask for it again.', 404);
    return bytes;
  } catch (error) {
    if (signal.aborted) await cancel(db, wanted.id);
    throw error;
  }
}

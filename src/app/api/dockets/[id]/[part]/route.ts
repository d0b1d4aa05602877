import { docketPartRequest } from '@/routes/dockets';
import { database } from '@/server/database';
import { docketPart } from '@/server/dockets';
import { type Context, REPORT_POLICY, answer, attachment, binary, readRequest } from '@/server/http';
import { printPdf } from '@/server/print';

/** What a docket keeps: its file, the docket, the report as a page, the report as PDF. */
export const GET = (request: Request, context: Context) =>
  answer(request, async () => {
    const { id, part } = await readRequest(docketPartRequest, request, context);
    const { bytes, name, type } = await docketPart(database(), id, part === 'pdf' ? 'report' : part);
    if (part === 'pdf')
      return binary(await printPdf(bytes), 'application/pdf', attachment(name.replace(/html$/, 'pdf')));
    if (part === 'report') return binary(bytes, type, REPORT_POLICY);
    return binary(bytes, type, attachment(name));
  });

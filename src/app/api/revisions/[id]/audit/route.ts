import { briefKey } from '@/core/house/brief';
import { auditRequest } from '@/routes/revisions';
import { streamProgress } from '@/server/arrivals';
import { findingsOf, saveAudit } from '@/server/audits';
import { briefByKey } from '@/server/briefs';
import { database } from '@/server/database';
import { type Context, answer, binary, readRequest } from '@/server/http';
import { runTask } from '@/server/pool';
import { revisionById, wireOf } from '@/server/revisions';

/**
 * The findings of a revision under a brief, as a bundle; 204 where it has not been audited under that one.
 */
export const GET = (request: Request, context: Context) =>
  answer(request, async () => {
    const { id, brief } = await readRequest(auditRequest, request, context);
    const known = await findingsOf(database(), id, briefKey(await briefByKey(database(), brief)));
    return known ? binary(known) : new Response(null, { status: 204 });
  });

/**
 * Audits a revision under a brief and keeps what was found. Answers line by line with progress; broken off,
 * it keeps nothing.
 */
export const POST = (request: Request, context: Context) =>
  answer(request, async () => {
    const { id, brief } = await readRequest(auditRequest, request, context);
    await revisionById(database(), id);
    const wants = await briefByKey(database(), brief);
    const input = async () => ({ wire: await wireOf(database(), id), brief: wants });
    return streamProgress(
      request,
      'The audit could not be done; nothing was changed. Try again, and report it if it stays.',
      async (say, signal) => {
        const audited = await runTask('audit', input, { onProgress: say, signal });
        await saveAudit(database(), id, briefKey(wants), audited, signal);
        return { counts: audited.counts };
      },
    );
  });

import { briefKey } from '@/core/house/brief';
import { streamJob, wantedBy } from '@/jobs/answer';
import { auditRequest } from '@/routes/revisions';
import { findingsOf } from '@/server/audits';
import { briefByKey } from '@/server/briefs';
import { database } from '@/server/database';
import { type Context, answer, binary, readRequest } from '@/server/http';
import { revisionById } from '@/server/revisions';

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
 * Audits a revision under a brief and keeps what was found. Answers line by line with progress; cancelled, it
 * keeps nothing.
 */
export const POST = (request: Request, context: Context) =>
  answer(request, async () => {
    const { id, brief, job, moved } = await readRequest(auditRequest, request, context);
    const { name, characterId } = await revisionById(database(), id);
    const wants = await briefByKey(database(), brief);
    return streamJob(
      request,
      'The audit could not be done; nothing was changed. Try again, and report it if it stays.',
      wantedBy('audit', job, {
        title: moved ? `trying ${name} in motion` : `auditing ${name}`,
        input: { revision: id, brief: briefKey(wants), isMoved: moved },
        character: characterId,
        base: null,
      }),
    );
  });

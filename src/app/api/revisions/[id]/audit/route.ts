import { object, string } from 'yup';
import { BRIEFS } from '@/core/house/briefs';
import { told } from '@/server/arrivals';
import { findingsOf, saveAudit, wireOf } from '@/server/characters';
import { database } from '@/server/database';
import { answer, binary, checked, uuid } from '@/server/http';
import { onThread } from '@/server/pool';

type Context = { params: Promise<{ id: string }> };
const schema = object({
  id: uuid(),
  brief: string()
    .oneOf(BRIEFS.map((b) => b.id))
    .required(),
});

const asked = async (request: Request, { params }: Context) =>
  checked(schema, { ...(await params), brief: new URL(request.url).searchParams.get('brief') });

/** The findings of a revision under a brief, as a bundle; 204 where it has not been audited under that one. */
export async function GET(request: Request, context: Context) {
  return answer(request, async () => {
    const { id, brief } = await asked(request, context);
    const known = await findingsOf(database(), id, brief);
    return known ? binary(known) : new Response(null, { status: 204 });
  });
}

/** Audits a revision under a brief and keeps what was found. Answers line by line with progress; broken off, it keeps nothing. */
export async function POST(request: Request, context: Context) {
  return answer(request, async () => {
    const { id, brief } = await asked(request, context);
    const wire = await wireOf(database(), id);
    return told(
      'The audit could not be done; nothing was changed. Try again, and report it if it stays.',
      async (say, signal) => {
        const audited = await onThread({ task: 'audit', wire, brief }, { onProgress: say, signal });
        await saveAudit(database(), id, brief, audited.findings, audited.counts);
        return { counts: audited.counts };
      },
    );
  });
}

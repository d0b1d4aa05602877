import { object, string } from 'yup';
import { BRIEFS } from '@/core/audit/briefs';
import { findingsOf, saveAudit, wireOf } from '@/server/characters';
import { database } from '@/server/database';
import { answer, binary, checked, uuid } from '@/server/http';
import { onThread } from '@/server/pool';

const schema = object({ id: uuid(), brief: string().oneOf(BRIEFS.map((b) => b.id)).required() });

/** The findings of a revision under a brief, as a bundle; computed once. */
export async function GET(request: Request, { params }: { params: Promise<{ id: string }> }) {
  return answer(request, async () => {
    const { id, brief } = checked(schema, { ...(await params), brief: new URL(request.url).searchParams.get('brief') });
    const db = database();
    const known = await findingsOf(db, id, brief);
    if (known) return binary(known);
    const audited = await onThread({ task: 'audit', wire: await wireOf(db, id), brief }, { signal: request.signal });
    await saveAudit(db, id, brief, audited.findings, audited.counts);
    return binary(audited.findings);
  });
}

import { wantedBy } from '@/jobs/answer';
import { askAndWait } from '@/jobs/wait';
import { tryBrief } from '@/routes/briefs';
import { briefById, briefSent } from '@/server/briefs';
import { database } from '@/server/database';
import { handle } from '@/server/http';
import type { StandsUnder } from '@/server/standings';

export const POST = handle(tryBrief, async ({ id, brief, job }, { signal }) => {
  await briefById(database(), id);
  const input = { id, brief: briefSent(brief) };
  const title = `who would stand differently under ${input.brief.title}`.slice(0, 200);
  const wanted = wantedBy('try a brief', job, { title, input, character: null, base: null });
  return askAndWait<{ rows: StandsUnder[] }>(database(), wanted, { signal });
});

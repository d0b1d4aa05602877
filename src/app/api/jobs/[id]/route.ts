import { askAgain, cancel, countParts, jobWithParts } from '@/jobs/ask';
import { jobTold } from '@/jobs/told';
import { askAgainForJob, cancelJob, readJob } from '@/routes/jobs';
import { database } from '@/server/database';
import { handle } from '@/server/http';

export const GET = handle(readJob, async ({ id }) => {
  const { job, parts } = await jobWithParts(database(), id);
  return { job: jobTold({ ...job, ...countParts(parts) }), parts: parts.map(jobTold) };
});

export const DELETE = handle(cancelJob, async ({ id }) => ({ state: await cancel(database(), id) }));

export const POST = handle(askAgainForJob, async ({ id }) => {
  await askAgain(database(), id);
  return { id };
});

import { cancel, jobWithParts } from '@/jobs/ask';
import { jobTold } from '@/jobs/told';
import { cancelJob, readJob } from '@/routes/jobs';
import { database } from '@/server/database';
import { handle } from '@/server/http';

export const GET = handle(readJob, async ({ id }) => {
  const { job, parts } = await jobWithParts(database(), id);
  const ended = parts.filter((p) => p.ended_at !== null).length;
  return { job: jobTold({ ...job, all: parts.length, ended }), parts: parts.map(jobTold) };
});

export const DELETE = handle(cancelJob, async ({ id }) => {
  await cancel(database(), id);
  return { id };
});

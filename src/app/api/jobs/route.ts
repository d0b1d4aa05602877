import { askTogether, jobsAtWork } from '@/jobs/ask';
import { jobTold } from '@/jobs/told';
import { askForJobs, listJobs } from '@/routes/jobs';
import { database } from '@/server/database';
import { handle } from '@/server/http';

export const dynamic = 'force-dynamic';

export const GET = handle(listJobs, async () => ({ jobs: (await jobsAtWork(database())).map(jobTold) }));

export const POST = handle(
  askForJobs,
  async ({ by, ...wanted }) => {
    await askTogether(database(), wanted, by);
    return { id: wanted.id };
  },
  201,
);

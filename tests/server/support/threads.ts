import type { ThreadTask } from '@/tasks/list';
import { runJob } from './run-job';

/** Stands in for the pool of threads: every job is done at once, here. */
export class Piscina {
  async run(job: unknown): Promise<unknown> {
    return runJob(job as ThreadTask);
  }
}

import type * as Tasks from '@/worker/tasks';

const { runJobOutside } = globalThis as { runJobOutside?: typeof Tasks.runJob };

/** Does a job as the threads of the house do; outside of the context that tests run in, see computing-environment. */
export const runJob: typeof Tasks.runJob = (job) =>
  (runJobOutside ?? jest.requireActual<typeof Tasks>('@/worker/tasks').runJob)(job);

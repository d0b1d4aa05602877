import path from 'node:path';
import { MessageChannel } from 'node:worker_threads';
import pLimit, { type LimitFunction } from 'p-limit';
import { Piscina } from 'piscina';
import {
  type Refusal,
  TASKS,
  type TaskAnswer,
  type TaskInput,
  type TaskName,
  type ThreadTask,
} from '../tasks/list';
import { TASK_LANES, type Progress } from '../tasks/task';
import { guardMemory } from './memory';
import { Refused, cancelled } from './refused';

export type { Progress };

const held = globalThis as unknown as {
  boughPools?: Map<string, Piscina>;
  boughLanes?: Map<string, LimitFunction>;
};

/** What gives way to others has lanes of its own, so that nobody else waits for it. */
function laneOf(task: TaskName, { niceness }: Bounds): LimitFunction {
  const { lane } = TASKS[task];
  const key = `${lane} ${niceness}`;
  held.boughLanes ??= new Map();
  let limit = held.boughLanes.get(key);
  if (!limit) held.boughLanes.set(key, (limit = pLimit(TASK_LANES[lane])));
  return limit;
}

/** What a task may take. */
export interface Bounds {
  readonly seconds: number;
  /** Of the engine's heap, MB; arrays lie beside it, and are watched for the process as a whole. */
  readonly megabytes: number;
  /** How much its thread gives way to all else on the machine, 0 to 19, as the system counts it. */
  readonly niceness: number;
}

/** What a request may take, where nothing else is said. */
export const requestBounds = (): Bounds => ({
  seconds: Number(process.env.BOUGH_WORKER_SECONDS ?? 120),
  megabytes: Number(process.env.BOUGH_WORKER_MB ?? 4096),
  niceness: 0,
});

/** Worker threads of this process: each bounded in memory, each job in time. One pool for each bound of memory and niceness. */
function poolOf(bounds: Bounds): Piscina {
  const key = `${bounds.megabytes} ${bounds.niceness}`;
  held.boughPools ??= new Map();
  let pool = held.boughPools.get(key);
  if (!pool) held.boughPools.set(key, (pool = newPool(bounds)));
  return pool;
}

/** Has a thread stand ready for the first task of these bounds. */
export const warmUp = (bounds: Bounds): void => void poolOf(bounds);

/**
 * How threads wait for work: in their event loop. Blocked on shared memory, which is a little faster, a thread never comes to
 * what was put off until the next tick: pictures that were made, compressors and clocks would stay for good.
 */
export const WAITING = { atomics: 'disabled' } as const;

function newPool({ megabytes, niceness }: Bounds): Piscina {
  return new Piscina({
    ...WAITING,
    workerData: { niceness },
    filename: path.join(process.cwd(), 'dist', 'worker.mjs'),
    minThreads: 1,
    maxThreads: Object.values(TASK_LANES).reduce((sum, lane) => sum + lane, 0),
    idleTimeout: 60_000,
    maxQueue: 200,
    resourceLimits: { maxOldGenerationSizeMb: megabytes },
  });
}

/** Who is told of a task, and who can end it. */
export interface RunOptions {
  onProgress?: (progress: Progress) => void;
  signal?: AbortSignal;
  /** Hands the job's files over instead of copying them; the caller must be done with them. */
  giving?: boolean;
  /** What it may take, where that is not what a request may. */
  bounds?: Bounds;
}

/**
 * Runs one task on a worker thread, when it is its turn. Throws {@link Refused} with the worker's sentence, or
 * with one about time and memory.
 * @param input or what loads it, called when the turn has come, so that what waits holds nothing
 */
export function runTask<N extends TaskName>(
  task: N,
  input: TaskInput<N> | (() => Promise<TaskInput<N>>),
  options: RunOptions = {},
): Promise<TaskAnswer<N>> {
  return laneOf(
    task,
    options.bounds ?? requestBounds(),
  )(async () => {
    if (options.signal?.aborted) throw cancelled();
    return runNow(task, typeof input === 'function' ? await input() : input, options);
  });
}

async function runNow<N extends TaskName>(
  task: N,
  input: TaskInput<N>,
  options: RunOptions,
): Promise<TaskAnswer<N>> {
  const bounds = options.bounds ?? requestBounds();
  // A signal of the system's own would hold on to all that its task was given until the time is over.
  const clock = new AbortController();
  const timer = setTimeout(() => clock.abort(), bounds.seconds * 1000);
  const timeout = clock.signal;
  const memory = guardMemory();
  const ends = [timeout, memory.signal, ...(options.signal ? [options.signal] : [])];
  const signal = AbortSignal.any(ends);
  const channel = options.onProgress ? new MessageChannel() : null;
  channel?.port1.on('message', (progress: Progress) => options.onProgress?.(progress));
  const job: ThreadTask<N> = { task, input, ...(channel ? { port: channel.port2 } : {}) };
  try {
    const given = options.giving ? filesOf(input) : [];
    const transferList = [...(channel ? [channel.port2] : []), ...given];
    const answer = (await poolOf(bounds).run(job, { signal, transferList })) as TaskAnswer<N> | Refusal;
    if ('refused' in answer)
      throw new Refused(answer.refused, 422, answer.needless ? { needless: true } : {});
    return answer;
  } catch (error) {
    throw refusalOf(error, options.signal, timeout, memory.signal) ?? error;
  } finally {
    clearTimeout(timer);
    memory.release();
    channel?.port1.close();
  }
}

function filesOf(input: object): ArrayBuffer[] {
  const { files = [] } = input as { files?: readonly { bytes: Uint8Array }[] };
  return [...new Set(files.map((file) => file.bytes.buffer as ArrayBuffer))];
}

/** The sentence for what ended a job from outside; null for what the job itself threw. */
function refusalOf(
  error: unknown,
  asked: AbortSignal | undefined,
  timeout: AbortSignal,
  memory: AbortSignal,
): Refused | null {
  if (error instanceof Refused) return error;
  if (asked?.aborted) return cancelled();
  if (memory.aborted)
    return new Refused(
      'Memory grew short and the work was ended; nothing was changed. Try again when less is going on, try a smaller file, or raise BOUGH_MEMORY_MB.',
    );
  if (timeout.aborted)
    return new Refused(
      'The work took longer than its limit and was ended; nothing was changed. Try a smaller file, or raise the limit (BOUGH_WORKER_SECONDS, or BOUGH_JOB_BOUNDS for a kind of job).',
    );
  const words = error instanceof Error ? `${error.message}${(error as { code?: string }).code ?? ''}` : '';
  if (/memory limit|ERR_WORKER_OUT_OF_MEMORY/i.test(words))
    return new Refused(
      'The file needs more memory than a worker may use; nothing was changed. Try a smaller file, or raise the limit (BOUGH_WORKER_MB, or BOUGH_JOB_BOUNDS for a kind of job).',
    );
  return null;
}

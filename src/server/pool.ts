import path from 'node:path';
import { MessageChannel } from 'node:worker_threads';
import { Piscina } from 'piscina';
import type { Progress } from '../worker/task';
import type { AnswerOf, InputOf, Job, Refusal, TaskName } from '../worker/tasks';
import { Refused } from './refused';

export type { Progress };

const held = globalThis as unknown as { boughPool?: Piscina };

/** Worker threads of this process: each bounded in memory, each job in time. */
function pool(): Piscina {
  held.boughPool ??= new Piscina({
    filename: path.join(process.cwd(), 'dist', 'worker.mjs'),
    minThreads: 1,
    maxThreads: 2,
    idleTimeout: 60_000,
    maxQueue: 200,
    resourceLimits: { maxOldGenerationSizeMb: Number(process.env.BOUGH_WORKER_MB ?? 4096) },
  });
  return held.boughPool;
}

/** Who is told of a task, and who can end it. */
export interface RunOptions {
  onProgress?: (p: Progress) => void;
  signal?: AbortSignal;
  /** Hands the job's files over instead of copying them; the caller must be done with them. */
  giving?: boolean;
}

/**
 * Runs one task on a worker thread. Throws {@link Refused} with the worker's sentence, or with one about time
 * and memory.
 */
export async function runTask<N extends TaskName>(
  task: N,
  input: InputOf<N>,
  options: RunOptions = {},
): Promise<AnswerOf<N>> {
  const timeout = AbortSignal.timeout(Number(process.env.BOUGH_WORKER_SECONDS ?? 120) * 1000);
  const signal = options.signal ? AbortSignal.any([timeout, options.signal]) : timeout;
  const channel = options.onProgress ? new MessageChannel() : null;
  channel?.port1.on('message', (m: Progress) => options.onProgress?.(m));
  const job: Job<N> = { task, input, ...(channel ? { port: channel.port2 } : {}) };
  try {
    const given = options.giving ? filesOf(input) : [];
    const transferList = [...(channel ? [channel.port2] : []), ...given];
    const answer = (await pool().run(job, { signal, transferList })) as AnswerOf<N> | Refusal;
    if ('refused' in answer)
      throw new Refused(answer.refused, 422, answer.needless ? { needless: true } : {});
    return answer;
  } catch (error) {
    throw refusalOf(error, options.signal, timeout) ?? error;
  } finally {
    channel?.port1.close();
  }
}

function filesOf(input: object): ArrayBuffer[] {
  const { files = [] } = input as { files?: readonly { bytes: Uint8Array }[] };
  return [...new Set(files.map((f) => f.bytes.buffer as ArrayBuffer))];
}

/** The sentence for what ended a job from outside; null for what the job itself threw. */
function refusalOf(error: unknown, asked: AbortSignal | undefined, timeout: AbortSignal): Refused | null {
  if (error instanceof Refused) return error;
  if (asked?.aborted) return new Refused('The work was cancelled; nothing was changed.', 499);
  if (timeout.aborted)
    return new Refused(
      'The work took longer than its limit and was ended; nothing was changed. Try a smaller file, or raise BOUGH_WORKER_SECONDS.',
    );
  const words = error instanceof Error ? `${error.message}${(error as { code?: string }).code ?? ''}` : '';
  if (/memory limit|ERR_WORKER_OUT_OF_MEMORY/i.test(words))
    return new Refused(
      'The file needs more memory than a worker may use; nothing was changed. Try a smaller file, or raise BOUGH_WORKER_MB.',
    );
  return null;
}

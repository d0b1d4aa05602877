import path from 'node:path';
import { MessageChannel } from 'node:worker_threads';
import { Piscina } from 'piscina';
import type { Audited, Exported, Made, Refusal, Surveyed, Task } from '../worker/main';

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

/** A failure to show to a person: one sentence, and the status that goes with it. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly status = 422,
    readonly body: Record<string, unknown> = {},
  ) {
    super(message);
  }
}

type Answer<T extends Task['task']> = T extends 'audit'
  ? Audited
  : T extends 'export'
    ? Exported
    : T extends 'survey'
      ? Surveyed
      : T extends 'report'
        ? { html: string }
        : Made;

export interface Progress {
  readonly stage: string;
  readonly share: number;
}

/** Runs one job on a worker thread. Throws {@link Refused} with the worker's sentence, or with one about time and memory. */
export async function onThread<T extends Task['task']>(
  job: Extract<Task, { task: T }>,
  options: {
    onProgress?: (p: Progress) => void;
    signal?: AbortSignal;
    /** Hands the job's files over instead of copying them; the caller must be done with them. */ giving?: boolean;
  } = {},
): Promise<Answer<T>> {
  const timeout = AbortSignal.timeout(Number(process.env.BOUGH_WORKER_SECONDS ?? 120) * 1000);
  const signal = options.signal ? AbortSignal.any([timeout, options.signal]) : timeout;
  const channel = options.onProgress ? new MessageChannel() : null;
  channel?.port1.on('message', (m: Progress) => options.onProgress?.(m));
  try {
    const answer = (await pool().run(channel ? { ...job, port: channel.port2 } : job, {
      signal,
      transferList: [
        ...(channel ? [channel.port2] : []),
        ...(options.giving && 'files' in job
          ? [...new Set(job.files.map((f) => f.bytes.buffer as ArrayBuffer))]
          : []),
      ],
    })) as Answer<T> | Refusal;
    if ('refused' in answer)
      throw new Refused(answer.refused, 422, answer.needless ? { needless: true } : {});
    return answer;
  } catch (error) {
    if (error instanceof Refused) throw error;
    if (options.signal?.aborted) throw new Refused('The work was cancelled; nothing was changed.', 499);
    if (timeout.aborted)
      throw new Refused(
        'The work took longer than its limit and was ended; nothing was changed. Try a smaller file, or raise BOUGH_WORKER_SECONDS.',
      );
    if (
      error instanceof Error &&
      /memory limit|ERR_WORKER_OUT_OF_MEMORY/i.test(
        `${error.message}${(error as { code?: string }).code ?? ''}`,
      )
    )
      throw new Refused(
        'The file needs more memory than a worker may use; nothing was changed. Try a smaller file, or raise BOUGH_WORKER_MB.',
      );
    throw error;
  } finally {
    channel?.port1.close();
  }
}

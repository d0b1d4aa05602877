/**
 * A watch over the memory of the whole process while jobs are at work. A thread's own bound counts the engine's
 * heap alone; arrays lie beside it.
 */
import os from 'node:os';

/** How often memory is looked at, milliseconds. */
const EVERY = 200;

/** The share of the machine's memory, or of what this process may have of it, that jobs may bring it to. */
const SHARE = 0.75;

/** Bytes of memory beyond which jobs are ended. */
function mostBytes(): number {
  const said = Number(process.env.BOUGH_MEMORY_MB);
  if (said > 0) return said * 2 ** 20;
  const constrained = process.constrainedMemory();
  const all = os.totalmem();
  return SHARE * (constrained > 0 ? Math.min(constrained, all) : all);
}

/** Jobs at work, in the order in which they began. */
const atWork = new Set<AbortController>();
let timer: NodeJS.Timeout | undefined;

/** Ends the job that began last: what came with it is likeliest to be what grew, and the least work is lost. */
function look(): void {
  if (process.memoryUsage.rss() <= mostBytes()) return;
  [...atWork]
    .filter((controller) => !controller.signal.aborted)
    .at(-1)
    ?.abort();
}

/** Puts a job under the watch: `signal` is given when memory is short, `release` is called when it is over. */
export function guardMemory(): { readonly signal: AbortSignal; readonly release: () => void } {
  const controller = new AbortController();
  atWork.add(controller);
  timer ??= setInterval(look, EVERY).unref();
  const release = () => {
    atWork.delete(controller);
    if (atWork.size > 0) return;
    clearInterval(timer);
    timer = undefined;
  };
  return { signal: controller.signal, release };
}

/** What is done one after the other: strokes with their samples, and whatever has to come behind them. */

type Work = () => Promise<void>;

const waiting: Work[] = [];
let running: Promise<void> | null = null;

/** Puts work behind all that waits. */
export function inLine(work: Work): void {
  waiting.push(work);
  running ??= run();
}

async function run(): Promise<void> {
  try {
    for (let next = waiting.shift(); next; next = waiting.shift()) await next().catch(() => {});
  } finally {
    running = null;
  }
}

/** Waits until nothing is left of what was put into the line. */
export async function strokesDone(): Promise<void> {
  while (running) await running;
}

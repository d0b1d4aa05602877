/**
 * Which characters a step is at work on, in this process: a page that is opened meanwhile waits for what
 * comes of it.
 */
const slot = Symbol.for('young-bough.working');
const shared = globalThis as { [slot]?: Map<string, number> };

// Every route is a bundle of its own; they share the process.
const counts = (): Map<string, number> => (shared[slot] ??= new Map<string, number>());

/** True while a step is at work on a character. */
export const isWorking = (character: string): boolean => counts().has(character);

/** Tells of the character that a step is at work on it, until the work ends. */
export async function whileWorking<T>(character: string, work: () => Promise<T>): Promise<T> {
  const working = counts();
  working.set(character, (working.get(character) ?? 0) + 1);
  try {
    return await work();
  } finally {
    const left = (working.get(character) ?? 1) - 1;
    if (left > 0) working.set(character, left);
    else working.delete(character);
  }
}

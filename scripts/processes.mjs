/** What is known of other processes on this machine. A number in a file may long belong to somebody else. */
import { readFileSync } from 'node:fs';

const pause = (ms) => new Promise((done) => setTimeout(done, ms));

/**
 * A process by its id: its words, its parent, and whether it still runs (one that has ended and was not taken
 * note of does not). Null where there is none.
 */
export function processOf(pid) {
  if (!Number.isInteger(pid) || pid <= 0) return null;
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    // The name in brackets may hold anything, brackets too.
    const [state, parent] = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
    const words = readFileSync(`/proc/${pid}/cmdline`, 'utf8').split('\0').filter(Boolean);
    return { pid, words, parent: Number(parent), runs: state !== 'Z' && state !== 'X' };
  } catch {
    return null;
  }
}

/** The process of this id, where it runs and one of its words ends like this; null otherwise. */
export function ours(pid, ending) {
  const found = processOf(pid);
  return found?.runs && found.words.some((w) => w.endsWith(ending)) ? found : null;
}

const signal = (pid, name) => {
  try {
    process.kill(pid, name);
  } catch {
    /* it has gone */
  }
};

/** Ends a process that is not a child of this one: asks first, forces it later. True once it is gone. */
export async function endStranger(pid, ask = 'SIGTERM', force = 'SIGKILL', patience = 8000) {
  for (const [name, time] of [
    [ask, patience],
    [force, 3000],
  ]) {
    signal(pid, name);
    for (let waited = 0; waited < time; waited += 50) {
      if (!processOf(pid)?.runs) return true;
      await pause(50);
    }
  }
  return false;
}

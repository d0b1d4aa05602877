/**
 * One of the standing set of bombs, as an import takes it: node dist/bomb.mjs N tells a line of JSON, and another one when it
 * was written and read again; without a number how many there are.
 */
import { readFileSync } from 'node:fs';
import { BRIEFS } from '../core/house/briefs';
import { fromStored } from '../core/character/stored';
import { LIMITS } from '../worker/task';
import { runJob } from '../worker/tasks';
import { BOMBS } from './bombs';
import { brokenLaw } from './law';

/** Seconds of a processor that the thread of this process has had: what others take of the machine does not count. */
function seconds(): number {
  const stat = readFileSync(`/proc/self/task/${process.pid}/stat`, 'utf8');
  const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
  // In hundredths of a second; proc(5) counts these two as fields 14 and 15.
  return (Number(fields[11]) + Number(fields[12])) / 100;
}

/** The most memory that this process has had, MB. */
const most = (): number =>
  Math.round(Number(/VmHWM:\s+(\d+)/.exec(readFileSync('/proc/self/status', 'utf8'))?.[1] ?? 0) / 1024);

async function tryBomb(at: number): Promise<object> {
  const { name, files, must } = BOMBS[at];
  const made = files();
  const bytes = made.reduce((sum, file) => sum + file.bytes.length, 0);
  const before = seconds();
  const [brief, ...briefs] = BRIEFS;
  const answer = runJob<'import'>({
    task: 'import',
    input: { files: made, options: { unitMetres: 1, upAxis: 'y' }, brief, briefs },
  });
  const taken = seconds() - before;
  const memory = most();
  const isRefused = 'refused' in answer;
  const outcome = isRefused ? 'be refused' : 'be read';
  const facts = {
    name,
    bytes,
    seconds: taken,
    memory,
    outcome,
    isWrong: must !== undefined && must !== outcome,
  };
  if (isRefused) return { ...facts, message: answer.refused };
  // Told at once: to write it and to read it again may take longer than anybody waits.
  process.stdout.write(`${JSON.stringify(facts)}\n`);
  const written = seconds();
  const character = fromStored(answer.stored, (hash) => answer.bytes.get(hash));
  const law = await brokenLaw(character, LIMITS);
  return { ...facts, writing: seconds() - written, ...(law !== null && { law }) };
}

const [at] = process.argv.slice(2);
if (at === undefined) process.stdout.write(`${BOMBS.length}\n`);
else process.stdout.write(`${JSON.stringify(await tryBomb(Number(at)))}\n`);

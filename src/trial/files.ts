/**
 * Spoilt files through every reader, and what was read through audits, pictures and writers:
 * node dist/trial.mjs SEED FROM TO FILE… tells a line a file.
 */
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { audit } from '../core/house/audit';
import { BRIEFS } from '../core/house/briefs';
import { readCharacter } from '../core/formats';
import { DEFAULT_LIMITS, ReadError } from '../core/formats/errors';
import { portrait } from '../core/rooms/docket/portrait';
import { brokenLaw } from './law';
import { spoil } from './mutate';

const LIMITS = { ...DEFAULT_LIMITS, bytes: 1 << 28, vertices: 1_000_000 };

async function outcomeOf(seed: number): Promise<string> {
  const file = spoil(files, seed);
  try {
    const character = readCharacter([file], LIMITS, { unitMetres: 1, upAxis: 'y' });
    const broken = audit(character, BRIEFS[0]).find((finding) => finding.measured === 'broke off');
    if (broken) return `crashed in an audit: ${broken.message}`;
    portrait(character, 90, 110);
    const law = await brokenLaw(character, LIMITS);
    return law === null ? 'read' : `unlawful: ${law}`;
  } catch (error) {
    if (error instanceof ReadError) return 'refused';
    return `crashed with ${path.extname(file.name)}: ${error instanceof Error ? error.stack?.split('\n').slice(0, 3).join(' ') : String(error)}`;
  }
}

const [seed, from, to, ...names] = process.argv.slice(2);
/** Only what can be read as it is: what never could be says nothing about what spoils it. */
const files = names
  .map((name) => ({ name: path.basename(name), bytes: new Uint8Array(readFileSync(name)) }))
  .filter((file) => {
    try {
      return readCharacter([file], LIMITS, { unitMetres: 1, upAxis: 'y' });
    } catch {
      return false;
    }
  });
for (let i = Number(from); i < Number(to); i++) {
  process.stdout.write(`begin ${i}\n`);
  const start = performance.now();
  const outcome = await outcomeOf(Number(seed) * 1_000_003 + i);
  process.stdout.write(`end ${i} ${Math.round(performance.now() - start)} ${outcome}\n`);
}

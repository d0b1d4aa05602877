/**
 * What a check says it reads of a character is what it reads: a step that touches nothing of that leaves its
 * answer as it was.
 */
import type { Character } from '@/core/character/model';
import { type Aspect } from '@/core/contracts/aspect';
import { BRIEFS, briefById } from '@/core/house/briefs';
import { CHECKS } from '@/core/house/registry';
import { castCharacter } from './support/cast';
import { figure } from './support/figure';
import { randomCharacter } from './support/random';
import { recorded } from './support/recording';

const characters: readonly Character[] = [
  ...Array.from({ length: 24 }, (_, seed) => randomCharacter(seed)),
  figure({ arms: 40, legs: 10, bend: 30 }),
  castCharacter('capstan.glb'),
  castCharacter('stoker.dae'),
];

it.each(CHECKS.map((check) => [check.id, check] as const))('%s', (_, check) => {
  const seen = new Set<Aspect>();
  // What moves a figure takes seconds, and asks the same under every brief that has limits.
  const [tried, briefs] = check.isInMotion
    ? [characters.slice(-3), BRIEFS.slice(0, 1)]
    : [characters, BRIEFS];
  for (const character of tried)
    for (const brief of briefs) check.run(recorded(character, seen), briefById(brief.id)!);
  if (process.env.SHOW_READS) process.stderr.write(`READS ${check.id} ${JSON.stringify([...seen].sort())}\n`);
  expect([...seen].filter((aspect) => !check.reads.includes(aspect))).toEqual([]);
});

import { readFileSync } from 'node:fs';
import path from 'node:path';
import type { Character } from '@/core/character/model';
import { readCharacter } from '@/core/formats';

export const castBytes = (file: string) =>
  new Uint8Array(readFileSync(path.join(process.env.BOUGH_CAST ?? 'dist/demo', file)));
const known = new Map<string, Character>();

/**
 * A member of the cast; `coarse/…` a Deckhand with a quarter of its points, where it does not matter how many there are. A
 * character is immutable, so that one reading serves every test of a file.
 */
export function castCharacter(file: string): Character {
  let character = known.get(file);
  if (!character) {
    character = readCharacter([{ name: path.basename(file), bytes: castBytes(file) }]);
    known.set(file, character);
  }
  return character;
}

export const handBytes = (side: 'left' | 'right') =>
  new Uint8Array(
    readFileSync(
      path.join(
        path.dirname(require.resolve('@webxr-input-profiles/assets/package.json')),
        `dist/profiles/generic-hand/${side}.glb`,
      ),
    ),
  );
